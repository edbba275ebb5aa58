-- How many of those who are asked have to agree: empty is all of them, majority more than half, one a single one.
ALTER TABLE rounds ADD COLUMN needs TEXT NOT NULL DEFAULT '';

-- An entry of the log says what its edit did, so that no rule has to be asked to read it: format 2.
-- Those of format 1 hold the edit alone.
ALTER TABLE edits ADD COLUMN format INTEGER NOT NULL DEFAULT 1;
ALTER TABLE edits ADD COLUMN author TEXT NOT NULL DEFAULT '';
ALTER TABLE edits ADD COLUMN changes BLOB;
ALTER TABLE aside ADD COLUMN format INTEGER NOT NULL DEFAULT 1;
ALTER TABLE aside ADD COLUMN author TEXT NOT NULL DEFAULT '';
ALTER TABLE aside ADD COLUMN changes BLOB;
ALTER TABLE snapshots ADD COLUMN format INTEGER NOT NULL DEFAULT 1;

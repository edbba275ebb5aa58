-- The revision in which the outcome of a round was written into the heading of its map; the map stands as it was agreed then.
ALTER TABLE rounds ADD COLUMN headed INTEGER NOT NULL DEFAULT 0;

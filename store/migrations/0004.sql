-- Links are found by the hash of their token, which is not kept: what is read out of a database opens no map. Those
-- made before are carried over when the data is opened.
CREATE TABLE shares (
  id TEXT PRIMARY KEY, map TEXT NOT NULL REFERENCES maps(id) ON DELETE CASCADE,
  hash BLOB NOT NULL UNIQUE, begins TEXT NOT NULL, note TEXT NOT NULL DEFAULT '',
  until INTEGER, passcode TEXT NOT NULL DEFAULT '', download INTEGER NOT NULL DEFAULT 0,
  sites TEXT NOT NULL DEFAULT '', embed INTEGER NOT NULL DEFAULT 0,
  created INTEGER NOT NULL, withdrawn INTEGER, used INTEGER, uses INTEGER NOT NULL DEFAULT 0) STRICT;
CREATE INDEX shares_map ON shares (map, created);

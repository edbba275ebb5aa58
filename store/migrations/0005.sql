-- People, what they may do, and where maps stand.
CREATE TABLE people (
  id TEXT PRIMARY KEY, name TEXT NOT NULL, email TEXT NOT NULL, address TEXT NOT NULL UNIQUE,
  role TEXT NOT NULL, password TEXT NOT NULL DEFAULT '', subject TEXT UNIQUE,
  created INTEGER NOT NULL, seen INTEGER, off INTEGER, arrangement TEXT NOT NULL DEFAULT '{}') STRICT;
-- Sessions and tickets are found by the hash of their token, which is not kept.
CREATE TABLE sessions (
  hash BLOB PRIMARY KEY, person TEXT NOT NULL REFERENCES people(id) ON DELETE CASCADE,
  created INTEGER NOT NULL, used INTEGER NOT NULL, about TEXT NOT NULL DEFAULT '') STRICT;
CREATE INDEX sessions_person ON sessions (person);
CREATE TABLE tickets (
  hash BLOB PRIMARY KEY, purpose TEXT NOT NULL, person TEXT NOT NULL REFERENCES people(id) ON DELETE CASCADE,
  until INTEGER NOT NULL) STRICT;
CREATE TABLE audit (
  n INTEGER PRIMARY KEY, at INTEGER NOT NULL, who TEXT NOT NULL, what TEXT NOT NULL, about TEXT NOT NULL, origin TEXT NOT NULL) STRICT;
CREATE TABLE outbox (
  n INTEGER PRIMARY KEY, at INTEGER NOT NULL, receiver TEXT NOT NULL, subject TEXT NOT NULL, plain TEXT NOT NULL, html TEXT NOT NULL) STRICT;

CREATE TABLE folders (
  id TEXT PRIMARY KEY, parent TEXT REFERENCES folders(id), owner TEXT NOT NULL REFERENCES people(id),
  name TEXT NOT NULL, folded TEXT NOT NULL, created INTEGER NOT NULL) STRICT;
-- Two folders in one place have two names; at the top, two of one owner.
CREATE UNIQUE INDEX folders_name ON folders (coalesce(parent, owner), folded);
CREATE TABLE grants (
  folder TEXT REFERENCES folders(id) ON DELETE CASCADE, map TEXT REFERENCES maps(id) ON DELETE CASCADE,
  person TEXT REFERENCES people(id) ON DELETE CASCADE, "right" INTEGER NOT NULL) STRICT;
CREATE UNIQUE INDEX grants_one ON grants (coalesce(folder, ''), coalesce(map, ''), coalesce(person, ''));

ALTER TABLE maps ADD COLUMN owner TEXT REFERENCES people(id);
ALTER TABLE maps ADD COLUMN folder TEXT REFERENCES folders(id) ON DELETE SET NULL;
ALTER TABLE maps ADD COLUMN author TEXT NOT NULL DEFAULT '';
-- What is found in a map, and as of which revision.
ALTER TABLE maps ADD COLUMN indexed INTEGER NOT NULL DEFAULT -1;
ALTER TABLE maps ADD COLUMN number INTEGER;
UPDATE maps SET number = rowid;
CREATE UNIQUE INDEX maps_number ON maps (number);
ALTER TABLE maps ADD COLUMN sheets INTEGER NOT NULL DEFAULT 0;
ALTER TABLE maps ADD COLUMN steps INTEGER NOT NULL DEFAULT 0;
CREATE INDEX maps_folder ON maps (folder);
CREATE INDEX maps_behind ON maps (id) WHERE indexed < revision;
CREATE VIRTUAL TABLE words USING fts5(text, map UNINDEXED, item UNINDEXED, kind UNINDEXED, tokenize = 'unicode61 remove_diacritics 2', prefix = '2 3');
-- What a person has to do with a map.
CREATE TABLE visits (
  person TEXT NOT NULL REFERENCES people(id) ON DELETE CASCADE, map TEXT NOT NULL REFERENCES maps(id) ON DELETE CASCADE,
  opened INTEGER, pinned INTEGER NOT NULL DEFAULT 0, PRIMARY KEY (person, map)) STRICT;
-- Maps that the house begins others from.
CREATE TABLE starts (
  id TEXT PRIMARY KEY, title TEXT NOT NULL, about TEXT NOT NULL, owner TEXT NOT NULL REFERENCES people(id), created INTEGER NOT NULL, document BLOB NOT NULL) STRICT;
-- A state of a map that is kept as it was.
CREATE TABLE versions (
  id TEXT PRIMARY KEY, map TEXT NOT NULL REFERENCES maps(id) ON DELETE CASCADE, revision INTEGER NOT NULL,
  created INTEGER NOT NULL, author TEXT NOT NULL, document BLOB NOT NULL, UNIQUE (map, revision)) STRICT;
ALTER TABLE shares ADD COLUMN purpose TEXT NOT NULL DEFAULT 'read';
ALTER TABLE shares ADD COLUMN addresses TEXT NOT NULL DEFAULT '';
ALTER TABLE shares ADD COLUMN version TEXT REFERENCES versions(id);
ALTER TABLE shares ADD COLUMN author TEXT NOT NULL DEFAULT '';
-- The small picture of a map, compressed, as of a revision.
CREATE TABLE thumbnails (map TEXT PRIMARY KEY REFERENCES maps(id) ON DELETE CASCADE, revision INTEGER NOT NULL, picture BLOB NOT NULL) STRICT;

-- Versions have a number of their own on their map, a name and a word, and what they look like.
ALTER TABLE versions ADD COLUMN number INTEGER NOT NULL DEFAULT 0;
ALTER TABLE versions ADD COLUMN name TEXT NOT NULL DEFAULT '';
ALTER TABLE versions ADD COLUMN word TEXT NOT NULL DEFAULT '';
-- Why it was kept: by hand, for a round, for a link, or before something large.
ALTER TABLE versions ADD COLUMN reason TEXT NOT NULL DEFAULT 'link';
ALTER TABLE versions ADD COLUMN hash TEXT NOT NULL DEFAULT '';
CREATE TABLE version_sheets (
  version TEXT NOT NULL REFERENCES versions(id) ON DELETE CASCADE, place INTEGER NOT NULL, sheet TEXT NOT NULL, name TEXT NOT NULL, picture BLOB NOT NULL,
  PRIMARY KEY (version, place)) STRICT;
CREATE TABLE remarks (
  id TEXT PRIMARY KEY, map TEXT NOT NULL REFERENCES maps(id) ON DELETE CASCADE, thread TEXT REFERENCES remarks(id),
  author TEXT NOT NULL, name TEXT NOT NULL, at INTEGER NOT NULL, changed INTEGER, deleted INTEGER,
  text TEXT NOT NULL, anchor TEXT NOT NULL DEFAULT '{}', proposal TEXT NOT NULL DEFAULT '', answered TEXT NOT NULL DEFAULT '',
  settled INTEGER, settler TEXT NOT NULL DEFAULT '', round TEXT, picture BLOB) STRICT;
CREATE INDEX remarks_map ON remarks (map, at);
CREATE TABLE rounds (
  id TEXT PRIMARY KEY, map TEXT NOT NULL REFERENCES maps(id) ON DELETE CASCADE, number INTEGER NOT NULL, version TEXT NOT NULL REFERENCES versions(id),
  asker TEXT NOT NULL, at INTEGER NOT NULL, until INTEGER, word TEXT NOT NULL, ended INTEGER, outcome TEXT NOT NULL DEFAULT '', UNIQUE (map, number)) STRICT;
CREATE TABLE verdicts (
  round TEXT NOT NULL REFERENCES rounds(id) ON DELETE CASCADE, who TEXT NOT NULL, name TEXT NOT NULL,
  verdict TEXT NOT NULL DEFAULT '', reason TEXT NOT NULL DEFAULT '', at INTEGER, reminded INTEGER, PRIMARY KEY (round, who)) STRICT;
-- Up to when a person has seen the remarks on a map.
ALTER TABLE visits ADD COLUMN seen INTEGER NOT NULL DEFAULT 0;
-- The revision of a map when a person was there before, and when they came last.
ALTER TABLE visits ADD COLUMN since INTEGER;
ALTER TABLE visits ADD COLUMN latest INTEGER;

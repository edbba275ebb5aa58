-- Files kept with maps: each content once, in parts, so that none is ever wholly in memory. One that is still on its way has no id yet.
CREATE TABLE files (
  number INTEGER PRIMARY KEY, id TEXT UNIQUE, type TEXT NOT NULL DEFAULT '', size INTEGER NOT NULL, begun INTEGER NOT NULL,
  upload TEXT UNIQUE, map TEXT, name TEXT NOT NULL DEFAULT '') STRICT;
CREATE TABLE file_parts (
  file INTEGER NOT NULL REFERENCES files(number) ON DELETE CASCADE, at INTEGER NOT NULL, data BLOB NOT NULL, PRIMARY KEY (file, at)) STRICT;
-- With which maps a file is kept, and with which maps to begin others from ("start:" and the id).
CREATE TABLE kept (holder TEXT NOT NULL, file TEXT NOT NULL REFERENCES files(id), PRIMARY KEY (holder, file)) STRICT;
CREATE INDEX kept_file ON kept (file);

-- How a round is held: after how many days those who have not answered are reminded again (none for never), whether an
-- answer stays as it is, whether one signs by giving the password again. What was changed between the version and the end of
-- the round, in sentences; the version with these changes, where they were taken in; and what was said, as it is filed.
ALTER TABLE rounds ADD COLUMN remind INTEGER NOT NULL DEFAULT 0;
ALTER TABLE rounds ADD COLUMN final INTEGER NOT NULL DEFAULT 0;
ALTER TABLE rounds ADD COLUMN signed INTEGER NOT NULL DEFAULT 0;
ALTER TABLE rounds ADD COLUMN since TEXT NOT NULL DEFAULT '[]';
ALTER TABLE rounds ADD COLUMN taken_in TEXT NOT NULL DEFAULT '';
ALTER TABLE rounds ADD COLUMN talk TEXT NOT NULL DEFAULT '';

-- Whose turn it is (those of a later turn are told when the earlier ones have answered), when they were told and looked at it
-- first, the sentence they signed, an address for mail where they are known by name only, and whether they were asked:
-- whoever was not may say a word, which does not count.
ALTER TABLE verdicts ADD COLUMN turn INTEGER NOT NULL DEFAULT 0;
ALTER TABLE verdicts ADD COLUMN told INTEGER;
ALTER TABLE verdicts ADD COLUMN looked INTEGER;
ALTER TABLE verdicts ADD COLUMN signature TEXT NOT NULL DEFAULT '';
ALTER TABLE verdicts ADD COLUMN email TEXT NOT NULL DEFAULT '';
ALTER TABLE verdicts ADD COLUMN asked INTEGER NOT NULL DEFAULT 1;
UPDATE verdicts SET told = (SELECT at FROM rounds WHERE id = round);

-- What happened in a round, each entry with a hash over it and the one before.
CREATE TABLE round_log (
  round TEXT NOT NULL REFERENCES rounds(id) ON DELETE CASCADE, n INTEGER NOT NULL, entry TEXT NOT NULL, hash TEXT NOT NULL,
  PRIMARY KEY (round, n)) STRICT;

-- The life of a map that was agreed: until when it is in force, when it is to be reviewed again, who owns the process (the id
-- of a person, or "name:" and what they are called), and when and why it was withdrawn.
CREATE TABLE lives (
  map TEXT PRIMARY KEY REFERENCES maps(id) ON DELETE CASCADE, until INTEGER, due INTEGER, owner TEXT NOT NULL DEFAULT '',
  withdrawn INTEGER, why TEXT NOT NULL DEFAULT '') STRICT;

-- Groups of people of the house, to be asked together.
CREATE TABLE groups (id TEXT PRIMARY KEY, name TEXT NOT NULL, folded TEXT NOT NULL UNIQUE) STRICT;
CREATE TABLE group_people (
  "group" TEXT NOT NULL REFERENCES groups(id) ON DELETE CASCADE, person TEXT NOT NULL REFERENCES people(id) ON DELETE CASCADE,
  PRIMARY KEY ("group", person)) STRICT;

-- Whether readers by a link see what changed since they looked last.
ALTER TABLE shares ADD COLUMN tells_changes INTEGER NOT NULL DEFAULT 0;

-- A picture that goes with a message, as PNG.
ALTER TABLE outbox ADD COLUMN picture BLOB;

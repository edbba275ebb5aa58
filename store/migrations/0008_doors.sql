-- Tries that count against an account, a link or an address, by the hash of what they count against, so that they survive a restart.
CREATE TABLE tries (what BLOB PRIMARY KEY, failures INTEGER NOT NULL, next INTEGER NOT NULL, last INTEGER NOT NULL) STRICT;

-- A message is kept until it is sent or given up. What it says of several things comes as items; it is written anew when
-- another is added. Due is when it is to be tried next: nothing where it has been sent or given up. After until it is of no use.
ALTER TABLE outbox ADD COLUMN kind TEXT NOT NULL DEFAULT '';
ALTER TABLE outbox ADD COLUMN about TEXT NOT NULL DEFAULT '';
ALTER TABLE outbox ADD COLUMN items TEXT NOT NULL DEFAULT '[]';
ALTER TABLE outbox ADD COLUMN due INTEGER;
ALTER TABLE outbox ADD COLUMN until INTEGER NOT NULL DEFAULT 0;
ALTER TABLE outbox ADD COLUMN tries INTEGER NOT NULL DEFAULT 0;
ALTER TABLE outbox ADD COLUMN sent INTEGER;
ALTER TABLE outbox ADD COLUMN failed TEXT NOT NULL DEFAULT '';
UPDATE outbox SET until = at + 14 * 86400000;
CREATE INDEX outbox_due ON outbox (due) WHERE due IS NOT NULL;
CREATE INDEX outbox_about ON outbox (receiver, about);

-- Which visitor by a link said something: their browser shows it by a signed cookie.
ALTER TABLE remarks ADD COLUMN visitor TEXT NOT NULL DEFAULT '';
ALTER TABLE verdicts ADD COLUMN visitor TEXT NOT NULL DEFAULT '';
CREATE INDEX remarks_thread ON remarks (thread, at);

-- A second factor by codes of a time (RFC 6238): its secret, the last step whose code was used, and hashes of the words that
-- stand in for it once each.
ALTER TABLE people ADD COLUMN factor TEXT NOT NULL DEFAULT '';
ALTER TABLE people ADD COLUMN factor_step INTEGER NOT NULL DEFAULT 0;
ALTER TABLE people ADD COLUMN spares TEXT NOT NULL DEFAULT '';

-- The index of words is merged in small steps; a large one all at once would hold up who edits (sqlite.org/fts5.html, 6.1).
INSERT INTO words (words, rank) VALUES ('automerge', 2);
INSERT INTO words (words, rank) VALUES ('crisismerge', 200);

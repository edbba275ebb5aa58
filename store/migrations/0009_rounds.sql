-- How many remarks of a round were open when it ended; nothing while it runs, and for rounds that ended before this was kept.
ALTER TABLE rounds ADD COLUMN open INTEGER;

-- The link of somebody who was asked by name alone: it leads to the version that was asked about, and answers under that name.
ALTER TABLE verdicts ADD COLUMN link TEXT NOT NULL DEFAULT '';

CREATE INDEX remarks_round ON remarks (round) WHERE round IS NOT NULL;
CREATE INDEX verdicts_who ON verdicts (who) WHERE verdict = '';

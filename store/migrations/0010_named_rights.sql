-- Rights are kept by their names: a number would mean another right once one is put between others. What is no right lets
-- nobody in, as None does.
CREATE TABLE named_grants (
  folder TEXT REFERENCES folders(id) ON DELETE CASCADE, map TEXT REFERENCES maps(id) ON DELETE CASCADE,
  person TEXT REFERENCES people(id) ON DELETE CASCADE, "right" TEXT NOT NULL) STRICT;
INSERT INTO named_grants SELECT folder, map, person,
  CASE "right" WHEN 1 THEN 'read' WHEN 2 THEN 'remark' WHEN 3 THEN 'edit' WHEN 4 THEN 'manage' ELSE 'none' END FROM grants;
DROP TABLE grants;
ALTER TABLE named_grants RENAME TO grants;
CREATE UNIQUE INDEX grants_one ON grants (coalesce(folder, ''), coalesce(map, ''), coalesce(person, ''));

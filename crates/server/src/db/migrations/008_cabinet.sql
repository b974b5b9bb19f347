-- What is noted of a recipe, whichever version: a favourite, taken out of the cabinet, how often it was laid.
CREATE TABLE recipe_marks (
    recipe_id TEXT PRIMARY KEY,
    favourite INTEGER NOT NULL DEFAULT 0,
    removed INTEGER NOT NULL DEFAULT 0,
    laid INTEGER NOT NULL DEFAULT 0
);
INSERT INTO recipe_marks (recipe_id) SELECT DISTINCT recipe_id FROM cabinet;
-- A hash of what a recipe does; what was there before has none, and is taken for the same as nothing.
ALTER TABLE cabinet ADD COLUMN content TEXT NOT NULL DEFAULT '';
CREATE INDEX cabinet_contents ON cabinet (content);
-- When things were kept, in seconds since 1970; what was there before counts from now on.
ALTER TABLE cabinet ADD COLUMN made INTEGER NOT NULL DEFAULT 0;
UPDATE cabinet SET made = unixepoch();
ALTER TABLE lines ADD COLUMN favourite INTEGER NOT NULL DEFAULT 0;
ALTER TABLE lines ADD COLUMN laid INTEGER NOT NULL DEFAULT 0;
ALTER TABLE lines ADD COLUMN made INTEGER NOT NULL DEFAULT 0;
UPDATE lines SET made = unixepoch();

-- Recipes have versions: rows of one recipe share its id, which goes with it wherever it is opened.
ALTER TABLE cabinet ADD COLUMN recipe_id TEXT NOT NULL DEFAULT '';
ALTER TABLE cabinet ADD COLUMN version INTEGER NOT NULL DEFAULT 1;
UPDATE cabinet SET recipe_id = lower(hex(randomblob(8)));
CREATE UNIQUE INDEX cabinet_versions ON cabinet (recipe_id, version);

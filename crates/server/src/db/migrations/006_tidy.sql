-- Revisions hold differences: a document that is a text stands by itself, as all did before; see db/delta.rs for those that are bytes. What the front door lists is kept beside.
ALTER TABLE revisions ADD COLUMN name TEXT;
UPDATE revisions SET name = json_extract(document, '$.name');
-- How many differences lie between a revision and the last one that stands by itself.
ALTER TABLE revisions ADD COLUMN depth INTEGER NOT NULL DEFAULT 0;
-- When things were made or last used, in seconds since 1970: what is older may be tidied away once nothing can lead back to it. What was there before counts from now on.
ALTER TABLE revisions ADD COLUMN made INTEGER NOT NULL DEFAULT 0;
UPDATE revisions SET made = unixepoch();
ALTER TABLE assets ADD COLUMN made INTEGER NOT NULL DEFAULT 0;
UPDATE assets SET made = unixepoch();
ALTER TABLE projects ADD COLUMN removed_at INTEGER;
UPDATE projects SET removed_at = unixepoch() WHERE removed;
-- One value of SQLite holds at most a gigabyte: measurements are cut into pieces. They are a cache, and begin anew.
DROP TABLE readings;
CREATE TABLE readings (
    hash TEXT PRIMARY KEY,
    seconds REAL NOT NULL,
    pieces INTEGER NOT NULL,
    used INTEGER NOT NULL
);
CREATE TABLE reading_pieces (
    hash TEXT NOT NULL REFERENCES readings (hash) ON DELETE CASCADE,
    piece INTEGER NOT NULL,
    bytes BLOB NOT NULL,
    PRIMARY KEY (hash, piece)
);

-- States of a project that are kept by name, to compare with or go back to.
CREATE TABLE snapshots (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    project INTEGER NOT NULL REFERENCES projects(id),
    revision INTEGER NOT NULL REFERENCES revisions(id),
    name TEXT NOT NULL,
    removed INTEGER NOT NULL DEFAULT 0
);

-- Projects and their revisions. Revisions form a tree by `parent`; `head` is the one in force, so undo and redo only move it.
CREATE TABLE assets (
    hash TEXT PRIMARY KEY,
    bytes BLOB NOT NULL
);
CREATE TABLE projects (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    head INTEGER NOT NULL,
    mesh_hash TEXT NOT NULL REFERENCES assets (hash),
    mesh_file TEXT NOT NULL,
    mesh_unit TEXT,
    picture BLOB,
    picture_of INTEGER,
    removed INTEGER NOT NULL DEFAULT 0,
    changed TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now'))
);
CREATE TABLE revisions (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    project INTEGER NOT NULL REFERENCES projects (id) ON DELETE CASCADE,
    parent INTEGER REFERENCES revisions (id),
    label TEXT NOT NULL,
    document TEXT NOT NULL
);
CREATE INDEX revisions_of ON revisions (project, parent);
-- A cache: may be emptied at any time.
CREATE TABLE readings (
    hash TEXT PRIMARY KEY,
    seconds REAL NOT NULL,
    bytes BLOB NOT NULL
);
CREATE TABLE cabinet (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    name TEXT NOT NULL,
    recipe TEXT NOT NULL
);

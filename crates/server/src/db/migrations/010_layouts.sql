-- Layouts of a hand-off that are kept for any project, as JSON.
CREATE TABLE layouts (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL UNIQUE,
    layout TEXT NOT NULL,
    made INTEGER NOT NULL
);

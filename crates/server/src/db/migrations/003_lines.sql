-- Mask lines that were saved as starters.
CREATE TABLE lines (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    name TEXT NOT NULL,
    note TEXT NOT NULL,
    steps TEXT NOT NULL,
    removed INTEGER NOT NULL DEFAULT 0
);

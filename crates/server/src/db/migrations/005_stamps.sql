-- How often a project was changed, undo, redo and snapshots included: what a window shows is older than what another one did when its stamp is lower.
ALTER TABLE projects ADD COLUMN stamp INTEGER NOT NULL DEFAULT 0;

-- What the piece is made of is part of the document from now on, so that swapping the mesh can be undone. The columns of projects keep what each was started
-- on; they are not read any more.
UPDATE revisions SET document = json_set(
    document,
    '$.intake', (
        SELECT json_object('mesh', json_object('file', p.mesh_file, 'hash', p.mesh_hash, 'unit', p.mesh_unit))
        FROM projects p WHERE p.id = revisions.project
    )
) WHERE json_extract(document, '$.intake') IS NULL;
-- The last measurement of each kind in each project: from it the page tells what is stale, and how long the next will take.
CREATE TABLE measured (
    project INTEGER NOT NULL REFERENCES projects (id) ON DELETE CASCADE,
    kind TEXT NOT NULL,
    piece TEXT NOT NULL,
    size INTEGER NOT NULL,
    settings TEXT NOT NULL,
    seconds REAL NOT NULL,
    work REAL NOT NULL,
    PRIMARY KEY (project, kind)
);
-- Readings of dustcoat/1 are kept under other names than measurements.
DELETE FROM readings;

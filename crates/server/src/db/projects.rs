//! Projects and their revisions.

use std::collections::BTreeMap;

use dustcoat_core::document::{self, Document};
use rusqlite::{Connection, OptionalExtension, params};

use super::{Db, DbError, assets};

/// A project at its revision in force.
#[derive(Debug, Clone)]
pub struct ProjectRow {
    /// Id.
    pub id: i64,
    /// Revision in force.
    pub revision: i64,
    /// How often it was changed so far, undo, redo and snapshots included.
    pub stamp: i64,
    /// Document in force.
    pub document: Document,
    /// What undo would take back.
    pub undo: Option<String>,
    /// What redo would bring again.
    pub redo: Option<String>,
}

/// A project as the front door lists it.
#[derive(Debug, Clone)]
pub struct Summary {
    /// Id.
    pub id: i64,
    /// Revision in force.
    pub revision: i64,
    /// Name.
    pub name: String,
    /// When it was last changed, ISO 8601.
    pub changed: String,
}

pub(super) fn head(c: &Connection, project: i64) -> Result<i64, DbError> {
    let found = c.query_row("SELECT head FROM projects WHERE id = ? AND NOT removed", [project], |r| r.get(0));
    found.optional()?.ok_or(DbError::NotFound("project"))
}

impl Db {
    pub(super) fn read(&self, c: &Connection, project: i64) -> Result<ProjectRow, DbError> {
        let sql = "SELECT p.head, p.stamp, r.label, r.parent IS NOT NULL
                   FROM projects p JOIN revisions r ON r.id = p.head WHERE p.id = ? AND NOT p.removed";
        type Row = (i64, i64, String, bool);
        let row: Option<Row> =
            c.query_row(sql, [project], |r| Ok((r.get(0)?, r.get(1)?, r.get(2)?, r.get(3)?))).optional()?;
        let (revision, stamp, label, has_parent) = row.ok_or(DbError::NotFound("project"))?;
        let redo = c
            .query_row("SELECT label FROM revisions WHERE parent = ? ORDER BY id DESC LIMIT 1", [revision], |r| {
                r.get(0)
            })
            .optional()?;
        let document = self.held().document(c, revision)?;
        Ok(ProjectRow { id: project, revision, stamp, document, undo: has_parent.then_some(label), redo })
    }
}

/// Refuses what was asked on a revision that is not in force any more.
pub(super) fn in_force(c: &Connection, project: i64, on: i64) -> Result<(), DbError> {
    let current = head(c, project)?;
    if current == on { Ok(()) } else { Err(DbError::Stale { current }) }
}

pub(super) fn move_head(c: &Connection, project: i64, to: i64) -> Result<(), DbError> {
    c.execute(
        "UPDATE projects SET head = ?, stamp = stamp + 1, changed = strftime('%Y-%m-%dT%H:%M:%fZ', 'now') WHERE id = ?",
        params![to, project],
    )?;
    Ok(())
}

impl Db {
    /// Makes a project of a first document and the files that its intake names, by blake3.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn create_project(&self, document: &Document, files: &BTreeMap<String, Vec<u8>>) -> Result<i64, DbError> {
        let mut c = self.lock();
        let t = c.transaction()?;
        let drawn = document::points_files(document);
        let brought = files.iter().map(|(hash, bytes)| (hash.as_str(), bytes));
        for (hash, bytes) in brought.chain(drawn.iter().map(|(hash, bytes)| (*hash, bytes))) {
            assets::keep_as(&t, hash, bytes)?;
        }
        let mesh = &document.intake.mesh;
        t.execute("INSERT INTO projects (head, mesh_hash, mesh_file) VALUES (0, ?, ?)", params![mesh.hash, mesh.file])?;
        let project = t.last_insert_rowid();
        let (first, _) = self.held().keep(&t, project, None, "start", document)?;
        move_head(&t, project, first)?;
        t.commit()?;
        Ok(project)
    }

    /// All projects, newest first.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn projects(&self) -> Result<Vec<Summary>, DbError> {
        let c = self.lock();
        let mut s = c.prepare(
            "SELECT p.id, p.head, r.name, p.changed
             FROM projects p JOIN revisions r ON r.id = p.head WHERE NOT p.removed ORDER BY p.changed DESC, p.id DESC",
        )?;
        let rows = s.query_map([], |r| {
            Ok(Summary { id: r.get(0)?, revision: r.get(1)?, name: r.get(2)?, changed: r.get(3)? })
        })?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// One project.
    ///
    /// # Errors
    /// [`DbError::NotFound`]
    pub fn project(&self, id: i64) -> Result<ProjectRow, DbError> {
        self.read(&self.lock(), id)
    }

    /// Keeps a new revision made on `on`.
    ///
    /// # Errors
    /// [`DbError::Stale`] when `on` is not in force any more; nothing is written then.
    pub fn revise(&self, project: i64, on: i64, label: &str, document: &Document) -> Result<ProjectRow, DbError> {
        let mut c = self.lock();
        let t = c.transaction()?;
        in_force(&t, project, on)?;
        let (next, text) = self.held().keep(&t, project, Some(on), label, document)?;
        move_head(&t, project, next)?;
        t.commit()?;
        self.held().put(next, text, document);
        self.read(&c, project)
    }

    /// Goes back to the revision before, or forward to the one that was undone last. `on` must be in force.
    ///
    /// # Errors
    /// [`DbError::Stale`], [`DbError::NothingTo`]
    pub fn step(&self, project: i64, on: i64, back: bool) -> Result<ProjectRow, DbError> {
        let mut c = self.lock();
        let t = c.transaction()?;
        in_force(&t, project, on)?;
        let sql = if back {
            "SELECT parent FROM revisions WHERE id = ? AND parent IS NOT NULL"
        } else {
            "SELECT id FROM revisions WHERE parent = ? ORDER BY id DESC LIMIT 1"
        };
        let to: Option<i64> = t.query_row(sql, [on], |r| r.get(0)).optional()?;
        move_head(&t, project, to.ok_or(DbError::NothingTo(if back { "undo" } else { "redo" }))?)?;
        t.commit()?;
        self.read(&c, project)
    }

    /// Takes a project off the front door, or brings it back. Nothing is deleted.
    ///
    /// # Errors
    /// [`DbError::NotFound`]
    pub fn remove_project(&self, id: i64, removed: bool) -> Result<(), DbError> {
        let n = self
            .lock()
            .execute("UPDATE projects SET removed = ?, removed_at = unixepoch() WHERE id = ?", params![removed, id])?;
        if n == 0 { Err(DbError::NotFound("project")) } else { Ok(()) }
    }

    /// Keeps the front door's picture of a revision.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn set_picture(&self, project: i64, revision: i64, png: &[u8]) -> Result<(), DbError> {
        let sql = "UPDATE projects SET picture = ?, picture_of = ? WHERE id = ?";
        self.lock().execute(sql, params![png, revision, project])?;
        Ok(())
    }

    /// The front door's picture, if one was kept, and the revision that it shows.
    ///
    /// # Errors
    /// [`DbError::NotFound`]
    pub fn picture(&self, project: i64) -> Result<Option<(Vec<u8>, i64)>, DbError> {
        let c = self.lock();
        let sql = "SELECT picture, picture_of FROM projects WHERE id = ?";
        let row: Option<(Option<Vec<u8>>, Option<i64>)> =
            c.query_row(sql, [project], |r| Ok((r.get(0)?, r.get(1)?))).optional()?;
        let (png, of) = row.ok_or(DbError::NotFound("project"))?;
        Ok(png.zip(of))
    }
}

//! Snapshots: revisions that are kept by name.

use dustcoat_core::document::Document;
use rusqlite::{Connection, OptionalExtension, params};

use super::{Db, DbError};

/// A snapshot of a project.
#[derive(Debug, Clone)]
pub struct SnapshotRow {
    /// Id.
    pub id: i64,
    /// Its name.
    pub name: String,
}

/// A change that is no revision.
fn stamp(c: &Connection, project: i64) -> Result<(), DbError> {
    c.execute("UPDATE projects SET stamp = stamp + 1 WHERE id = ?", [project])?;
    Ok(())
}

impl Db {
    /// A project's snapshots, oldest first.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn snapshots(&self, project: i64) -> Result<Vec<SnapshotRow>, DbError> {
        let c = self.lock();
        let mut s = c.prepare("SELECT id, name FROM snapshots WHERE project = ? AND NOT removed ORDER BY id")?;
        let rows = s.query_map([project], |r| Ok(SnapshotRow { id: r.get(0)?, name: r.get(1)? }))?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// Keeps the project as it stands under a name.
    ///
    /// # Errors
    /// [`DbError::NotFound`]
    pub fn keep_snapshot(&self, project: i64, name: &str) -> Result<(), DbError> {
        let sql = "INSERT INTO snapshots (project, revision, name)
                   SELECT id, head, ? FROM projects WHERE id = ? AND NOT removed";
        let mut c = self.lock();
        let t = c.transaction()?;
        let n = t.execute(sql, params![name, project])?;
        stamp(&t, project)?;
        t.commit()?;
        if n == 1 { Ok(()) } else { Err(DbError::NotFound("project")) }
    }

    /// Takes a snapshot off the list, or puts it back. Nothing is deleted.
    ///
    /// # Errors
    /// [`DbError::NotFound`]
    pub fn set_snapshot_removed(&self, project: i64, id: i64, removed: bool) -> Result<(), DbError> {
        let sql = "UPDATE snapshots SET removed = ? WHERE id = ? AND project = ?";
        let mut c = self.lock();
        let t = c.transaction()?;
        let n = t.execute(sql, params![removed, id, project])?;
        stamp(&t, project)?;
        t.commit()?;
        if n == 1 { Ok(()) } else { Err(DbError::NotFound("snapshot")) }
    }

    /// A snapshot's name and document.
    ///
    /// # Errors
    /// [`DbError::NotFound`]
    pub fn snapshot(&self, project: i64, id: i64) -> Result<(String, Document), DbError> {
        let sql = "SELECT name, revision FROM snapshots s WHERE s.id = ? AND s.project = ? AND NOT s.removed";
        let c = self.lock();
        let row: Option<(String, i64)> =
            c.query_row(sql, params![id, project], |r| Ok((r.get(0)?, r.get(1)?))).optional()?;
        let (name, revision) = row.ok_or(DbError::NotFound("snapshot"))?;
        let document = self.held().document(&c, revision)?;
        Ok((name, document))
    }
}

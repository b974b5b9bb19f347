//! What was done in a project, step by step, and going to any of the steps.

use rusqlite::{Connection, OptionalExtension, params};

use super::projects::{head, in_force, move_head};
use super::{Db, DbError, ProjectRow};

/// A state of a project, named after what led to it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Done {
    /// Its revision.
    pub revision: i64,
    /// What was done.
    pub label: String,
    /// When, in seconds since 1970.
    pub made: i64,
}

/// The states that undo and redo lead to from the one in force.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct History {
    /// What redo brings again, the next one first.
    pub ahead: Vec<Done>,
    /// The one in force, then what undo leads back to, the nearest first.
    pub behind: Vec<Done>,
}

fn states(c: &Connection, sql: &str, from: i64, most: i64) -> Result<Vec<Done>, DbError> {
    let mut s = c.prepare(sql)?;
    let rows =
        s.query_map(params![from, most], |r| Ok(Done { revision: r.get(0)?, label: r.get(1)?, made: r.get(2)? }))?;
    Ok(rows.collect::<Result<_, _>>()?)
}

const BEHIND: &str = "WITH RECURSIVE way(id, n) AS (
    SELECT ?1, 1 UNION ALL
    SELECT r.parent, n + 1 FROM way JOIN revisions r ON r.id = way.id WHERE r.parent IS NOT NULL AND n < ?2)
  SELECT r.id, r.label, r.made FROM way JOIN revisions r ON r.id = way.id ORDER BY n";

/// As redo goes: of several that were made on one, the one that was made last.
const AHEAD: &str = "WITH RECURSIVE way(id, n) AS (
    SELECT (SELECT max(id) FROM revisions WHERE project = (SELECT project FROM revisions WHERE id = ?1) AND parent = ?1), 1 UNION ALL
    SELECT (SELECT max(id) FROM revisions WHERE project = r.project AND parent = r.id), n + 1
      FROM way JOIN revisions r ON r.id = way.id WHERE n < ?2)
  SELECT r.id, r.label, r.made FROM way JOIN revisions r ON r.id = way.id ORDER BY n";

impl Db {
    /// The states that undo and redo lead to, at most so many either way.
    ///
    /// # Errors
    /// [`DbError::NotFound`]
    pub fn history(&self, project: i64, most: u32) -> Result<History, DbError> {
        let c = self.lock();
        let head = head(&c, project)?;
        Ok(History { ahead: states(&c, AHEAD, head, most.into())?, behind: states(&c, BEHIND, head, most.into())? })
    }

    /// Goes to a state that was there, as undo and redo would step by step. `on` must be in force.
    ///
    /// # Errors
    /// [`DbError::Stale`], [`DbError::NotFound`]
    pub fn go_to(&self, project: i64, on: i64, to: i64) -> Result<ProjectRow, DbError> {
        let mut c = self.lock();
        let t = c.transaction()?;
        in_force(&t, project, on)?;
        let sql = "SELECT id FROM revisions WHERE id = ? AND project = ?";
        let there: Option<i64> = t.query_row(sql, [to, project], |r| r.get(0)).optional()?;
        move_head(&t, project, there.ok_or(DbError::NotFound("state"))?)?;
        t.commit()?;
        self.read(&c, project)
    }

    /// The document of a state of a project.
    ///
    /// # Errors
    /// [`DbError::NotFound`]
    pub fn document_at(&self, project: i64, revision: i64) -> Result<dustcoat_core::document::Document, DbError> {
        let c = self.lock();
        let sql = "SELECT id FROM revisions WHERE id = ? AND project = ?";
        let there: Option<i64> = c.query_row(sql, [revision, project], |r| r.get(0)).optional()?;
        self.held().document(&c, there.ok_or(DbError::NotFound("state"))?)
    }
}

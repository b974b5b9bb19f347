//! Tidying: what nothing can lead back to any more goes.
//!
//! Of a project's revisions those stay that are in force, a snapshot, younger than what is to be kept, or what such a young one was made on. Files stay that a revision that stays names,
//! or that are young; measurements that were used lately; projects that were taken off the front door lately.

use std::collections::{BTreeMap, BTreeSet};

use rusqlite::{Connection, params};

use super::revisions::Walk;
use super::{Db, DbError, delta};

/// Revisions that are read in one go; edits may come in between.
const AT_A_TIME: i64 = 64;

/// What was, or would be, tidied away.
#[derive(Debug, Clone, Default, PartialEq, Eq, serde::Serialize)]
pub struct Tidied {
    /// Projects that were taken off the front door.
    pub projects: i64,
    /// Revisions.
    pub revisions: i64,
    /// Mesh files and pictures.
    pub files: i64,
    /// Measurements.
    pub measurements: i64,
    /// Bytes that become free.
    pub bytes: i64,
}

impl Db {
    /// Tidies away what was not made or used in the last `keep` seconds and nothing leads back to; with `really` off only says what that would be.
    ///
    /// # Errors
    /// [`DbError`]; nothing is changed then.
    pub fn tidy(&self, keep: i64, really: bool) -> Result<Tidied, DbError> {
        let now: i64 = self.lock().query_row("SELECT unixepoch()", [], |r| r.get(0))?;
        let before = now.saturating_sub(keep);
        let mut named = Named::new(&self.lock(), before)?;
        while named.look_on(&self.lock())? {}
        let mut c = self.lock();
        let t = c.transaction()?;
        t.pragma_update(None, "defer_foreign_keys", "ON")?;
        let mut out = Tidied::default();
        removed_projects(&t, before, &mut out)?;
        for project in numbers(&t, "SELECT id FROM projects")? {
            self.revisions(&t, project, before, &mut out)?;
        }
        // What was edited meanwhile.
        while named.look_on(&t)? {}
        named.remove_others(&t, &mut out)?;
        let gone = "FROM readings WHERE used < ?";
        out.measurements += count(&t, &format!("SELECT count(*) {gone}"), before)?;
        let pieces = "FROM reading_pieces WHERE hash IN (SELECT hash FROM readings WHERE used < ?)";
        out.bytes += count(&t, &format!("SELECT coalesce(sum(length(bytes)), 0) {pieces}"), before)?;
        t.execute(&format!("DELETE {pieces}"), [before])?;
        t.execute(&format!("DELETE {gone}"), [before])?;
        if really {
            t.commit()?;
            self.held().clear();
        }
        Ok(out)
    }

    /// Gives what is free in the file back to the disk.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn shrink(&self) -> Result<(), DbError> {
        Ok(self.lock().execute_batch("VACUUM; PRAGMA wal_checkpoint(TRUNCATE);")?)
    }

    fn revisions(&self, t: &Connection, project: i64, before: i64, out: &mut Tidied) -> Result<(), DbError> {
        let mut all: BTreeMap<i64, (Option<i64>, i64)> = BTreeMap::new();
        let mut s = t.prepare("SELECT id, parent, made FROM revisions WHERE project = ?")?;
        let mut rows = s.query([project])?;
        while let Some(r) = rows.next()? {
            all.insert(r.get(0)?, (r.get(1)?, r.get(2)?));
        }
        let mut stay: BTreeSet<i64> =
            numbers(t, &format!("SELECT head FROM projects WHERE id = {project} UNION SELECT revision FROM snapshots WHERE project = {project}"))?
                .into_iter()
                .collect();
        for (id, (parent, _)) in all.iter().filter(|(_, (_, made))| *made >= before) {
            stay.insert(*id);
            stay.extend(parent);
        }
        for id in &stay {
            let Some((Some(parent), _)) = all.get(id) else { continue };
            if !stay.contains(parent) {
                // The first of those that stay stands by itself.
                let text = self.held().text(t, *id)?;
                let sql = "UPDATE revisions SET document = ?, depth = 0, parent = NULL WHERE id = ?";
                t.execute(sql, params![delta::whole(&text), id])?;
            }
        }
        for id in all.keys().filter(|id| !stay.contains(id)) {
            out.revisions += 1;
            out.bytes += count(t, "SELECT length(document) FROM revisions WHERE id = ?", *id)?;
            t.execute("DELETE FROM revisions WHERE id = ?", [id])?;
        }
        Ok(())
    }
}

/// Files that are old enough to go, and which revisions name them.
struct Named {
    /// Bytes of each, and the revisions.
    files: BTreeMap<String, (i64, Vec<i64>)>,
    walk: Walk,
    before: i64,
    /// The last revision that was looked at.
    last: i64,
}

impl Named {
    fn new(c: &Connection, before: i64) -> Result<Self, DbError> {
        let mut s = c.prepare("SELECT hash, length(bytes) FROM assets WHERE made < ?")?;
        let old = s.query_map([before], |r| Ok((r.get(0)?, (r.get(1)?, vec![]))))?;
        Ok(Self { files: old.collect::<Result<_, _>>()?, walk: Walk::new(), before, last: i64::MIN })
    }

    /// Looks at some more revisions, in the order in which they were made; whether there may be others.
    fn look_on(&mut self, c: &Connection) -> Result<bool, DbError> {
        if self.files.is_empty() {
            return Ok(false);
        }
        let next =
            numbers(c, &format!("SELECT id FROM revisions WHERE id > {} ORDER BY id LIMIT {AT_A_TIME}", self.last))?;
        for id in &next {
            for hash in hashes(self.walk.text(c, *id)?).collect::<BTreeSet<_>>() {
                if let Some((_, by)) = self.files.get_mut(&hash) {
                    by.push(*id);
                }
            }
            self.last = *id;
        }
        Ok(!next.is_empty())
    }

    /// Removes those that no revision that is left names, nor a project, a recipe or a mask line of the cabinet.
    fn remove_others(mut self, t: &Connection, out: &mut Tidied) -> Result<(), DbError> {
        let mut s =
            t.prepare("SELECT mesh_hash FROM projects UNION SELECT recipe FROM cabinet UNION SELECT steps FROM lines")?;
        for text in s.query_map([], |r| r.get::<_, String>(0))? {
            for hash in hashes(&text?) {
                self.files.remove(&hash);
            }
        }
        let left: BTreeSet<i64> = numbers(t, "SELECT id FROM revisions")?.into_iter().collect();
        for (hash, (bytes, _)) in self.files.iter().filter(|(_, (_, by))| !by.iter().any(|id| left.contains(id))) {
            // It may have been brought in again meanwhile.
            let gone = t.execute("DELETE FROM assets WHERE hash = ? AND made < ?", params![hash, self.before])? as i64;
            out.files += gone;
            out.bytes += gone * bytes;
        }
        Ok(())
    }
}

fn removed_projects(t: &Connection, before: i64, out: &mut Tidied) -> Result<(), DbError> {
    for id in numbers(t, &format!("SELECT id FROM projects WHERE removed AND removed_at < {before}"))? {
        out.projects += 1;
        out.revisions += count(t, "SELECT count(*) FROM revisions WHERE project = ?", id)?;
        out.bytes += count(t, "SELECT coalesce(sum(length(document)), 0) FROM revisions WHERE project = ?", id)?;
        for table in ["snapshots", "measured", "revisions"] {
            t.execute(&format!("DELETE FROM {table} WHERE project = ?"), [id])?;
        }
        t.execute("DELETE FROM projects WHERE id = ?", [id])?;
    }
    Ok(())
}

fn numbers(t: &Connection, sql: &str) -> Result<Vec<i64>, DbError> {
    Ok(t.prepare(sql)?.query_map([], |r| r.get(0))?.collect::<Result<_, _>>()?)
}

fn count(t: &Connection, sql: &str, of: i64) -> Result<i64, DbError> {
    Ok(t.query_row(sql, [of], |r| r.get(0))?)
}

/// All blake3 hashes, hex, that a text names.
fn hashes(text: &str) -> impl Iterator<Item = String> + '_ {
    text.split(|c: char| !c.is_ascii_hexdigit()).filter(|word| word.len() == 64).map(str::to_owned)
}

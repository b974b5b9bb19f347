//! Tidying: what nothing can lead back to any more goes.
//!
//! Of a project's revisions those stay that are in force, a snapshot, younger than what is to be kept, or what such a young one was made on. Files stay that a revision that stays names,
//! or that are young; measurements that were used lately; projects that were taken off the front door lately.

use std::collections::{BTreeMap, BTreeSet};

use rusqlite::{Connection, params};

use super::{Db, DbError, delta};

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
        let mut c = self.lock();
        let now: i64 = c.query_row("SELECT unixepoch()", [], |r| r.get(0))?;
        let before = now.saturating_sub(keep);
        let t = c.transaction()?;
        t.pragma_update(None, "defer_foreign_keys", "ON")?;
        let mut out = Tidied::default();
        removed_projects(&t, before, &mut out)?;
        for project in numbers(&t, "SELECT id FROM projects")? {
            self.revisions(&t, project, before, &mut out)?;
        }
        self.files(&t, before, &mut out)?;
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

    fn files(&self, t: &Connection, before: i64, out: &mut Tidied) -> Result<(), DbError> {
        let mut named: BTreeSet<String> = BTreeSet::new();
        let mut s =
            t.prepare("SELECT mesh_hash FROM projects UNION SELECT recipe FROM cabinet UNION SELECT steps FROM lines")?;
        let texts = s.query_map([], |r| r.get::<_, String>(0))?;
        for text in texts {
            named.extend(hashes(&text?));
        }
        for id in numbers(t, "SELECT id FROM revisions")? {
            named.extend(hashes(&self.held().text(t, id)?));
        }
        let mut s = t.prepare("SELECT hash, length(bytes) FROM assets WHERE made < ?")?;
        let all: Vec<(String, i64)> =
            s.query_map([before], |r| Ok((r.get(0)?, r.get(1)?)))?.collect::<Result<_, _>>()?;
        for (hash, bytes) in all.into_iter().filter(|(hash, _)| !named.contains(hash)) {
            out.files += 1;
            out.bytes += bytes;
            t.execute("DELETE FROM assets WHERE hash = ?", [hash])?;
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

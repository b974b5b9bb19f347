//! Layouts of a hand-off that are kept for any project.

use std::collections::BTreeSet;

use dustcoat_core::document::Layout;
use dustcoat_core::names::free;
use rusqlite::params;

use super::{Db, DbError};

impl Db {
    /// All kept layouts by name, with their ids.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn layouts(&self) -> Result<Vec<(i64, Layout)>, DbError> {
        let c = self.lock();
        let mut all = c.prepare("SELECT id, layout FROM layouts ORDER BY name COLLATE NOCASE")?;
        let rows = all.query_map([], |r| Ok((r.get(0)?, r.get::<_, String>(1)?)))?.collect::<Result<Vec<_>, _>>()?;
        rows.into_iter().map(|(id, text)| Ok((id, serde_json::from_str(&text)?))).collect()
    }

    /// Keeps a layout beside those that are there: where one has its name it gets a number.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn keep_layout(&self, layout: &Layout) -> Result<(), DbError> {
        let c = self.lock();
        let mut all = c.prepare("SELECT name FROM layouts")?;
        let taken = all.query_map([], |r| r.get(0))?.collect::<Result<BTreeSet<String>, _>>()?;
        let numbered = |n| if n == 1 { layout.name.clone() } else { format!("{} {n}", layout.name) };
        let name = free(numbered, |name| taken.contains(name));
        let text = serde_json::to_string(&Layout { name: name.clone(), ..layout.clone() })?;
        let insert = "INSERT INTO layouts (name, layout, made) VALUES (?, ?, unixepoch())";
        c.execute(insert, params![name, text])?;
        Ok(())
    }

    /// Takes a kept layout out.
    ///
    /// # Errors
    /// [`DbError::NotFound`]
    pub fn remove_layout(&self, id: i64) -> Result<(), DbError> {
        let gone = self.lock().execute("DELETE FROM layouts WHERE id = ?", [id])?;
        if gone == 0 { Err(DbError::NotFound("layout")) } else { Ok(()) }
    }
}

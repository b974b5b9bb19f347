//! Layouts of a hand-off that are kept for any project.

use dustcoat_core::document::Layout;
use rusqlite::{OptionalExtension, params};

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
        let taken = |name: &str| {
            c.query_row("SELECT 1 FROM layouts WHERE name = ?", [name], |_| Ok(())).optional().map(|row| row.is_some())
        };
        let (mut name, mut n) = (layout.name.clone(), 2);
        while taken(&name)? {
            name = format!("{} {n}", layout.name);
            n += 1;
        }
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

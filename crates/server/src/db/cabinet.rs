//! The cabinet: recipes and mask lines that are kept for use on any piece.

use dustcoat_core::mask::Step;
use dustcoat_core::recipe::Recipe;
use rusqlite::{OptionalExtension, params};

use super::{Db, DbError};

/// A recipe of the cabinet.
#[derive(Debug, Clone)]
pub struct CabinetRow {
    /// Id.
    pub id: i64,
    /// The recipe.
    pub recipe: Recipe,
}

/// A mask line of the cabinet.
#[derive(Debug, Clone)]
pub struct LineRow {
    /// Id.
    pub id: i64,
    /// Its name.
    pub name: String,
    /// What it is for.
    pub note: String,
    /// Its steps.
    pub steps: Vec<Step>,
}

impl Db {
    /// All mask lines, by name.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn lines(&self) -> Result<Vec<LineRow>, DbError> {
        let c = self.lock();
        let mut s =
            c.prepare("SELECT id, name, note, steps FROM lines WHERE NOT removed ORDER BY name COLLATE NOCASE, id")?;
        let row = |r: &rusqlite::Row| Ok((r.get(0)?, r.get(1)?, r.get(2)?, r.get::<_, String>(3)?));
        let rows: Vec<(i64, String, String, String)> = s.query_map([], row)?.collect::<Result<_, _>>()?;
        rows.into_iter()
            .map(|(id, name, note, steps)| Ok(LineRow { id, name, note, steps: serde_json::from_str(&steps)? }))
            .collect()
    }

    /// Keeps a mask line beside those that are there, whatever they are called.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn keep_line(&self, name: &str, note: &str, steps: &[Step]) -> Result<(), DbError> {
        let text = serde_json::to_string(steps)?;
        self.lock().execute("INSERT INTO lines (name, note, steps) VALUES (?, ?, ?)", params![name, note, text])?;
        Ok(())
    }

    /// Takes a mask line out of the cabinet, or puts it back.
    ///
    /// # Errors
    /// [`DbError::NotFound`]
    pub fn set_line_removed(&self, id: i64, removed: bool) -> Result<(), DbError> {
        let changed = self.lock().execute("UPDATE lines SET removed = ? WHERE id = ?", params![removed, id])?;
        if changed == 1 { Ok(()) } else { Err(DbError::NotFound("mask line")) }
    }

    /// All recipes, by name.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn cabinet(&self) -> Result<Vec<CabinetRow>, DbError> {
        let c = self.lock();
        let mut s = c.prepare("SELECT id, recipe FROM cabinet ORDER BY name COLLATE NOCASE, id")?;
        let rows: Vec<(i64, String)> = s.query_map([], |r| Ok((r.get(0)?, r.get(1)?)))?.collect::<Result<_, _>>()?;
        rows.into_iter().map(|(id, text)| Ok(CabinetRow { id, recipe: serde_json::from_str(&text)? })).collect()
    }

    /// One recipe.
    ///
    /// # Errors
    /// [`DbError::NotFound`]
    pub fn recipe(&self, id: i64) -> Result<Recipe, DbError> {
        let c = self.lock();
        let text: Option<String> =
            c.query_row("SELECT recipe FROM cabinet WHERE id = ?", [id], |r| r.get(0)).optional()?;
        Ok(serde_json::from_str(&text.ok_or(DbError::NotFound("recipe"))?)?)
    }

    /// Keeps a recipe beside those that are there, whatever they are called.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn keep_recipe(&self, recipe: &Recipe) -> Result<i64, DbError> {
        let c = self.lock();
        let text = serde_json::to_string(recipe)?;
        c.execute("INSERT INTO cabinet (name, recipe) VALUES (?, ?)", params![recipe.name, text])?;
        Ok(c.last_insert_rowid())
    }
}

//! The cabinet: recipes that are kept for use on any piece.

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

impl Db {
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

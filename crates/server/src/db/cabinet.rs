//! The cabinet: recipes and mask lines that are kept for use on any piece.

use dustcoat_core::mask::Step;
use dustcoat_core::recipe::Recipe;
use rusqlite::params;

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

    /// The newest version of every recipe, by name.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn cabinet(&self) -> Result<Vec<CabinetRow>, DbError> {
        self.recipes("version = (SELECT max(version) FROM cabinet AS c WHERE c.recipe_id = cabinet.recipe_id)", [])
    }

    /// The newest version of a recipe, if the cabinet has one.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn newest(&self, recipe: &str) -> Result<Option<CabinetRow>, DbError> {
        let newest = "recipe_id = ?1 AND version = (SELECT max(version) FROM cabinet WHERE recipe_id = ?1)";
        Ok(self.recipes(newest, [recipe])?.pop())
    }

    /// One recipe.
    ///
    /// # Errors
    /// [`DbError::NotFound`]
    pub fn recipe(&self, id: i64) -> Result<Recipe, DbError> {
        self.recipes("id = ?", [id])?.pop().map(|row| row.recipe).ok_or(DbError::NotFound("recipe"))
    }

    fn recipes(&self, which: &str, with: impl rusqlite::Params) -> Result<Vec<CabinetRow>, DbError> {
        let c = self.lock();
        let order = "ORDER BY name COLLATE NOCASE, id";
        let mut s = c.prepare(&format!("SELECT id, recipe_id, version, recipe FROM cabinet WHERE {which} {order}"))?;
        let row = |r: &rusqlite::Row| Ok((r.get(0)?, r.get(1)?, r.get(2)?, r.get(3)?));
        let rows: Vec<(i64, String, u32, String)> = s.query_map(with, row)?.collect::<Result<_, _>>()?;
        let read = |(id, of, version, text): (i64, String, u32, String)| {
            let recipe: Recipe = serde_json::from_str(&text)?;
            Ok(CabinetRow { id, recipe: Recipe { id: of, version, ..recipe } })
        };
        rows.into_iter().map(read).collect()
    }

    /// Keeps a recipe beside those that are there, whatever they are called: as the version that it says it is, or as the next one where that is another; one without an
    /// id as the first of its own. The very same version is kept once.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn keep_recipe(&self, recipe: &Recipe) -> Result<i64, DbError> {
        let mut kept = recipe.clone();
        let all = if recipe.id.is_empty() { vec![] } else { self.recipes("recipe_id = ?", [&recipe.id])? };
        if let Some(same) = all.iter().find(|row| row.recipe == *recipe) {
            return Ok(same.id);
        }
        if all.iter().any(|row| row.recipe.version == recipe.version) {
            kept.version = all.iter().map(|row| row.recipe.version).fold(0, u32::max) + 1;
        }
        let c = self.lock();
        if kept.id.is_empty() {
            kept.id = c.query_row("SELECT lower(hex(randomblob(8)))", [], |r| r.get(0))?;
        }
        let text = serde_json::to_string(&kept)?;
        let values = params![kept.name, text, kept.id, kept.version];
        c.execute("INSERT INTO cabinet (name, recipe, recipe_id, version) VALUES (?, ?, ?, ?)", values)?;
        Ok(c.last_insert_rowid())
    }
}

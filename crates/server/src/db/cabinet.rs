//! The cabinet: recipes and mask lines that are kept for use on any piece.

use dustcoat_core::document;
use dustcoat_core::mask::Step;
use dustcoat_core::recipe::Recipe;
use rusqlite::{OptionalExtension, params};

use super::{Db, DbError, assets};

/// What is noted of a thing of the cabinet.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Marks {
    /// Somebody likes it.
    pub favourite: bool,
    /// It is out of the cabinet, and can be put back.
    pub removed: bool,
    /// How often it was laid.
    pub laid: u32,
}

/// The newest version of a recipe of the cabinet, without what is in it.
#[derive(Debug, Clone)]
pub struct CabinetRow {
    /// Id of the version.
    pub id: i64,
    /// When it was kept, in seconds since 1970.
    pub made: i64,
    /// What is noted of the recipe.
    pub marks: Marks,
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
    /// When it was kept, in seconds since 1970.
    pub made: i64,
    /// What is noted of it.
    pub marks: Marks,
}

/// What became of a recipe that was to be kept.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Kept {
    /// It is in the cabinet under this id.
    New(i64),
    /// The very same version was there under this id.
    There(i64),
    /// What it holds was there under another name.
    Same(String),
}

impl Db {
    /// All mask lines, by name, those that were taken out as well.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn lines(&self) -> Result<Vec<LineRow>, DbError> {
        let c = self.lock();
        let order = "ORDER BY name COLLATE NOCASE, id";
        let mut s =
            c.prepare(&format!("SELECT id, name, note, made, favourite, removed, laid, steps FROM lines {order}"))?;
        let row = |r: &rusqlite::Row| {
            let marks = Marks { favourite: r.get(4)?, removed: r.get(5)?, laid: r.get(6)? };
            let line =
                LineRow { id: r.get(0)?, name: r.get(1)?, note: r.get(2)?, made: r.get(3)?, steps: vec![], marks };
            Ok((line, r.get(7)?))
        };
        let rows: Vec<(LineRow, String)> = s.query_map([], row)?.collect::<Result<_, _>>()?;
        rows.into_iter().map(|(line, steps)| Ok(LineRow { steps: serde_json::from_str(&steps)?, ..line })).collect()
    }

    /// Keeps a mask line beside those that are there, whatever they are called.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn keep_line(&self, name: &str, note: &str, steps: &[Step]) -> Result<(), DbError> {
        let text = serde_json::to_string(steps)?;
        let insert = "INSERT INTO lines (name, note, steps, made) VALUES (?, ?, ?, unixepoch())";
        self.lock().execute(insert, params![name, note, text])?;
        Ok(())
    }

    /// Notes something of a mask line.
    ///
    /// # Errors
    /// [`DbError::NotFound`]
    pub fn mark_line(&self, id: i64, change: impl Fn(Marks) -> Marks) -> Result<(), DbError> {
        let c = self.lock();
        let marks = |r: &rusqlite::Row| Ok(Marks { favourite: r.get(0)?, removed: r.get(1)?, laid: r.get(2)? });
        let now = c.query_row("SELECT favourite, removed, laid FROM lines WHERE id = ?", [id], marks).optional()?;
        let Marks { favourite, removed, laid } = change(now.ok_or(DbError::NotFound("mask line"))?);
        let update = "UPDATE lines SET favourite = ?, removed = ?, laid = ? WHERE id = ?";
        c.execute(update, params![favourite, removed, laid, id])?;
        Ok(())
    }

    /// Favourites among what the cabinet shows and doesn't keep, by what the page knows them by.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn favourites(&self) -> Result<Vec<String>, DbError> {
        let c = self.lock();
        let mut s = c.prepare("SELECT thing FROM favourites ORDER BY thing")?;
        let rows = s.query_map([], |r| r.get(0))?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// Makes a thing a favourite, or no longer.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn set_favourite(&self, thing: &str, favourite: bool) -> Result<(), DbError> {
        let sql = if favourite {
            "INSERT OR IGNORE INTO favourites (thing) VALUES (?)"
        } else {
            "DELETE FROM favourites WHERE thing = ?"
        };
        self.lock().execute(sql, [thing])?;
        Ok(())
    }

    /// The newest version of every recipe, by name, those that were taken out as well.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn cabinet(&self) -> Result<Vec<CabinetRow>, DbError> {
        let c = self.lock();
        let mut s = c.prepare(
            "SELECT id, made, favourite, removed, laid FROM cabinet JOIN recipe_marks USING (recipe_id)
             WHERE version = (SELECT max(version) FROM cabinet AS c WHERE c.recipe_id = cabinet.recipe_id)
             ORDER BY name COLLATE NOCASE, id",
        )?;
        let row = |r: &rusqlite::Row| {
            let marks = Marks { favourite: r.get(2)?, removed: r.get(3)?, laid: r.get(4)? };
            Ok(CabinetRow { id: r.get(0)?, made: r.get(1)?, marks })
        };
        Ok(s.query_map([], row)?.collect::<Result<_, _>>()?)
    }

    /// Notes something of a recipe, given one of its versions.
    ///
    /// # Errors
    /// [`DbError::NotFound`]
    pub fn mark_recipe(&self, id: i64, change: impl Fn(Marks) -> Marks) -> Result<(), DbError> {
        let c = self.lock();
        let find =
            "SELECT recipe_id, favourite, removed, laid FROM cabinet JOIN recipe_marks USING (recipe_id) WHERE id = ?";
        let row = |r: &rusqlite::Row| {
            Ok((r.get::<_, String>(0)?, Marks { favourite: r.get(1)?, removed: r.get(2)?, laid: r.get(3)? }))
        };
        let (of, now) = c.query_row(find, [id], row).optional()?.ok_or(DbError::NotFound("recipe"))?;
        let Marks { favourite, removed, laid } = change(now);
        let update = "UPDATE recipe_marks SET favourite = ?, removed = ?, laid = ? WHERE recipe_id = ?";
        c.execute(update, params![favourite, removed, laid, of])?;
        Ok(())
    }

    /// The newest version of a recipe, if the cabinet has one.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn newest(&self, recipe: &str) -> Result<Option<Recipe>, DbError> {
        let newest = "recipe_id = ?1 AND version = (SELECT max(version) FROM cabinet WHERE recipe_id = ?1)";
        Ok(self.recipes(newest, [recipe])?.pop().map(|(_, recipe)| recipe))
    }

    /// One recipe.
    ///
    /// # Errors
    /// [`DbError::NotFound`]
    pub fn recipe(&self, id: i64) -> Result<Recipe, DbError> {
        self.recipes("id = ?", [id])?.pop().map(|(_, recipe)| recipe).ok_or(DbError::NotFound("recipe"))
    }

    fn recipes(&self, which: &str, with: impl rusqlite::Params) -> Result<Vec<(i64, Recipe)>, DbError> {
        let c = self.lock();
        let mut s =
            c.prepare(&format!("SELECT id, recipe_id, version, recipe FROM cabinet WHERE {which} ORDER BY id"))?;
        let row = |r: &rusqlite::Row| Ok((r.get(0)?, r.get(1)?, r.get(2)?, r.get(3)?));
        let rows: Vec<(i64, String, u32, String)> = s.query_map(with, row)?.collect::<Result<_, _>>()?;
        let read = |(row, id, version, text): (i64, String, u32, String)| {
            let mut recipe: Recipe = serde_json::from_str(&text)?;
            assets::hold_points(&c, &mut recipe);
            Ok((row, Recipe { id, version, ..recipe }.with_slots()))
        };
        rows.into_iter().map(read).collect()
    }

    /// Keeps a recipe beside those that are there, whatever they are called: as the version that it says it is, or as the next one where that is another; one without an
    /// id as the first of its own. The very same version is kept once; so is what comes under a `foreign` id and holds what is there already.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn keep_recipe(&self, recipe: &Recipe, foreign: bool) -> Result<Kept, DbError> {
        let mut kept = recipe.clone();
        let all = if recipe.id.is_empty() { vec![] } else { self.recipes("recipe_id = ?", [&recipe.id])? };
        if let Some((id, _)) = all.iter().find(|(_, there)| there == recipe) {
            // What is brought in again is wanted again.
            self.mark_recipe(*id, |now| Marks { removed: false, ..now })?;
            return Ok(Kept::There(*id));
        }
        if all.iter().any(|(_, there)| there.version == recipe.version) {
            kept.version = all.iter().map(|(_, there)| there.version).fold(0, u32::max) + 1;
        }
        let content = content(recipe)?;
        let mut c = self.lock();
        let c = c.transaction()?;
        for bytes in document::points_files(recipe).values() {
            assets::keep(&c, bytes)?;
        }
        let same = "SELECT name FROM cabinet JOIN recipe_marks USING (recipe_id) WHERE content = ? AND NOT removed";
        if foreign
            && all.is_empty()
            && let Some(name) = c.query_row(same, [&content], |r| r.get(0)).optional()?
        {
            return Ok(Kept::Same(name));
        }
        if kept.id.is_empty() {
            kept.id = c.query_row("SELECT lower(hex(randomblob(8)))", [], |r| r.get(0))?;
        }
        let text = serde_json::to_string(&kept)?;
        let values = params![kept.name, text, kept.id, kept.version, content];
        let insert =
            "INSERT INTO cabinet (name, recipe, recipe_id, version, content, made) VALUES (?, ?, ?, ?, ?, unixepoch())";
        c.execute(insert, values)?;
        let id = c.last_insert_rowid();
        // A next version is wanted, whatever became of those before.
        let mark = "INSERT INTO recipe_marks (recipe_id) VALUES (?) ON CONFLICT (recipe_id) DO UPDATE SET removed = 0";
        c.execute(mark, [&kept.id])?;
        c.commit()?;
        Ok(Kept::New(id))
    }
}

/// A hash of what a recipe does, whatever it is called and whichever version it is.
fn content(recipe: &Recipe) -> Result<String, DbError> {
    let text = serde_json::to_vec(&(&recipe.layers, &recipe.dials))?;
    Ok(blake3::hash(&text).to_hex().to_string())
}

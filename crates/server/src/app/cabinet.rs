//! The cabinet: recipes and mask lines saved, laid, imported, exported.

use dustcoat_core::bake::reading;
use dustcoat_core::document::{self, Edit, EditError};
use dustcoat_core::mask::starter;
use dustcoat_core::recipe::Recipe;
use dustcoat_core::recipe::package::{self, PackageLimits};

use super::{App, AppError};
use crate::db::{CabinetRow, LineRow};
use crate::views::{CabinetCard, EditRequest, KeptLine, LayRecipe, ProjectView, SaveLine, SaveRecipe};

/// Labels of the measurements a recipe needs.
fn needs(recipe: &Recipe) -> Vec<String> {
    let mut kinds: Vec<&str> = vec![];
    let steps = document::layers(&recipe.layers).into_iter().flat_map(|l| &l.mask.steps);
    for (kind, _) in steps.flat_map(|s| s.sources()) {
        let measured = reading::find(kind).and_then(|r| r.measurement());
        kinds.extend(measured.map(|m| m.label).filter(|label| !kinds.contains(label)));
    }
    kinds.into_iter().map(str::to_owned).collect()
}

impl App {
    /// All mask lines that were saved as starters.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn lines(&self) -> Result<Vec<KeptLine>, AppError> {
        let view = |row: LineRow| KeptLine { id: row.id, name: row.name, note: row.note, steps: row.steps };
        Ok(self.db.lines()?.into_iter().map(view).collect())
    }

    /// Saves a layer's mask line as a starter: what dials drive stands where they stand now.
    ///
    /// # Errors
    /// [`AppError`] when there is no such layer, it has no steps, or the name is empty or endless.
    pub fn save_line(&self, project: i64, save: &SaveLine) -> Result<Vec<KeptLine>, AppError> {
        let row = self.db.project(project)?;
        let unknown = || EditError::Unknown { what: "layer", id: save.layer.clone() };
        let layer = document::find_layer(&row.document.layers, &save.layer).ok_or_else(unknown)?;
        let name = save.name.trim();
        if name.is_empty() || name.chars().count() > document::limits::NAME {
            return Err(EditError::Name { what: "mask line" }.into());
        }
        if layer.mask.steps.is_empty() {
            return Err(AppError::EmptyLine);
        }
        let dials = document::dial_states(&row.document.dials, &Default::default());
        let note: String = save.note.trim().chars().take(400).collect();
        self.db.keep_line(name, &note, &starter::by_itself(&layer.mask, &dials))?;
        self.lines()
    }

    /// Takes a mask line out of the cabinet, or puts it back.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn set_line_removed(&self, id: i64, removed: bool) -> Result<Vec<KeptLine>, AppError> {
        self.db.set_line_removed(id, removed)?;
        self.lines()
    }

    /// All recipes.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn cabinet(&self) -> Result<Vec<CabinetCard>, AppError> {
        let card = |row: CabinetRow| {
            let dials = row.recipe.dial_states(&Default::default(), &Default::default());
            let colors = row.recipe.layers.iter().map(|l| document::colors(l, &dials)).collect();
            CabinetCard { id: row.id, needs: needs(&row.recipe), colors, recipe: row.recipe }
        };
        Ok(self.db.cabinet()?.into_iter().map(card).collect())
    }

    /// Saves a layer of a project as a recipe.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn save_recipe(&self, project: i64, save: &SaveRecipe) -> Result<Vec<CabinetCard>, AppError> {
        let row = self.db.project(project)?;
        let recipe = Recipe::of_layer(&row.document, &save.layer, &save.name)?;
        let note = save.note.chars().take(400).collect();
        // Its place is taken, so that it becomes the next one.
        let (id, version) = match save.of {
            Some(of) => self.db.recipe(of).map(|of| (of.id, of.version))?,
            None => (String::new(), 1),
        };
        self.db.keep_recipe(&Recipe { id, version, note, ..recipe })?;
        self.cabinet()
    }

    /// Lays a recipe over everything in a project.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn lay_recipe(&self, project: i64, lay: &LayRecipe) -> Result<ProjectView, AppError> {
        let layer = self.db.recipe(lay.recipe)?.to_use();
        let edits = vec![Edit::AddLayer { inside: None, index: usize::MAX, layer, dials: vec![] }];
        self.edit(project, &EditRequest { revision: lay.revision, edits })
    }

    /// Takes a `.coatrecipe` into the cabinet.
    ///
    /// # Errors
    /// [`AppError`] when it can't be read; nothing is kept then.
    pub fn import_recipe(&self, bytes: &[u8]) -> Result<Vec<CabinetCard>, AppError> {
        self.db.keep_recipe(&package::read_recipe(bytes, PackageLimits::default())?)?;
        self.cabinet()
    }

    /// A recipe as a `.coatrecipe` file: name and bytes.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn pack_recipe(&self, id: i64) -> Result<(String, Vec<u8>), AppError> {
        let recipe = self.db.recipe(id)?;
        Ok((format!("{}.coatrecipe", recipe.name), package::write_recipe(&recipe, None)))
    }
}

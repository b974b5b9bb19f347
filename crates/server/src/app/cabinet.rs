//! The cabinet: recipes and mask lines saved, found, laid, imported, exported.

use std::collections::HashMap;
use std::sync::{Arc, Mutex};

use dustcoat_core::bake::measurement;
use dustcoat_core::document::{self, Edit, EditError, Layer, LayerKind};
use dustcoat_core::mask::starter;
use dustcoat_core::mesh::Piece;
use dustcoat_core::recipe::Recipe;
use dustcoat_core::recipe::package::{self, PackageLimits};

use super::{App, AppError, lock};
use crate::db::{DbError, Kept, LineRow, Marks};
use crate::views::{
    CabinetCard, CardLayer, EditRequest, Event, FitView, Freshness, Imported, KeepOpened, KeepPreset, KeptLine,
    LayRecipe, Laying, MarkRequest, MarksView, ProjectView, SaveLine, SaveRecipe, UsedIn,
};

/// Most characters of a note.
const NOTE: usize = 400;

/// What the cards of versions say of them: versions never change.
pub type Cards = Mutex<HashMap<i64, Arc<CabinetCard>>>;

fn card(id: i64, recipe: Recipe) -> CabinetCard {
    let dials = recipe.dial_states(&Default::default(), &Default::default());
    let layer = |l: &Layer| CardLayer { name: l.name.clone(), colors: document::colors(l, &dials) };
    CabinetCard {
        id,
        needs: recipe.needs(),
        drawn: recipe.drawn_on.is_some(),
        layers: recipe.layers.iter().map(layer).collect(),
        dials: recipe.dials.iter().filter(|d| d.formula.is_none()).map(|d| d.label.clone()).collect(),
        presets: recipe.presets.into_iter().map(|p| p.name).collect(),
        version: recipe.version,
        name: recipe.name,
        note: recipe.note,
        tags: recipe.tags,
        history: recipe.history,
        marks: MarksView::default(),
    }
}

fn marks_view(marks: Marks, made: i64) -> MarksView {
    MarksView { favourite: marks.favourite, removed: marks.removed, laid: marks.laid, made }
}

fn marked(request: &MarkRequest) -> impl Fn(Marks) -> Marks {
    |now| Marks {
        favourite: request.favourite.unwrap_or(now.favourite),
        removed: request.removed.unwrap_or(now.removed),
        ..now
    }
}

fn laid_again(now: Marks) -> Marks {
    Marks { laid: now.laid.saturating_add(1), ..now }
}

fn short(note: &str) -> String {
    note.trim().chars().take(NOTE).collect()
}

impl App {
    /// All mask lines that were saved as starters.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn lines(&self) -> Result<Vec<KeptLine>, AppError> {
        let view = |row: LineRow| KeptLine {
            id: row.id,
            name: row.name,
            note: row.note,
            steps: row.steps,
            marks: marks_view(row.marks, row.made),
        };
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
        self.db.keep_line(name, &short(&save.note), &starter::by_itself(&layer.mask, &dials))?;
        self.lines()
    }

    /// Notes something of a mask line.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn mark_line(&self, id: i64, request: &MarkRequest) -> Result<Vec<KeptLine>, AppError> {
        self.db.mark_line(id, marked(request))?;
        self.lines()
    }

    /// Counts that a mask line was put into a layer.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn count_line(&self, id: i64) -> Result<Vec<KeptLine>, AppError> {
        self.db.mark_line(id, laid_again)?;
        self.lines()
    }

    /// The newest version of every recipe, by name, those that were taken out as well.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn cabinet(&self) -> Result<Vec<CabinetCard>, AppError> {
        let mut cards = vec![];
        for row in self.db.cabinet()? {
            let known = lock(&self.cards).get(&row.id).cloned();
            let body = match known {
                Some(body) => body,
                None => {
                    let made = Arc::new(card(row.id, self.db.recipe(row.id)?));
                    lock(&self.cards).insert(row.id, made.clone());
                    made
                }
            };
            cards.push(CabinetCard { marks: marks_view(row.marks, row.made), ..body.as_ref().clone() });
        }
        Ok(cards)
    }

    /// Notes something of a recipe.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn mark_recipe(&self, id: i64, request: &MarkRequest) -> Result<Vec<CabinetCard>, AppError> {
        self.db.mark_recipe(id, marked(request))?;
        self.send(Event::Cabinet);
        self.cabinet()
    }

    /// The projects that use a recipe, in whichever version, within other recipes as well.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn used_in(&self, id: i64) -> Result<Vec<UsedIn>, AppError> {
        let recipe = self.db.recipe(id)?;
        let mut out = vec![];
        for project in self.db.projects()? {
            let layers = uses(&self.db.project(project.id)?.document.layers, &recipe.id, "");
            if !layers.is_empty() {
                out.push(UsedIn { project: project.id, name: project.name, layers });
            }
        }
        Ok(out)
    }

    /// Saves a layer of a project, or its whole section, as a recipe.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn save_recipe(&self, project: i64, save: &SaveRecipe) -> Result<Vec<CabinetCard>, AppError> {
        let row = self.db.project(project)?;
        let (document, layer) = (&row.document, save.layer.as_deref());
        let mut recipe = if save.keep_drawn {
            Recipe::of_layer_as_drawn(document, layer, &save.name, self.piece(&document.intake)?.shape())?
        } else {
            Recipe::of_layer(document, layer, &save.name)?
        };
        if let Some(of) = save.of {
            recipe = recipe.after(&self.db.recipe(of)?);
        }
        let tag = |t: &String| Some(t.trim().to_owned()).filter(|t| !t.is_empty());
        recipe.tags = save.tags.iter().filter_map(tag).collect();
        recipe.note = short(&save.note);
        self.keep(&recipe)?;
        self.cabinet()
    }

    /// Keeps a recipe; what it is kept as.
    fn keep(&self, recipe: &Recipe) -> Result<Recipe, AppError> {
        // Only now is it known which one it is a version of, and so whether it holds itself.
        recipe.check()?;
        let (Kept::New(id) | Kept::There(id)) = self.db.keep_recipe(recipe, false)? else { return Ok(recipe.clone()) };
        self.send(Event::Cabinet);
        Ok(self.db.recipe(id)?)
    }

    /// The layer that a recipe becomes on a piece.
    fn laid_on(&self, piece: &Piece, laying: &Laying) -> Result<Layer, AppError> {
        let recipe = self.db.recipe(laying.recipe)?;
        Ok(recipe.to_use_on(piece, laying.preset.as_deref(), &laying.values)?)
    }

    /// How a recipe would lie on a project's piece.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn fit(&self, project: i64, laying: &Laying) -> Result<FitView, AppError> {
        let row = self.db.project(project)?;
        let piece = self.piece(&row.document.intake)?;
        let layer = self.laid_on(&piece, laying)?;
        let LayerKind::Use { recipe, values } = &layer.kind else { return Err(EditError::Place.into()) };
        let fit = recipe.fit(values, &piece);
        // What the piece has measured already is at hand.
        let states = self.measurement_states(project, &row.document, &piece)?;
        let missing = states.iter().filter(|m| m.state != Freshness::Fresh).filter_map(|m| measurement::find(&m.kind));
        let missing: Vec<&str> = missing.map(|m| m.label).collect();
        let to_measure = recipe.needs().measurements.into_iter().filter(|l| missing.contains(&l.as_str())).collect();
        Ok(FitView { fit, layer, to_measure })
    }

    /// Lays a recipe in a project.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn lay_recipe(&self, project: i64, lay: &LayRecipe) -> Result<ProjectView, AppError> {
        let piece = self.piece(&self.db.project(project)?.document.intake)?;
        let layer = self.laid_on(&piece, &lay.laying)?;
        let edits = vec![Edit::AddLayer {
            inside: lay.inside.clone(),
            index: lay.index.unwrap_or(usize::MAX),
            layer,
            dials: vec![],
        }];
        let view = self.edit(project, &EditRequest { revision: lay.revision, edits })?;
        self.db.mark_recipe(lay.laying.recipe, laid_again)?;
        Ok(view)
    }

    /// Keeps what a use's dials stand at as a preset in the next version of its recipe, which the use follows then.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn keep_preset(&self, project: i64, keep: &KeepPreset) -> Result<ProjectView, AppError> {
        let row = self.db.project(project)?;
        let unknown = || EditError::Unknown { what: "layer", id: keep.layer.clone() };
        let layer = document::find_layer(&row.document.layers, &keep.layer).ok_or_else(unknown)?;
        let LayerKind::Use { recipe, values } = &layer.kind else { return Err(EditError::Place.into()) };
        let outer = document::dial_states(&row.document.dials, &Default::default());
        let next = recipe.as_ref().clone().with_preset(&keep.name, values, &outer).after(recipe);
        let kept = self.keep(&Recipe { note: recipe.note.clone(), ..next })?;
        let edits = vec![Edit::FollowRecipe { layer: keep.layer.clone(), recipe: Arc::new(kept) }];
        self.edit(project, &EditRequest { revision: keep.revision, edits })
    }

    /// Keeps the recipe that is open in a project as its next version, and closes it.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn keep_opened(&self, project: i64, keep: &KeepOpened) -> Result<ProjectView, AppError> {
        let row = self.db.project(project)?;
        let (Some(recipe), Some(opened)) = (document::opened_recipe(&row.document)?, &row.document.opened) else {
            return Err(EditError::NotOpened.into());
        };
        let next = recipe.after(&opened.recipe);
        let note = if keep.note.trim().is_empty() { opened.recipe.note.clone() } else { short(&keep.note) };
        let kept = self.keep(&Recipe { note, ..next })?;
        let edits = vec![Edit::CloseUse { kept: Some(Arc::new(kept)) }];
        self.edit(project, &EditRequest { revision: keep.revision, edits })
    }

    /// Takes a `.coatrecipe`, or a ZIP of several, into the cabinet.
    ///
    /// # Errors
    /// [`AppError`] when one can't be read; nothing is kept then.
    pub fn import_recipes(&self, bytes: &[u8]) -> Result<Imported, AppError> {
        let (mut taken, mut there) = (vec![], vec![]);
        for recipe in package::read_recipes(bytes, PackageLimits::default())? {
            match self.db.keep_recipe(&recipe, true)? {
                Kept::New(_) => taken.push(recipe.name),
                Kept::There(_) => there.push(recipe.name),
                Kept::Same(name) if name == recipe.name => there.push(name),
                Kept::Same(name) => there.push(format!("{} (as {name})", recipe.name)),
            }
        }
        self.send(Event::Cabinet);
        Ok(Imported { cards: self.cabinet()?, taken, there })
    }

    /// Recipes as a file: a `.coatrecipe` of one, a ZIP of more; name and bytes.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn pack_recipes(&self, ids: &[i64]) -> Result<(String, Vec<u8>), AppError> {
        if ids.is_empty() {
            return Err(DbError::NotFound("recipe").into());
        }
        let recipes: Vec<Recipe> = ids.iter().map(|id| self.db.recipe(*id)).collect::<Result<_, _>>()?;
        if let [recipe] = &recipes[..] {
            return Ok((format!("{}.coatrecipe", recipe.name), package::write_recipe(recipe, None)));
        }
        Ok((format!("{} recipes.zip", recipes.len()), package::write_recipes(&recipes)))
    }
}

/// The layers that use a recipe, as `Layer, version 2`.
fn uses(layers: &[Layer], recipe: &str, inside: &str) -> Vec<String> {
    let mut out = vec![];
    for layer in document::layers(layers) {
        let LayerKind::Use { recipe: used, .. } = &layer.kind else { continue };
        let name = format!("{inside}{}", layer.name);
        if used.id == recipe {
            out.push(format!("{name}, version {}", used.version));
        }
        out.extend(uses(&used.layers, recipe, &format!("{name} › ")));
    }
    out
}

//! Recipes: a group of layers with its dials, packed for use on any piece.

mod fit;
pub mod package;
pub mod schema;
mod slots;

use std::collections::BTreeMap;
use std::sync::Arc;

pub use fit::{Fit, Needs, PatternSize, SlotFit};

use crate::document::{self, Dial, Document, EditError, Layer, LayerKind, VersionNote};
pub use crate::document::{Preset, RECIPE_FORMAT as FORMAT, Recipe};
use crate::mesh::{Piece, Shape};
use crate::setting::{DialStates, Param, Settings, Value};

impl Recipe {
    /// Makes a recipe of a layer of a document: of what a group holds, of the layer itself, or of all layers where none is named. The dials that drive it come along,
    /// and what they stand at becomes their default; the document's variants become presets, and the parts and pictures that it names become slots.
    ///
    /// # Errors
    /// When there is no such layer, or a mask in it follows one outside of it.
    pub fn of_layer(document: &Document, layer: Option<&str>, name: &str) -> Result<Recipe, EditError> {
        Self::made(document, layer, name, None)
    }

    /// The same with the strokes and pins that were drawn and laid on a piece of that shape: they belong to it, and show nothing on others. Where there are none it is
    /// a recipe like any other.
    ///
    /// # Errors
    /// As [`Recipe::of_layer`].
    pub fn of_layer_as_drawn(
        document: &Document,
        layer: Option<&str>,
        name: &str,
        shape: Shape,
    ) -> Result<Recipe, EditError> {
        Self::made(document, layer, name, Some(shape))
    }

    fn made(
        document: &Document,
        layer: Option<&str>,
        name: &str,
        drawn_on: Option<Shape>,
    ) -> Result<Recipe, EditError> {
        let layers = match layer {
            None => document.layers.clone(),
            Some(id) => {
                let unknown = || EditError::Unknown { what: "layer", id: id.into() };
                let found = document::find_layer(&document.layers, id).ok_or_else(unknown)?;
                match &found.kind {
                    // The group's own mask and opacity stay with the group.
                    LayerKind::Group { layers } if found.mask.steps.is_empty() => layers.clone(),
                    _ => vec![found.clone()],
                }
            }
        };
        if let Some((layer, name)) = document::follows_outside(&layers) {
            return Err(EditError::FollowsOutside { layer, name });
        }
        let mut layers = layers;
        // Strokes belong to the piece: on another one the step is there to be drawn in.
        let drawn_on = drawn_on.filter(|_| !document::own_drawn_steps(&layers).is_empty());
        if drawn_on.is_none() {
            document::leave_undrawn(&mut layers);
        }
        let settled = |d: &Dial| Dial { default: d.value.clone(), of: None, ..d.clone() };
        let dials = document::dials_behind(&layers, &document.dials).iter().map(settled).collect();
        let mut recipe = Recipe::new(name, layers, dials);
        recipe.drawn_on = drawn_on;
        recipe.presets = presets_of(document, &recipe.dials);
        let recipe = recipe.with_slots();
        recipe.check()?;
        Ok(recipe)
    }

    /// The recipe as the one that comes after another: its history goes on, and presets are taken over as far as their dials are there still and their names aren't taken.
    pub fn after(mut self, before: &Recipe) -> Recipe {
        self.id.clone_from(&before.id);
        self.version = before.version + 1;
        self.history.clone_from(&before.history);
        self.history.push(VersionNote { version: before.version, note: before.note.clone() });
        for preset in &before.presets {
            let values = preset.values.iter().map(|(id, v)| (id.clone(), Param::Const(v.clone()))).collect();
            let (values, _) = document::carried(before, &self, &values);
            if !values.is_empty() && self.presets.iter().all(|p| p.name != preset.name) {
                self.presets.push(Preset { name: preset.name.clone(), values: constants(values) });
            }
        }
        self
    }

    /// The same with what the dials stand at in a use kept as a preset; one of that name is kept anew. `outer` is what dials around the use stand at.
    pub fn with_preset(mut self, name: &str, set: &Settings, outer: &DialStates) -> Recipe {
        let states = self.dial_states(set, outer);
        let turned = self.dials.iter().filter(|d| d.formula.is_none());
        let stands = |d: &Dial| Some((d.id.clone(), states.get(&d.id)?.value.clone()));
        let preset =
            Preset { name: name.into(), values: turned.filter(|d| !slots::is_slot(d)).filter_map(stands).collect() };
        match self.presets.iter_mut().find(|p| p.name == name) {
            Some(there) => *there = preset,
            None => self.presets.push(preset),
        }
        self
    }

    /// A layer that follows the recipe on a piece: its dials as a preset says, its slots filled with what is most like what they want, and then what `values` say, by dial.
    ///
    /// # Errors
    /// When there is no such preset or dial.
    pub fn to_use_on(
        &self,
        piece: &Piece,
        preset: Option<&str>,
        values: &BTreeMap<String, Value>,
    ) -> Result<Layer, EditError> {
        let unknown = |what, id: &str| EditError::Unknown { what, id: id.into() };
        let mut set: BTreeMap<String, Value> = BTreeMap::new();
        let fit = self.fit(&Settings::new(), piece);
        set.extend(fit.slots.into_iter().filter_map(|s| Some((s.dial, Value::Text(s.takes?)))));
        if let Some(name) = preset {
            let preset = self.presets.iter().find(|p| p.name == name).ok_or_else(|| unknown("preset", name))?;
            set.extend(preset.values.clone());
        }
        if let Some(lost) = values.keys().find(|id| self.dials.iter().all(|d| d.id != **id)) {
            return Err(unknown("dial", lost));
        }
        set.extend(values.clone());
        let mut layer = self.to_use();
        if let LayerKind::Use { values, .. } = &mut layer.kind {
            values.extend(set.into_iter().map(|(id, v)| (id, Param::Const(v))));
        }
        Ok(layer)
    }

    /// A layer that follows the recipe, its dials at their defaults.
    pub fn to_use(&self) -> Layer {
        let kind = LayerKind::Use { recipe: Arc::new(self.clone()), values: Default::default() };
        Layer::everywhere(&self.name, kind)
    }
}

/// What these dials stand at in each of a document's variants that says something of them.
fn presets_of(document: &Document, dials: &[Dial]) -> Vec<Preset> {
    let preset = |variant: &document::Variant| {
        let mut values = document::whole_variant(document, &variant.name).values;
        values.retain(|id, _| dials.iter().any(|d| d.id == *id && d.formula.is_none()));
        Preset { name: variant.name.clone(), values }
    };
    document.variants.iter().map(preset).filter(|p| !p.values.is_empty()).collect()
}

fn constants(values: Settings) -> BTreeMap<String, Value> {
    values.into_iter().filter_map(|(id, p)| if let Param::Const(v) = p { Some((id, v)) } else { None }).collect()
}

//! Recipes: a group of layers with its dials, packed for use on any piece.

pub mod package;

use crate::document::{self, Dial, Document, EditError, Layer, LayerKind};
pub use crate::document::{RECIPE_FORMAT as FORMAT, Recipe};

impl Recipe {
    /// Makes a recipe of a layer of a document: of what a group holds, or of the layer itself. The dials that drive it come along,
    /// and what they stand at becomes their default.
    ///
    /// # Errors
    /// When there is no such layer, it is a use of another recipe, or a mask in it follows one outside of it.
    pub fn of_layer(document: &Document, layer: &str, name: &str) -> Result<Recipe, EditError> {
        let unknown = || EditError::Unknown { what: "layer", id: layer.into() };
        let found = document::find_layer(&document.layers, layer).ok_or_else(unknown)?;
        let layers = match &found.kind {
            // The group's own mask and opacity stay with the group.
            LayerKind::Group { layers } if found.mask.steps.is_empty() => layers.clone(),
            LayerKind::Use { .. } => return Err(EditError::Place),
            _ => vec![found.clone()],
        };
        if let Some((layer, name)) = document::follows_outside(&layers) {
            return Err(EditError::FollowsOutside { layer, name });
        }
        let settled = |d: &Dial| Dial { default: d.value.clone(), of: None, ..d.clone() };
        let dials = document::dials_behind(&layers, &document.dials).iter().map(settled).collect();
        let recipe = Recipe {
            format: FORMAT.into(),
            id: String::new(),
            version: 1,
            name: name.into(),
            note: String::new(),
            layers,
            dials,
        };
        recipe.check()?;
        Ok(recipe)
    }

    /// A layer that follows the recipe, its dials at their defaults.
    pub fn to_use(&self) -> Layer {
        Layer {
            id: String::new(),
            name: self.name.clone(),
            shown: true,
            opacity: 1.0.into(),
            mask: Default::default(),
            publish: None,
            kind: LayerKind::Use { recipe: self.clone(), values: Default::default() },
        }
    }
}

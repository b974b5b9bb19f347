//! A recipe as plain data: what a layer that uses it holds. How one is made, packed and read: [`crate::recipe`].

use serde::{Deserialize, Serialize};
use ts_rs::TS;

use super::{Dial, EditError, Layer, LayerKind, check_scope, dial_states, layers, limits};
use crate::setting::{DialStates, Settings, resolve_one};

/// The version of the recipe format that is written.
pub const RECIPE_FORMAT: &str = "dustcoat-recipe/1";

/// A group of layers with its dials. Its layers name no asset and no part it can't do without.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct Recipe {
    /// `dustcoat-recipe/1`.
    pub format: String,
    /// Of which recipe it is a version, wherever it is opened; empty for one that was never kept.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[ts(as = "Option<String>", optional)]
    pub id: String,
    /// Which version it is, from 1 on.
    #[serde(default = "first")]
    pub version: u32,
    /// A name to show.
    pub name: String,
    /// One sentence on what it is for.
    #[serde(default)]
    pub note: String,
    /// From the bottom up.
    pub layers: Vec<Layer>,
    /// Its dials.
    #[serde(default)]
    pub dials: Vec<Dial>,
}

fn first() -> u32 {
    1
}

impl Recipe {
    /// # Errors
    /// The first thing found wrong. Uses within recipes are refused: a recipe holds its layers itself.
    pub fn check(&self) -> Result<(), EditError> {
        if self.format != RECIPE_FORMAT {
            return Err(EditError::Format { found: self.format.chars().take(40).collect() });
        }
        if self.name.trim().is_empty() || self.name.chars().count() > limits::NAME {
            return Err(EditError::Name { what: "recipe" });
        }
        if layers(&self.layers).iter().any(|l| matches!(l.kind, LayerKind::Use { .. })) {
            return Err(EditError::Place);
        }
        check_scope(&self.layers, &self.dials)
    }

    /// What the dials stand at in a use where these set them, dials of the document standing at `outer`.
    pub fn dial_states(&self, values: &Settings, outer: &DialStates) -> DialStates {
        let set = |d: &Dial| Some((d.id.clone(), resolve_one(&d.spec(), Some(values.get(&d.id)?), outer)));
        dial_states(&self.dials, &self.dials.iter().filter_map(set).collect())
    }
}

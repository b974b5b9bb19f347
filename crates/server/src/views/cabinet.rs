//! What the cabinet keeps.

use dustcoat_core::mask::Step;
use dustcoat_core::recipe::Recipe;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// A recipe of the cabinet.
#[derive(Debug, Serialize, TS)]
pub struct CabinetCard {
    /// Id.
    #[ts(type = "number")]
    pub id: i64,
    /// The recipe.
    pub recipe: Recipe,
    /// Labels of the measurements it needs.
    pub needs: Vec<String>,
    /// The colours that each of its layers lays down, in their order.
    pub colors: Vec<Vec<String>>,
}

/// A mask line that was saved as a starter.
#[derive(Debug, Serialize, TS)]
pub struct KeptLine {
    /// Id.
    #[ts(type = "number")]
    pub id: i64,
    /// Its name.
    pub name: String,
    /// One sentence on what it is for.
    pub note: String,
    /// Its steps.
    pub steps: Vec<Step>,
}

/// Saves a layer's mask line as a starter.
#[derive(Debug, Deserialize, TS)]
pub struct SaveLine {
    /// The layer.
    pub layer: String,
    /// Its name in the cabinet.
    pub name: String,
    /// One sentence on what it is for.
    #[serde(default)]
    pub note: String,
}

/// Saves a layer as a recipe.
#[derive(Debug, Deserialize, TS)]
pub struct SaveRecipe {
    /// The layer, usually a group.
    pub layer: String,
    /// The recipe of the cabinet that it becomes the next version of; none for a recipe of its own.
    #[serde(default)]
    #[ts(type = "number", optional)]
    pub of: Option<i64>,
    /// Its name in the cabinet.
    pub name: String,
    /// One sentence on what it is for.
    #[serde(default)]
    pub note: String,
}

/// Lays a recipe of the cabinet over everything.
#[derive(Debug, Deserialize, TS)]
pub struct LayRecipe {
    /// The revision it was asked on.
    #[ts(type = "number")]
    pub revision: i64,
    /// The recipe.
    #[ts(type = "number")]
    pub recipe: i64,
}

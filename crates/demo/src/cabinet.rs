//! What the demo's cabinet begins with: the recipe that the gate valve is dressed with, and those that are files.

use dustcoat_core::recipe::Recipe;

use crate::projects::dock_paint;
use crate::recipes;

/// All recipes.
pub fn recipes() -> Vec<Recipe> {
    files().into_iter().map(|(_, recipe)| recipe).collect()
}

/// The same, each with the name of its file but for the ending.
pub fn files() -> Vec<(String, Recipe)> {
    std::iter::once(("dock-paint".to_owned(), dock_paint())).chain(recipes::files()).collect()
}

//! The formats of documents and recipes as JSON Schemas (2020-12), made from the types that read them.

use schemars::{Schema, schema_for};

use crate::document::{Document, FORMAT, RECIPE_FORMAT, Recipe};

/// The schema of each format that is written: `document.json` of a `.dustcoat`, and `recipe.json` of a `.coatrecipe`.
pub fn schemas() -> [(&'static str, Schema); 2] {
    [(FORMAT, schema_for!(Document)), (RECIPE_FORMAT, schema_for!(Recipe))]
}

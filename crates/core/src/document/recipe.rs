//! A recipe as plain data: what a layer that uses it holds. How one is made, packed and read: [`crate::recipe`].

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

use super::check::{check_names, name, scope};
use super::check_dial::check_value;
use super::{Dial, EditError, Layer, LayerKind, dial_states, layers, limits};
use crate::mesh::Shape;
use crate::setting::{DialStates, Settings, Value, resolve_one};

/// The version of the recipe format that is written.
pub const RECIPE_FORMAT: &str = "dustcoat-recipe/1";

/// A group of layers with its dials. Its layers name no asset and no part it can't do without.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
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
    /// Sets of what its dials stand at, by names of their own.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[ts(as = "Option<Vec<Preset>>", optional)]
    pub presets: Vec<Preset>,
    /// What was said of the versions before this one, the oldest first.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[ts(as = "Option<Vec<VersionNote>>", optional)]
    pub history: Vec<VersionNote>,
    /// The shape of the piece that its strokes and pins were drawn and laid on: they are kept for it, and show nothing on others. None where it keeps none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub drawn_on: Option<Shape>,
    /// Words under which it is looked for.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[ts(as = "Option<Vec<String>>", optional)]
    pub tags: Vec<String>,
}

/// What was said of a version.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
pub struct VersionNote {
    /// Which one.
    pub version: u32,
    /// What its maker said of it.
    pub note: String,
}

/// A named set of what a recipe's dials stand at.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
pub struct Preset {
    /// Name, its own among the recipe's presets.
    pub name: String,
    /// What the dials stand at, by id; those that it doesn't name stay as they are.
    pub values: BTreeMap<String, Value>,
}

fn first() -> u32 {
    1
}

impl Recipe {
    /// A recipe that was never kept, with nothing said of it but its name.
    pub fn new(name: &str, layers: Vec<Layer>, dials: Vec<Dial>) -> Recipe {
        Recipe {
            format: RECIPE_FORMAT.into(),
            id: String::new(),
            version: first(),
            name: name.into(),
            note: String::new(),
            layers,
            dials,
            presets: vec![],
            history: vec![],
            drawn_on: None,
            tags: vec![],
        }
    }

    /// # Errors
    /// The first thing found wrong.
    pub fn check(&self) -> Result<(), EditError> {
        self.check_within(&[], 0)
    }

    /// Checks a recipe that is used within others, the outermost of them first, so many groups and recipes deep.
    pub(super) fn check_within(&self, outer: &[&Recipe], depth: usize) -> Result<(), EditError> {
        if self.format != RECIPE_FORMAT {
            return Err(EditError::Format { found: self.format.chars().take(40).collect() });
        }
        name(&self.name, "recipe")?;
        let way = [outer, &[self]].concat();
        if let Some(i) = outer.iter().position(|r| !r.id.is_empty() && r.id == self.id) {
            let names: Vec<&str> = way[i..].iter().map(|r| r.name.as_str()).collect();
            return Err(EditError::RecipeCircle { circle: names.join(" → ") });
        }
        if way.len() > limits::NESTED {
            let (found, limit) = (way.len(), limits::NESTED);
            return Err(EditError::TooMany { what: "recipes within recipes", found, limit });
        }
        check_names(("preset", "presets"), self.presets.iter().map(|p| &p.name), limits::PRESETS)?;
        if self.history.len() > limits::VERSIONS {
            let (found, limit) = (self.history.len(), limits::VERSIONS);
            return Err(EditError::TooMany { what: "versions", found, limit });
        }
        check_names(("tag", "tags"), self.tags.iter(), limits::TAGS)?;
        for (id, value) in self.presets.iter().flat_map(|p| &p.values) {
            let dial = self.dials.iter().find(|d| d.id == *id);
            check_value(dial.ok_or_else(|| EditError::Unknown { what: "dial", id: id.clone() })?, value)?;
        }
        scope(&self.layers, &self.dials, &way, depth)
    }

    /// Whether what it keeps of strokes and pins shows nothing on a piece of that shape.
    pub fn is_drawn_on_another(&self, shape: &Shape) -> bool {
        self.drawn_on.is_some_and(|own| !own.is_like(shape))
    }

    /// What the dials stand at in a use where these set them, dials of the document standing at `outer`.
    pub fn dial_states(&self, values: &Settings, outer: &DialStates) -> DialStates {
        let set = |d: &Dial| Some((d.id.clone(), resolve_one(&d.spec(), Some(values.get(&d.id)?), outer)));
        dial_states(&self.dials, &self.dials.iter().filter_map(set).collect())
    }
}

/// How many layers these are with what they hold, those of recipes in use as well.
pub(super) fn count_all(all: &[Layer]) -> usize {
    let inner = |l: &Layer| if let LayerKind::Use { recipe, .. } = &l.kind { count_all(&recipe.layers) } else { 0 };
    layers(all).into_iter().map(|l| 1 + inner(l)).sum()
}

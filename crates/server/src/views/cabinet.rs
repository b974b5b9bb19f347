//! What the cabinet keeps.

use std::collections::BTreeMap;

use dustcoat_core::document::{Layer, Palette, VersionNote};
use dustcoat_core::mask::Step;
use dustcoat_core::mesh::intake::PictureUse;
use dustcoat_core::recipe::{Fit, Needs};
use dustcoat_core::setting::Value;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// A recipe of the cabinet, as its newest version.
#[derive(Debug, Clone, Serialize, TS)]
pub struct CabinetCard {
    /// Id of the version.
    #[ts(type = "number")]
    pub id: i64,
    /// Which version it is.
    pub version: u32,
    /// Its name.
    pub name: String,
    /// One sentence on what it is for.
    pub note: String,
    /// Words under which it is looked for.
    pub tags: Vec<String>,
    /// From the bottom up.
    pub layers: Vec<CardLayer>,
    /// Labels of its dials.
    pub dials: Vec<String>,
    /// Names of its presets.
    pub presets: Vec<String>,
    /// What it asks of a piece.
    pub needs: Needs,
    /// Whether it keeps strokes or pins, for pieces of one shape.
    pub drawn: bool,
    /// What was said of the versions before.
    pub history: Vec<VersionNote>,
    /// What is noted of it.
    pub marks: MarksView,
}

/// A layer of a recipe.
#[derive(Debug, Clone, Serialize, TS)]
pub struct CardLayer {
    /// Its name.
    pub name: String,
    /// The colours that it lays down.
    pub colors: Vec<String>,
}

/// What is noted of a thing of the cabinet.
#[derive(Debug, Clone, Copy, Default, Serialize, TS)]
pub struct MarksView {
    /// Somebody likes it.
    pub favourite: bool,
    /// It is out of the cabinet, and can be put back.
    pub removed: bool,
    /// How often it was laid.
    pub laid: u32,
    /// When it was kept, in seconds since 1970.
    #[ts(type = "number")]
    pub made: i64,
}

/// Notes something of a thing of the cabinet; what isn't said stays.
#[derive(Debug, Deserialize, TS)]
pub struct MarkRequest {
    /// Somebody likes it.
    #[serde(default)]
    #[ts(optional)]
    pub favourite: Option<bool>,
    /// Out of the cabinet.
    #[serde(default)]
    #[ts(optional)]
    pub removed: Option<bool>,
}

/// A project that uses a recipe.
#[derive(Debug, Serialize, TS)]
pub struct UsedIn {
    /// The project.
    #[ts(type = "number")]
    pub project: i64,
    /// Its name.
    pub name: String,
    /// The layers that use it, each with its version.
    pub layers: Vec<String>,
}

/// What became of recipes that were brought in.
#[derive(Debug, Serialize, TS)]
pub struct Imported {
    /// The cabinet as it is now.
    pub cards: Vec<CabinetCard>,
    /// Names of those that are new.
    pub taken: Vec<String>,
    /// Names of those that were there already, and of what they are there as.
    pub there: Vec<String>,
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
    /// What is noted of it.
    pub marks: MarksView,
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
    /// The layer, usually a group; the whole section if none is named.
    #[serde(default)]
    #[ts(optional)]
    pub layer: Option<String>,
    /// The recipe of the cabinet that it becomes the next version of; none for a recipe of its own.
    #[serde(default)]
    #[ts(type = "number", optional)]
    pub of: Option<i64>,
    /// Its name in the cabinet.
    pub name: String,
    /// One sentence on what it is for.
    #[serde(default)]
    pub note: String,
    /// Words under which it is looked for.
    #[serde(default)]
    #[ts(as = "Option<Vec<String>>", optional)]
    pub tags: Vec<String>,
    /// Whether what was drawn and laid by hand goes with it, for pieces of the same shape; its steps are empty otherwise.
    #[serde(default)]
    #[ts(as = "Option<bool>", optional)]
    pub keep_drawn: bool,
}

/// How a recipe is to be laid.
#[derive(Debug, Clone, Deserialize, TS)]
pub struct Laying {
    /// The recipe.
    #[ts(type = "number")]
    pub recipe: i64,
    /// The preset that it begins with.
    #[serde(default)]
    #[ts(optional)]
    pub preset: Option<String>,
    /// What its dials stand at, by id; above all what fills its slots.
    #[serde(default)]
    #[ts(as = "Option<BTreeMap<String, Value>>", optional)]
    pub values: BTreeMap<String, Value>,
}

/// Lays a recipe of the cabinet, over everything if nothing else is said.
#[derive(Debug, Deserialize, TS)]
pub struct LayRecipe {
    /// The revision it was asked on.
    #[ts(type = "number")]
    pub revision: i64,
    /// The group that it is laid in.
    #[serde(default)]
    #[ts(optional)]
    pub inside: Option<String>,
    /// How many layers of the row lie below it.
    #[serde(default)]
    #[ts(optional)]
    pub index: Option<usize>,
    /// Which one, and how.
    #[serde(flatten)]
    pub laying: Laying,
}

/// How a recipe would lie on a project's piece.
#[derive(Debug, Serialize, TS)]
pub struct FitView {
    /// What it needs to be told, and how large its patterns come out.
    pub fit: Fit,
    /// The layer that would be laid.
    pub layer: Layer,
    /// Labels of its measurements that are not taken yet.
    pub to_measure: Vec<String>,
}

/// Keeps what a use's dials stand at as a preset, in the next version of its recipe.
#[derive(Debug, Deserialize, TS)]
pub struct KeepPreset {
    /// The revision it was asked on.
    #[ts(type = "number")]
    pub revision: i64,
    /// The layer that uses it.
    pub layer: String,
    /// The preset's name.
    pub name: String,
}

/// Keeps the recipe that is open as its next version.
#[derive(Debug, Deserialize, TS)]
pub struct KeepOpened {
    /// The revision it was asked on.
    #[ts(type = "number")]
    pub revision: i64,
    /// What to say of the version.
    #[serde(default)]
    pub note: String,
}

/// Makes what the cabinet shows and doesn't keep a favourite, or no longer.
#[derive(Debug, Deserialize, TS)]
pub struct FavouriteRequest {
    /// What the page knows it by.
    pub thing: String,
    /// Somebody likes it.
    pub favourite: bool,
}

/// What projects hold that others can use as well.
#[derive(Debug, Default, Serialize, TS)]
pub struct FoundThings {
    /// Palettes, each once.
    pub palettes: Vec<FoundPalette>,
    /// Pictures for masks, each once.
    pub pictures: Vec<FoundPicture>,
    /// Favourites among these and the ready finishes, by what the page knows them by.
    pub favourites: Vec<String>,
}

/// A palette of a project.
#[derive(Debug, Serialize, TS)]
pub struct FoundPalette {
    /// Name of the project.
    pub project: String,
    /// The palette.
    pub palette: Palette,
}

/// A picture of a project.
#[derive(Debug, Serialize, TS)]
pub struct FoundPicture {
    /// The project.
    #[ts(type = "number")]
    pub id: i64,
    /// Its name.
    pub project: String,
    /// The picture.
    pub picture: PictureUse,
}

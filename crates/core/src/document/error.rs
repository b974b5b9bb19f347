//! Why an edit or a document is refused, and how much a document may hold.

use super::FORMAT;
use crate::setting::{DriveError, SettingError};

/// How much a document may hold.
pub mod limits {
    /// Layers, all told.
    pub const LAYERS: usize = 256;
    /// Layers with those of the recipes in use.
    pub const ALL_LAYERS: usize = 4096;
    /// Groups and recipes within each other. What is deeper could be written as JSON and not be read again.
    pub const DEPTH: usize = 24;
    /// Recipes within recipes.
    pub const NESTED: usize = 8;
    /// Presets of a recipe.
    pub const PRESETS: usize = 64;
    /// Versions that a recipe tells of.
    pub const VERSIONS: usize = 1000;
    /// Tags of a recipe.
    pub const TAGS: usize = 16;
    /// Steps in a mask line.
    pub const STEPS: usize = 64;
    /// Strokes of a step.
    pub const STROKES: usize = 50_000;
    /// Stops of a ramp.
    pub const STOPS: usize = crate::setting::MOST_COLORS;
    /// Numbers of a step, besides its amount, that masks drive.
    pub const DRIVEN: usize = 2;
    /// Dials.
    pub const DIALS: usize = 128;
    /// Variants.
    pub const VARIANTS: usize = 64;
    /// Places of the camera.
    pub const PLACES: usize = 32;
    /// Palettes.
    pub const PALETTES: usize = 64;
    /// Things on the board.
    pub const BOARD: usize = 1000;
    /// Rows of the plan.
    pub const ELEMENTS: usize = 64;
    /// Characters of a note.
    pub const WORDS: usize = 2000;
    /// Pictures brought in for the piece.
    pub const PICTURES: usize = 64;
    /// Steps of a ladder.
    pub const RUNGS: usize = 12;
    /// Files of a layout.
    pub const FILES: usize = 128;
    /// Channels of one of its files.
    pub const SLOTS: usize = 96;
    /// Options of a dial's choice.
    pub const OPTIONS: usize = 64;
    /// Characters in a name.
    pub const NAME: usize = 120;
}

/// Why an edit or a document was refused. Nothing was changed.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum EditError {
    /// Written by something else.
    #[error(
        "This document's format is “{found}”; this version of Dust Coat reads “{FORMAT}”. Open it with the version that wrote it."
    )]
    Format {
        /// What it says.
        found: String,
    },
    /// Drawing on what goes to other pieces.
    #[error(
        "Strokes belong to this piece, and what is open here is a recipe that other pieces use. Close it first, or draw in a layer beside it."
    )]
    DrawnInRecipe,
    /// An id that is not there.
    #[error(
        "There is no {what} “{id}” any more; it may have been removed in another window. Reload the page to see what is there."
    )]
    Unknown {
        /// Layer, step, dial …
        what: &'static str,
        /// The id.
        id: String,
    },
    /// A kind that is not in the catalog.
    #[error("“{kind}” is not a kind of {family} that this version knows.")]
    UnknownKind {
        /// Step, channel, reading.
        family: &'static str,
        /// The kind.
        kind: String,
    },
    /// A key that the step or channel doesn't have.
    #[error("{place} has no setting called “{key}”.")]
    UnknownSetting {
        /// Layer and step.
        place: String,
        /// The key.
        key: String,
    },
    /// A value out of range.
    #[error("{place}: {error}")]
    Setting {
        /// Layer and step.
        place: String,
        /// What it takes.
        error: SettingError,
    },
    /// Past a limit.
    #[error("That would make {found} {what}; the most is {limit}. Remove some first.")]
    TooMany {
        /// What there is too much of.
        what: &'static str,
        /// How many.
        found: usize,
        /// The limit.
        limit: usize,
    },
    /// An empty or endless name.
    #[error("A {what} needs a name of 1 to {} characters.", limits::NAME)]
    Name {
        /// Layer, dial, project.
        what: &'static str,
    },
    /// A dial whose range or default make no sense.
    #[error("The dial “{label}” can't be: {why}.")]
    Dial {
        /// Its label.
        label: String,
        /// What is wrong.
        why: &'static str,
    },
    /// A dial or a formula that can't set a setting.
    #[error("{place}: “{setting}” can't be driven so: {why}.")]
    Drive {
        /// Layer and step.
        place: String,
        /// Label of the setting.
        setting: String,
        /// What is wrong.
        why: DriveError,
    },
    /// Dials that follow each other round.
    #[error(
        "These dials follow each other in a circle: {circle}. Let one of them follow something else, or turn it by hand."
    )]
    DialCircle {
        /// Labels of the dials, the first one again at the end.
        circle: String,
    },
    /// Variants that build on each other round.
    #[error("These variants build on each other in a circle: {circle}. Let one of them stand by itself.")]
    VariantCircle {
        /// Their names, the first one again at the end.
        circle: String,
    },
    /// A second recipe to be opened.
    #[error("“{name}” is open. Keep it as a new version or drop what was done to it, and then open this one.")]
    Opened {
        /// Name of the recipe that is open.
        name: String,
    },
    /// Nothing to be closed.
    #[error("No recipe is open in this project. Open one from the menu of a layer that uses it.")]
    NotOpened,
    /// A recipe that would hold itself.
    #[error(
        "The recipe would hold itself: {circle}. Loosen the use of it into layers first, or save it as a recipe of its own."
    )]
    RecipeCircle {
        /// Names of the recipes, the first one again at the end.
        circle: String,
    },
    /// A mask that can't drive a number.
    #[error("{place}: “{setting}” can't be driven by that mask: {why}.")]
    MaskDrive {
        /// Layer and step.
        place: String,
        /// Label of the setting.
        setting: String,
        /// What is wrong, and what would be right.
        why: &'static str,
    },
    /// A ramp that can't be read.
    #[error("{place}: “{setting}” can't be that ramp: {why}.")]
    Ramp {
        /// Layer and channel.
        place: String,
        /// Label of the setting.
        setting: String,
        /// What is wrong, and what would be right.
        why: &'static str,
    },
    /// Into itself, or into something that holds nothing.
    #[error("A layer can only be moved into a group, and not into itself.")]
    Place,
    /// Two layers publish under one name.
    #[error("Two layers publish their mask as “{name}”. Give one of them another name.")]
    PublishedTwice {
        /// The name.
        name: String,
    },
    /// Masks that follow each other round.
    #[error("These masks follow each other in a circle: {circle}. Let one of them follow something else.")]
    Circle {
        /// Names of the layers, the first one again at the end.
        circle: String,
    },
    /// A recipe that would be cut off from a mask.
    #[error(
        "{layer} follows the mask “{name}”, which a layer outside of what is saved publishes. Put both into one group and save that."
    )]
    FollowsOutside {
        /// The layer.
        layer: String,
        /// The name under which the mask is published.
        name: String,
    },
    /// What was copied is no layer, or damaged.
    #[error("What was copied can't be laid: {why}. Copy the layer again.")]
    Copied {
        /// What is wrong.
        why: String,
    },
    /// Two things of one id.
    #[error("The document names “{id}” twice.")]
    Twice {
        /// The id.
        id: String,
    },
}

//! The document: layers, masks and dials as plain data, and the edits that turn one document into the next.

mod adrift;
mod board;
mod check;
mod check_dial;
mod check_settings;
mod copy;
mod dial;
mod dials;
mod edit;
mod elements;
mod error;
mod follows;
mod ids;
mod kept;
mod label;
mod ladder;
mod layout;
mod opened;
mod packed;
pub mod pictured;
mod recipe;
mod settings;
mod six;
mod strokes;
mod study;
mod tree;
mod upgrade;
mod variants;
mod versions;

use std::collections::BTreeMap;
use std::sync::Arc;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

pub use adrift::{adrift, drawn_elsewhere, has_by_hand};
pub use board::{BoardItem, BoardKind, End, Lies};
pub use check::{check, check_layout};
pub use copy::copied;
pub(crate) use dial::dials_behind;
pub use dial::{
    Derived, Dial, DialOption, ShownWhen, Standing, colors, derived, dial_states, dials_of, driven, standings,
};
pub use dials::{TriedFormula, try_formula};
pub use edit::{Edit, Target, apply};
pub use elements::{Element, NEAR, Whereabouts, planned_over};
pub use error::{EditError, limits};
pub(crate) use ids::forget_ids;
pub use label::label;
pub use ladder::{LadderSide, Rung, rungs, steps_spec};
pub use layout::{FileChannel, FileKind, FileRow, Layout};
pub use opened::{OpenedUse, opened_recipe};
pub use packed::{PackedChannel, ToldChannel, told_channels};
pub use recipe::{Preset, RECIPE_FORMAT, Recipe, VersionNote};
pub use six::{Reach, SIX, six};
pub use strokes::{HoldsStrokes, StrokeChange, hold_points, is_drawn, new_points, points, points_files};
pub(crate) use strokes::{counted_drawn, drawn_steps, leave_undrawn, own_drawn_steps};
pub use study::{Noted, Palette, Study};
pub(crate) use tree::find_layer_mut;
pub(crate) use tree::{each_scope, finish_sources, follows_outside, params_mut};
pub use tree::{find_layer, layers, lost_names};
pub use upgrade::upgrade;
pub use variants::{Variant, WholeVariant, whole_variant};
pub use versions::carried;

use crate::bake::measurement;
use crate::finish::Finish;
use crate::finish::channel::Role;
use crate::mask::MaskLine;
use crate::mesh::Intake;
use crate::setting::{Param, ParamSpec, Settings};

/// The version of the document format that is written.
pub const FORMAT: &str = "dustcoat/2";

/// A dressed piece: everything but the files that it names.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
pub struct Document {
    /// `dustcoat/2`.
    pub format: String,
    /// A name to show.
    pub name: String,
    /// What the piece is made of.
    #[serde(default)]
    pub intake: Intake,
    /// From the bottom up: the first lies on the bare piece.
    pub layers: Vec<Layer>,
    /// The exposed parameters.
    #[serde(default)]
    pub dials: Vec<Dial>,
    /// Settings of the measurements, by kind; missing ones stand at their default for the piece.
    #[serde(default)]
    pub readings: BTreeMap<String, Settings>,
    /// Working texture size in texels.
    #[serde(default = "draft_size")]
    pub draft_size: u32,
    /// Named sets of the dials' values.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub variants: Vec<Variant>,
    /// Where it is looked at from, to come back to.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub places: Vec<Place>,
    /// The use of a recipe that is edited as layers.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub opened: Option<OpenedUse>,
    /// What was gathered before the work.
    #[serde(default, skip_serializing_if = "Study::is_empty")]
    #[ts(as = "Option<Study>", optional)]
    pub study: Study,
    /// What is handed off, where that was chosen.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub layout: Option<Layout>,
}

/// A place of the camera.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
pub struct Place {
    /// Name, its own among the places.
    pub name: String,
    /// Where the eye is, in mm.
    pub eye: [f32; 3],
    /// What it looks at, in mm.
    pub target: [f32; 3],
}

fn draft_size() -> u32 {
    1024
}

impl Document {
    /// The settings of a measurement and of the weather, as far as they were set.
    pub fn reading(&self, measurement: &str) -> Settings {
        measurement::settings_among(&self.readings, measurement)
    }

    /// The files that it needs: blake3 and name, each once.
    pub fn files(&self) -> Vec<(&str, &str)> {
        let mut out = self.intake.files();
        for (hash, file) in self.study.files() {
            if !out.iter().any(|(h, _)| *h == hash) {
                out.push((hash, file));
            }
        }
        out
    }

    /// A document without layers.
    pub fn new(name: &str) -> Self {
        Self {
            format: FORMAT.into(),
            name: name.into(),
            intake: Intake::default(),
            layers: vec![],
            dials: vec![],
            readings: BTreeMap::new(),
            draft_size: draft_size(),
            variants: vec![],
            places: vec![],
            opened: None,
            study: Study::default(),
            layout: None,
        }
    }
}

/// One layer of the section.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
pub struct Layer {
    /// Stable within the document; empty asks for a fresh one.
    #[serde(default)]
    pub id: String,
    /// A name to show.
    pub name: String,
    /// Hidden, it and all that it holds lay down nothing.
    #[serde(default = "yes")]
    pub shown: bool,
    /// 0…1.
    #[serde(default = "full")]
    pub opacity: Param,
    /// Where it shows.
    #[serde(default)]
    pub mask: MaskLine,
    /// The name under which other layers' masks may follow its own.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub publish: Option<String>,
    /// What is to be minded of it, in the artist's words.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[ts(as = "Option<String>", optional)]
    pub note: String,
    /// What it is.
    #[serde(flatten)]
    pub kind: LayerKind,
}

impl Layer {
    /// A layer that shows everywhere, whole. Its id is to be given yet.
    pub fn everywhere(name: &str, kind: LayerKind) -> Layer {
        Layer {
            id: String::new(),
            name: name.to_owned(),
            shown: true,
            opacity: full(),
            mask: MaskLine::default(),
            publish: None,
            note: String::new(),
            kind,
        }
    }

    /// A plain coat, to begin with: one colour, half rough, no relief.
    pub fn plain_coat() -> Layer {
        Layer::everywhere("New coat", LayerKind::Coat { finish: Finish::plain() })
    }

    /// A group that holds nothing yet.
    pub fn empty_group() -> Layer {
        Layer::everywhere("New group", LayerKind::Group { layers: vec![] })
    }
}

fn yes() -> bool {
    true
}

fn full() -> Param {
    1.0.into()
}

/// What a layer is.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum LayerKind {
    /// Lays a finish down.
    Coat {
        /// The material.
        finish: Finish,
    },
    /// Changes what lies below.
    Adjust {
        /// How, channel by channel.
        finish: Finish,
    },
    /// Holds layers; its mask and opacity go over all of them.
    Group {
        /// From the bottom up.
        layers: Vec<Layer>,
    },
    /// Follows a recipe, with dial values of its own.
    Use {
        /// The recipe.
        recipe: Arc<Recipe>,
        /// What sets the recipe's dials, by id: a value, or dials of the document; missing ones stand at their default.
        #[serde(default)]
        values: Settings,
    },
}

impl LayerKind {
    /// The channels that it lays down or changes.
    pub fn finish(&self) -> Option<(&Finish, Role)> {
        match self {
            LayerKind::Coat { finish } => Some((finish, Role::Lays)),
            LayerKind::Adjust { finish } => Some((finish, Role::Changes)),
            LayerKind::Group { .. } | LayerKind::Use { .. } => None,
        }
    }

    /// The same, to change it.
    pub fn finish_mut(&mut self) -> Option<(&mut Finish, Role)> {
        match self {
            LayerKind::Coat { finish } => Some((finish, Role::Lays)),
            LayerKind::Adjust { finish } => Some((finish, Role::Changes)),
            LayerKind::Group { .. } | LayerKind::Use { .. } => None,
        }
    }
}

/// The description of every layer's opacity.
pub fn opacity_spec() -> ParamSpec {
    ParamSpec::share("opacity", "Opacity", 1.0, "How much of the layer shows where its mask is full.")
}

/// The description of how far apart two colours may lie and still be one part.
pub fn tolerance_spec() -> ParamSpec {
    let help = "How far apart two colours may lie and still be one part, as a share of the way from black to white.";
    ParamSpec::number("tolerance", "Tolerance", "", (0.01, 0.5), 0.12, help)
}

//! What is asked and told of states to choose from.

use std::collections::BTreeMap;

use dustcoat_core::document::{Edit, LadderSide, Reach, Rung};
use dustcoat_core::setting::Value;
use dustcoat_core::still::shoot::StillSettings;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Asks for a small picture of a project after some edits, which are not kept.
#[derive(Debug, Deserialize, TS)]
pub struct LookRequest {
    /// The state that they are made on; the one in force if nothing is said.
    #[serde(default)]
    #[ts(optional, type = "number")]
    pub at: Option<i64>,
    /// One after the other.
    pub edits: Vec<Edit>,
    /// From where and in which light; noise is taken out, and the size and the samples are bounded.
    pub still: StillSettings,
}

/// Asks for six sets of dial values around those that the dials stand at.
#[derive(Debug, Deserialize, TS)]
pub struct SixRequest {
    /// How far each dial takes part, by id; one that isn't named is held.
    pub reaches: BTreeMap<String, Reach>,
    /// The same seed draws the same six.
    pub seed: u32,
}

/// Six sets of dial values.
#[derive(Debug, Serialize, TS)]
pub struct Six {
    /// What the dials that take part stand at, by id.
    pub choices: Vec<BTreeMap<String, Value>>,
}

/// Asks for the steps of a ladder.
#[derive(Debug, Clone, Deserialize, TS)]
pub struct LadderRequest {
    /// From left to right.
    pub across: LadderSide,
    /// From top to bottom, if two dials are stepped.
    #[serde(default)]
    #[ts(optional)]
    pub down: Option<LadderSide>,
}

/// The steps of a ladder.
#[derive(Debug, Serialize, TS)]
pub struct LadderView {
    /// From left to right.
    pub across: Vec<Rung>,
    /// From top to bottom; empty if one dial is stepped.
    pub down: Vec<Rung>,
}

/// Asks for a ladder as one picture with labels.
#[derive(Debug, Deserialize, TS)]
pub struct SheetRequest {
    /// Its sides.
    pub ladder: LadderRequest,
    /// From where and in which light each of its pictures is taken.
    pub still: StillSettings,
}

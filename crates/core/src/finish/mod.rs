//! Finishes: the channel values a layer lays down, and how they meet what lies below.
//!
//! A document holds a [`Finish`]; [`channel`] is the family of channels, one file each.

pub mod adjust;
pub mod blend;
pub mod channel;
pub mod material;
pub mod preset;
pub mod ramp;
pub mod relief;
pub mod vary;

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

use crate::setting::Settings;

/// What a coat lays down, by channel kind. A channel that is missing is off.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, JsonSchema, TS)]
pub struct Finish {
    /// The channels.
    #[serde(default)]
    pub channels: BTreeMap<String, ChannelUse>,
}

impl Finish {
    /// One colour, half rough, no metal.
    pub fn plain() -> Finish {
        let laid = || ChannelUse { on: true, settings: Settings::new() };
        let channels = ["base_color", "roughness", "metallic"].map(|kind| (kind.to_owned(), laid()));
        Finish { channels: channels.into() }
    }
}

/// One channel of a finish.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
pub struct ChannelUse {
    /// Whether the coat lays this channel down at all.
    pub on: bool,
    /// Its settings; missing ones stand at their default.
    #[serde(default)]
    pub settings: Settings,
}

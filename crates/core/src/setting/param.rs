//! What a document holds of a setting: a constant, or what drives it.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

use super::{DialStates, Drive, ParamSpec, Settings, Value, palette_spec, palette_stops};

/// A setting as the document holds it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(untagged)]
pub enum Param {
    /// Set by a dial, or by a formula over dials.
    Drive(Drive),
    /// Driven by a mask: another number at every place.
    Mask(MaskDrive),
    /// Read from a ramp along a mask: another number or colour at every place.
    Ramp(RampDrive),
    /// Read from a picture: another colour at every place.
    Colors(ColorsDrive),
    /// Says its own value.
    Const(Value),
}

/// How a mask drives a number of a step: where it is 0 the number is `low`, where it is 1 `high`; between them evenly, or in even ratios for settings whose
/// slider moves in ratios.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct MaskDrive {
    /// Where the mask comes from.
    pub mask: MaskSource,
    /// The number where the mask is 0.
    pub low: f64,
    /// The number where it is 1.
    pub high: f64,
}

impl Param {
    /// What sets it, if it doesn't say its own value.
    pub fn drive(&self) -> Option<&Drive> {
        if let Param::Drive(drive) = self { Some(drive) } else { None }
    }

    /// The mask that makes it another one at every place.
    pub fn source(&self) -> Option<&MaskSource> {
        match self {
            Param::Mask(drive) => Some(&drive.mask),
            Param::Ramp(drive) => Some(&drive.along),
            Param::Colors(drive) => Some(&drive.colors),
            Param::Drive(_) | Param::Const(_) => None,
        }
    }

    /// The same, to change it.
    pub fn source_mut(&mut self) -> Option<&mut MaskSource> {
        match self {
            Param::Mask(drive) => Some(&mut drive.mask),
            Param::Ramp(drive) => Some(&mut drive.along),
            Param::Colors(drive) => Some(&mut drive.colors),
            Param::Drive(_) | Param::Const(_) => None,
        }
    }
}

/// A mask that drives a number: a reading, a pattern or another source.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct MaskSource {
    /// A kind of the catalog that brings something in.
    pub kind: String,
    /// Its settings; missing ones stand at their default. None of them is driven by a mask.
    #[serde(default)]
    pub settings: Settings,
}

/// A number or colour of a finish that is read from a ramp along a mask.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct RampDrive {
    /// The mask along which it is read.
    pub along: MaskSource,
    /// From where the mask is 0 to where it is 1, in the order of their places.
    pub stops: Vec<Stop>,
    /// What lies between two stops.
    #[serde(default)]
    pub between: Between,
    /// How many times the ramp runs through from 0 to 1.
    #[serde(default = "once")]
    pub repeat: u32,
    /// What its colours follow all together, if they are a palette: edits keep its stops at what that gives.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub palette: Option<Drive>,
}

fn once() -> u32 {
    1
}

/// A colour of a finish that is read from a picture.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct ColorsDrive {
    /// The picture and how it lies: a source of the kind `colors`.
    pub colors: MaskSource,
}

/// A stop of a ramp.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct Stop {
    /// Its place, 0…1.
    pub at: f64,
    /// A number, or a colour as `#rrggbb`.
    pub value: Value,
    /// What its value follows: edits keep the value at what that gives.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub by: Option<Drive>,
}

impl RampDrive {
    /// Gives the stops that follow dials the values of these.
    pub fn follow(&mut self, spec: &ParamSpec, dials: &DialStates) {
        if let Some(by) = self.palette.as_ref().filter(|by| by.dials().iter().all(|d| dials.contains_key(d)))
            && let Some(stops) = palette_stops(&by.value(&palette_spec(&self.stops), dials))
        {
            self.stops = stops;
        }
        for stop in &mut self.stops {
            // One whose dial is gone keeps what it had.
            if let Some(by) = stop.by.as_ref().filter(|by| by.dials().iter().all(|d| dials.contains_key(d))) {
                stop.value = by.value(spec, dials);
            }
        }
    }
}

/// What lies between two stops of a ramp.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Between {
    /// A straight line, in linear light.
    #[default]
    Linear,
    /// A curve that never overshoots (monotone cubic).
    Smooth,
    /// The stop's own value up to the next one.
    Stepped,
    /// One of the stops' values; a stop's place is its weight: how often it is wanted beside the others.
    Palette,
}

impl From<f64> for Param {
    fn from(v: f64) -> Self {
        Param::Const(Value::Number(v))
    }
}

impl From<Drive> for Param {
    fn from(drive: Drive) -> Self {
        Param::Drive(drive)
    }
}

impl From<&str> for Param {
    fn from(v: &str) -> Self {
        Param::Const(Value::Text(v.into()))
    }
}

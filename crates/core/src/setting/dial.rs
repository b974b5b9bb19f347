//! What dials stand at, as far as settings need to know.

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

use super::{ParamSpec, ParamType, Value};

/// What a dial takes.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum DialKind {
    /// A number within a range.
    Number,
    /// An sRGB colour.
    Color,
    /// One of named options.
    Choice,
    /// On or off.
    Switch,
    /// A whole number that is thrown.
    Seed,
    /// The name of a part of the piece.
    Part,
    /// The file name of a picture.
    Picture,
    /// A few colours, each as often as its weight says.
    Palette,
}

impl DialKind {
    /// Whether a formula can reckon with it: a choice is its place among the options from 0 on, a switch 0 or 1.
    pub fn is_of_numbers(self) -> bool {
        matches!(self, DialKind::Number | DialKind::Seed | DialKind::Switch | DialKind::Choice)
    }

    /// What it is, with an article.
    pub fn words(self) -> &'static str {
        match self {
            DialKind::Number => "a number",
            DialKind::Color => "a colour",
            DialKind::Choice => "a choice",
            DialKind::Switch => "a switch",
            DialKind::Seed => "a seed",
            DialKind::Part => "a part",
            DialKind::Picture => "a picture",
            DialKind::Palette => "a palette",
        }
    }

    /// The kinds of settings that it can set.
    pub fn sets(self) -> &'static [ParamType] {
        match self {
            DialKind::Number | DialKind::Seed => &[ParamType::Number, ParamType::Integer],
            DialKind::Color => &[ParamType::Color],
            DialKind::Choice => &[ParamType::Choice],
            DialKind::Switch => &[ParamType::Switch, ParamType::Number, ParamType::Integer],
            DialKind::Part => &[ParamType::Part],
            DialKind::Picture => &[ParamType::Picture],
            DialKind::Palette => &[ParamType::Palette],
        }
    }

    /// The kind of dial that a setting of that kind becomes; none for the names of published masks, which stay within their layers.
    pub fn of_setting(kind: ParamType, key: &str) -> Option<DialKind> {
        Some(match kind {
            ParamType::Integer if key == "seed" => DialKind::Seed,
            ParamType::Number | ParamType::Integer => DialKind::Number,
            ParamType::Color => DialKind::Color,
            ParamType::Choice => DialKind::Choice,
            ParamType::Switch => DialKind::Switch,
            ParamType::Part => DialKind::Part,
            ParamType::Picture => DialKind::Picture,
            ParamType::Palette => DialKind::Palette,
            ParamType::Follow => return None,
        })
    }
}

/// What a dial stands at, as the resolver needs it.
#[derive(Debug, Clone, PartialEq)]
pub struct DialState {
    /// What the artist reads.
    pub label: String,
    /// What it takes.
    pub kind: DialKind,
    /// Least value of a number.
    pub min: f64,
    /// Greatest value of a number.
    pub max: f64,
    /// Whether half way is the geometric mean of the ends rather than their middle.
    pub log: bool,
    /// The keys of a choice's options, in their order.
    pub options: Vec<String>,
    /// Where it stands.
    pub value: Value,
}

/// The dials in force, by id.
pub type DialStates = BTreeMap<String, DialState>;

impl DialState {
    /// What a formula reckons with. `None` for what is no number.
    pub fn number(&self) -> Option<f64> {
        match &self.value {
            Value::Number(n) => Some(*n),
            Value::Bool(b) => Some(f64::from(*b)),
            Value::Text(t) if self.kind == DialKind::Choice => {
                self.options.iter().position(|o| o == t).map(|i| i as f64)
            }
            Value::Text(_) => None,
        }
    }

    /// How far it is turned from its least to its greatest value, 0…1. `None` for what has no range.
    pub(super) fn share(&self) -> Option<f64> {
        match (self.kind, &self.value) {
            (DialKind::Switch, Value::Bool(b)) => Some(f64::from(*b)),
            (DialKind::Number, Value::Number(n)) => {
                let (low, high) = (self.min, self.max);
                let share = if self.log && low > 0.0 {
                    libm::log(n / low) / libm::log(high / low)
                } else if high > low {
                    (n - low) / (high - low)
                } else {
                    0.0
                };
                Some(share.clamp(0.0, 1.0))
            }
            _ => None,
        }
    }

    /// Whether it can set such a setting: laid on its range, or by its own value.
    pub(super) fn fits(&self, spec: &ParamSpec, ranged: bool) -> bool {
        let known = |o: &String| spec.choices.iter().any(|c| c.0 == *o);
        self.kind.sets().contains(&spec.kind)
            && match self.kind {
                DialKind::Switch => ranged || spec.kind == ParamType::Switch,
                DialKind::Choice => self.options.iter().all(known),
                _ => true,
            }
    }
}

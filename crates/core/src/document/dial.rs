//! Dials: exposed parameters with label, group, unit, range and default.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use ts_rs::TS;

use super::tree::params;
use super::{Document, Layer};
use crate::setting::{DialState, DialStates, Param, Value};

/// An exposed parameter. Settings that it drives name it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct Dial {
    /// Stable within the document; empty asks for a fresh one.
    #[serde(default)]
    pub id: String,
    /// What the artist reads.
    pub label: String,
    /// Dials of one group stand together.
    #[serde(default)]
    pub group: String,
    /// Unit to show.
    #[serde(default)]
    pub unit: String,
    /// Least value of a number dial.
    #[serde(default)]
    pub min: f64,
    /// Greatest value of a number dial.
    #[serde(default = "one")]
    pub max: f64,
    /// What it is when nobody turned it: a number or a colour.
    pub default: Value,
    /// Where it stands.
    pub value: Value,
}

fn one() -> f64 {
    1.0
}

/// What dials stand at; `values` go before the dials' own.
pub fn dial_states(dials: &[Dial], values: &BTreeMap<String, Value>) -> DialStates {
    let state = |d: &Dial| {
        let value = values.get(&d.id).unwrap_or(&d.value).clone();
        let value = match value {
            Value::Number(n) => Value::Number(n.clamp(d.min, d.max.max(d.min))),
            other => other,
        };
        (d.id.clone(), DialState { min: d.min, max: d.max, value })
    };
    dials.iter().map(state).collect()
}

/// What a dial drives, in words: `Chips › Threshold › Cut`. Empty when it drives nothing.
pub fn driven(document: &Document, dial: &str) -> Vec<String> {
    driven_in(&document.layers, dial)
}

pub(super) fn driven_in(layers: &[Layer], dial: &str) -> Vec<String> {
    let mut found = vec![];
    params(layers, &mut |place, param| {
        if matches!(param, Param::Dial(d) if d.dial == dial) {
            found.push(place.words());
        }
    });
    found
}

//! Dials: exposed parameters with label, group, unit, range and default.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use ts_rs::TS;

use super::tree::params;
use super::{Document, Layer, LayerKind, Target};
use crate::finish::channel;
use crate::setting::{DialState, DialStates, Param, Stop, Value, resolve, resolve_one};

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
    /// The layer that it came with, and goes with.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub of: Option<String>,
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

/// A driven setting, and the value that its dial gives it now.
#[derive(Debug, Clone, PartialEq, Serialize, TS)]
pub struct Standing {
    /// The setting.
    pub target: Target,
    /// Within the setting's range.
    pub value: Value,
}

/// Every driven setting of a document with the value it stands at.
pub fn standings(document: &Document) -> Vec<Standing> {
    let states = dial_states(&document.dials, &BTreeMap::new());
    let mut found = vec![];
    params(&document.layers, &mut |place, param| {
        if matches!(param, Param::Dial(_)) {
            found.push(Standing { target: place.target(), value: resolve_one(&place.spec, Some(param), &states) });
        }
    });
    found
}

/// The base colours that a layer lays down, as `#rrggbb`, from the bottom up: one for a coat that has one, those of all they hold for groups and uses.
pub fn colors(layer: &Layer, dials: &DialStates) -> Vec<String> {
    let all = |layers: &[Layer], dials: &DialStates| layers.iter().flat_map(|l| colors(l, dials)).collect();
    match &layer.kind {
        LayerKind::Group { layers } => all(layers, dials),
        LayerKind::Use { recipe, values } => all(&recipe.layers, &recipe.dial_states(values)),
        LayerKind::Adjust { .. } => vec![],
        LayerKind::Coat { finish } => {
            let used = finish.channels.get("base_color").filter(|u| u.on);
            let Some((used, channel)) = used.zip(channel::find("base_color")) else { return vec![] };
            if let Some(Param::Ramp(drive)) = used.settings.get("color") {
                let text = |s: &Stop| if let Value::Text(t) = &s.value { Some(t.clone()) } else { None };
                return drive.stops.iter().filter_map(text).collect();
            }
            vec![resolve(&(channel.specs)(), &used.settings, dials).text("color").to_owned()]
        }
    }
}

/// The dials that drive a layer or what it holds, by id, in their order.
pub fn dials_of(document: &Document, layer: &str) -> Vec<String> {
    let Some(layer) = super::find_layer(&document.layers, layer) else { return vec![] };
    let mut used = std::collections::BTreeSet::new();
    params(std::slice::from_ref(layer), &mut |_, param| {
        if let Param::Dial(drive) = param {
            used.insert(drive.dial.clone());
        }
    });
    document.dials.iter().map(|d| &d.id).filter(|id| used.contains(*id)).cloned().collect()
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

//! Dials: exposed parameters with label, group, unit, range and default, and what they drive.

use std::collections::{BTreeMap, BTreeSet};

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

use super::tree::params;
use super::{Document, Layer, LayerKind, Target};
use crate::finish::channel;
use crate::setting::{
    DialKind, DialState, DialStates, Drive, Param, ParamSpec, ParamType, Stop, Value, formula_to_labels, resolve,
};

/// An exposed parameter. Settings that it drives name it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
pub struct Dial {
    /// Stable within the document; empty asks for a fresh one.
    #[serde(default)]
    pub id: String,
    /// What the artist reads.
    pub label: String,
    /// What it takes; where nothing is said, what its default is: a number or a colour.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub kind: Option<DialKind>,
    /// Dials of one group stand together.
    #[serde(default)]
    pub group: String,
    /// One line of help.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[ts(as = "Option<String>", optional)]
    pub help: String,
    /// What is to be minded of it, in the artist's words.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[ts(as = "Option<String>", optional)]
    pub note: String,
    /// Unit to show.
    #[serde(default)]
    pub unit: String,
    /// Least value of a number dial.
    #[serde(default)]
    pub min: f64,
    /// Greatest value of a number dial.
    #[serde(default = "one")]
    pub max: f64,
    /// The least difference between two of its numbers; 0 for none.
    #[serde(default, skip_serializing_if = "is_zero")]
    #[ts(as = "Option<f64>", optional)]
    pub step: f64,
    /// Whether it moves in even ratios rather than in even steps.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[ts(as = "Option<bool>", optional)]
    pub log: bool,
    /// What a choice is taken from, in their order.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[ts(as = "Option<Vec<DialOption>>", optional)]
    pub options: Vec<DialOption>,
    /// It is shown only while another dial stands so.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub when: Option<ShownWhen>,
    /// The formula that it follows, dials by id in braces; such a dial is shown and not turned.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub formula: Option<String>,
    /// What it is when nobody turned it.
    pub default: Value,
    /// Where it stands.
    pub value: Value,
    /// The layer that it came with, and goes with.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub of: Option<String>,
}

/// One of the options of a choice.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
pub struct DialOption {
    /// What is kept.
    pub key: String,
    /// What the artist reads.
    pub label: String,
}

/// What another dial must stand at for a dial to be shown.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
pub struct ShownWhen {
    /// The other dial's id: a switch or a choice.
    pub dial: String,
    /// What it must stand at.
    pub is: Value,
}

fn one() -> f64 {
    1.0
}

fn is_zero(n: &f64) -> bool {
    *n == 0.0
}

impl Dial {
    /// A dial of a kind that stands at `value`, from 0 to 1 if it is a number, with nothing else said of it.
    pub fn new(id: &str, label: &str, kind: DialKind, value: Value) -> Dial {
        Dial {
            id: id.into(),
            label: label.into(),
            kind: Some(kind),
            group: String::new(),
            help: String::new(),
            note: String::new(),
            unit: String::new(),
            min: 0.0,
            max: 1.0,
            step: 0.0,
            log: false,
            options: vec![],
            when: None,
            formula: None,
            default: value.clone(),
            value,
            of: None,
        }
    }

    /// A number from `range.0` to `range.1` that stands at `value`.
    pub fn number(id: &str, label: &str, unit: &str, range: (f64, f64), value: f64) -> Dial {
        let (min, max) = range;
        Dial { unit: unit.into(), min, max, ..Dial::new(id, label, DialKind::Number, Value::Number(value)) }
    }

    /// A dial that takes what a setting takes, and stands at `value`. `None` where no dial can set it.
    pub fn of_setting(spec: &ParamSpec, label: &str, group: &str, value: Value) -> Option<Dial> {
        let options = spec.choices.iter().map(|c| DialOption { key: c.0.to_string(), label: c.1.to_string() });
        Some(Dial {
            group: group.into(),
            help: spec.help.into(),
            unit: spec.unit.into(),
            min: spec.min,
            max: spec.max,
            step: f64::from(spec.kind == ParamType::Integer),
            log: spec.log && spec.min > 0.0,
            options: options.collect(),
            ..Dial::new("", label, DialKind::of_setting(spec.kind, spec.key)?, value)
        })
    }

    /// What it takes.
    pub fn kind(&self) -> DialKind {
        self.kind.unwrap_or(match self.default {
            Value::Number(_) => DialKind::Number,
            Value::Bool(_) => DialKind::Switch,
            Value::Text(_) => DialKind::Color,
        })
    }

    /// The dial described as a setting, for who drives it in its turn.
    pub fn spec(&self) -> ParamSpec {
        let kind = match self.kind() {
            DialKind::Number => ParamType::Number,
            DialKind::Seed => ParamType::Integer,
            DialKind::Color => ParamType::Color,
            DialKind::Choice => ParamType::Choice,
            DialKind::Switch => ParamType::Switch,
            DialKind::Part => ParamType::Part,
            DialKind::Picture => ParamType::Picture,
            DialKind::Palette => ParamType::Palette,
        };
        let choices = self.options.iter().map(|o| (o.key.clone().into(), o.label.clone().into())).collect();
        let base = ParamSpec::base("value", "Value", kind, self.default.clone(), "");
        ParamSpec { min: self.min, max: self.max.max(self.min), log: self.log, choices, ..base }
    }

    /// The nearest value that it takes.
    pub(super) fn bounded(&self, value: Value) -> Value {
        match value {
            Value::Number(n) if n.is_finite() => {
                let n = n.clamp(self.min, self.max.max(self.min));
                let stepped =
                    if self.step > 0.0 { self.min + ((n - self.min) / self.step).round() * self.step } else { n };
                Value::Number(stepped.clamp(self.min, self.max.max(self.min)))
            }
            Value::Number(_) => self.default.clone(),
            other => other,
        }
    }

    /// Gives the dials that it names other ids, where `to` has one.
    pub(super) fn rename(&mut self, to: &dyn Fn(&str) -> Option<String>) {
        if let Some(when) = &mut self.when {
            when.dial = to(&when.dial).unwrap_or_else(|| when.dial.clone());
        }
        if let Some(formula) = self.formula.take() {
            let mut drive = Drive::formula(&formula);
            drive.rename(to);
            self.formula = drive.as_formula().map(str::to_owned);
        }
    }

    fn state(&self, value: Value) -> DialState {
        DialState {
            label: self.label.clone(),
            kind: self.kind(),
            min: self.min,
            max: self.max,
            log: self.log,
            options: self.options.iter().map(|o| o.key.clone()).collect(),
            value: self.bounded(value),
        }
    }
}

/// What dials stand at; `values` go before the dials' own, and what follows a formula follows it.
pub fn dial_states(dials: &[Dial], values: &BTreeMap<String, Value>) -> DialStates {
    let own = |d: &Dial| (d.id.clone(), d.state(values.get(&d.id).unwrap_or(&d.value).clone()));
    let mut states: DialStates = dials.iter().map(own).collect();
    for d in in_order(dials) {
        let Some(formula) = &d.formula else { continue };
        let value = d.bounded(Drive::formula(formula).value(&d.spec(), &states));
        if let Some(state) = states.get_mut(&d.id) {
            state.value = value;
        }
    }
    states
}

/// The dials that follow formulas, each behind those that it follows. Those in a circle are left out: [`circle`] names it.
fn in_order(dials: &[Dial]) -> Vec<&Dial> {
    let mut left: Vec<(&Dial, Vec<String>)> = dials.iter().filter_map(|d| Some((d, followed(d)?))).collect();
    let mut out = vec![];
    loop {
        let waits = |ids: &[String]| ids.iter().any(|id| left.iter().any(|(other, _)| other.id == *id));
        let (ready, rest): (Vec<_>, Vec<_>) = left.iter().cloned().partition(|(_, ids)| !waits(ids));
        if ready.is_empty() {
            return out;
        }
        out.extend(ready.into_iter().map(|r| r.0));
        left = rest;
    }
}

/// The ids that the formula of a dial names.
fn followed(dial: &Dial) -> Option<Vec<String>> {
    Some(Drive::formula(dial.formula.as_deref()?).dials())
}

/// The labels of dials that follow each other round, the first one again at the end.
pub(super) fn circle(dials: &[Dial]) -> Option<Vec<String>> {
    let fine: BTreeSet<&str> = in_order(dials).into_iter().map(|d| d.id.as_str()).collect();
    let find = |id: &str| dials.iter().find(|d| d.id == id && d.formula.is_some() && !fine.contains(id));
    let mut way = vec![dials.iter().find(|d| find(&d.id).is_some())?];
    loop {
        let next = followed(way.last()?)?.iter().find_map(|id| find(id))?;
        if let Some(start) = way.iter().position(|d| d.id == next.id) {
            return Some(way[start..].iter().chain([&next]).map(|d| d.label.clone()).collect());
        }
        way.push(next);
    }
}

/// A driven setting, and what it stands at now.
#[derive(Debug, Clone, PartialEq, Serialize, TS)]
pub struct Standing {
    /// The setting.
    pub target: Target,
    /// Within the setting's range.
    pub value: Value,
    /// The formula that sets it, with the labels of its dials.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub formula: Option<String>,
    /// Why it doesn't stand at what the formula gives, if it doesn't.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub bounded: Option<String>,
}

/// Every driven setting of a document with the value it stands at.
pub fn standings(document: &Document) -> Vec<Standing> {
    let states = dial_states(&document.dials, &BTreeMap::new());
    let mut found = vec![];
    params(&document.layers, &mut |place, param| {
        if let Param::Drive(drive) = param {
            found.push(Standing {
                target: place.target(),
                value: drive.value(&place.spec, &states),
                formula: drive.as_formula().map(|text| formula_to_labels(text, &states)),
                bounded: drive.bounded(&place.spec, &states),
            });
        }
    });
    found
}

/// What a dial that follows a formula stands at.
#[derive(Debug, Clone, PartialEq, Serialize, TS)]
pub struct Derived {
    /// Within the dial's range.
    pub value: Value,
    /// The formula, with the labels of its dials.
    pub formula: String,
    /// Why it doesn't stand at what the formula gives, if it doesn't.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub bounded: Option<String>,
}

/// The dials that follow formulas, by id.
pub fn derived(dials: &[Dial]) -> BTreeMap<String, Derived> {
    let states = dial_states(dials, &BTreeMap::new());
    let one = |d: &Dial| {
        let text = d.formula.as_deref()?;
        let bounded = Drive::formula(text).bounded(&d.spec(), &states);
        let value = states.get(&d.id)?.value.clone();
        Some((d.id.clone(), Derived { value, formula: formula_to_labels(text, &states), bounded }))
    };
    dials.iter().filter_map(one).collect()
}

/// The base colours that a layer lays down, as `#rrggbb`, from the bottom up: one for a coat that has one, those of all they hold for groups and uses.
pub fn colors(layer: &Layer, dials: &DialStates) -> Vec<String> {
    let all = |layers: &[Layer], dials: &DialStates| layers.iter().flat_map(|l| colors(l, dials)).collect();
    match &layer.kind {
        LayerKind::Group { layers } => all(layers, dials),
        LayerKind::Use { recipe, values } => all(&recipe.layers, &recipe.dial_states(values, dials)),
        LayerKind::Adjust { .. } => vec![],
        LayerKind::Coat { finish } => {
            let used = finish.channels.get("base_color").filter(|u| u.on);
            let Some((used, channel)) = used.zip(channel::find("base_color")) else { return vec![] };
            if let Some(Param::Ramp(drive)) = used.settings.get("color") {
                let mut drive = drive.clone();
                drive.follow(&channel.value(), dials);
                let text = |s: &Stop| if let Value::Text(t) = &s.value { Some(t.clone()) } else { None };
                return drive.stops.iter().filter_map(text).collect();
            }
            vec![resolve(&(channel.specs)(), &used.settings, dials).text("color").to_owned()]
        }
    }
}

/// The dials that drive layers or what they hold, by id.
fn dials_in(layers: &[Layer]) -> BTreeSet<String> {
    let mut ids = BTreeSet::new();
    params(layers, &mut |_, param| ids.extend(param.drive().iter().flat_map(|d| d.dials())));
    ids
}

/// The dials that drive layers or what they hold, with those that these follow, in their order. What shows one of them and isn't among them shows it no longer.
pub(crate) fn dials_behind(layers: &[Layer], dials: &[Dial]) -> Vec<Dial> {
    let mut ids = dials_in(layers);
    for d in in_order(dials).into_iter().rev() {
        if ids.contains(&d.id) {
            ids.extend(followed(d).unwrap_or_default());
        }
    }
    let when = |d: &Dial| d.when.clone().filter(|w| ids.contains(&w.dial));
    dials.iter().filter(|d| ids.contains(&d.id)).map(|d| Dial { when: when(d), ..d.clone() }).collect()
}

/// The dials that drive a layer or what it holds, by id, in their order.
pub fn dials_of(document: &Document, layer: &str) -> Vec<String> {
    let Some(layer) = super::find_layer(&document.layers, layer) else { return vec![] };
    dials_behind(std::slice::from_ref(layer), &document.dials).into_iter().map(|d| d.id).collect()
}

/// What a dial drives, in words: `Chips › Threshold › Cut`, or the label of a dial that follows it. Empty when it drives nothing.
pub fn driven(document: &Document, dial: &str) -> Vec<String> {
    let follows = |d: &&Dial| followed(d).is_some_and(|ids| ids.iter().any(|id| id == dial));
    let dials = document.dials.iter().filter(follows).map(|d| d.label.clone());
    dials.chain(driven_in(&document.layers, dial)).collect()
}

fn driven_in(layers: &[Layer], dial: &str) -> Vec<String> {
    let mut found = vec![];
    params(layers, &mut |place, param| {
        if param.drive().is_some_and(|d| d.follows(dial)) {
            found.push(place.words());
        }
    });
    found
}

//! Starters for finishes: ready materials, built of ordinary channels and ramps, good out of the box and open to change. One entry each in the table of its family.
//!
//! What is not metal keeps its base colour between that of charcoal (0.02) and that of fresh snow (0.9).
//! Lengths are meant for a piece about as large as a gate valve.

mod goods;
mod metals;
mod minerals;
mod paints;

use serde_json::{Value, json};

use super::Finish;
use super::knob::{self, FinishDial, Knob};

/// A ready finish.
pub struct Starter {
    /// Key.
    pub kind: &'static str,
    /// What the artist reads.
    pub label: &'static str,
    /// One sentence of help.
    pub help: &'static str,
    channels: fn() -> Value,
    /// Its dials.
    dials: &'static [Knob],
}

impl Starter {
    /// Its channels with its dials at work, and these. As they stand the finish looks as without them.
    pub fn with_dials(&self) -> (Finish, Vec<FinishDial>) {
        let mut finish = self.finish();
        let dials = knob::put(&mut finish, self.dials);
        (finish, dials)
    }

    /// Its channels.
    pub fn finish(&self) -> Finish {
        let written = json!({"channels": (self.channels)()});
        serde_json::from_value(written).expect("starters are written right, as a test tells")
    }
}

/// A channel that lays one value down.
fn even(value: Value) -> Value {
    let key = if value.is_string() { "color" } else { "value" };
    json!({"on": true, "settings": {key: value}})
}

/// A channel whose value is read along a pattern: its stops as places and values.
fn along(kind: &str, settings: Value, between: &str, stops: &[(f64, Value)]) -> Value {
    let key = if stops[0].1.is_string() { "color" } else { "value" };
    let stops: Vec<Value> = stops.iter().map(|(at, value)| json!({"at": at, "value": value})).collect();
    let ramp = json!({"along": {"kind": kind, "settings": settings}, "stops": stops, "between": between});
    json!({"on": true, "settings": {key: ramp}})
}

/// The same with two values, from one end to the other.
fn from_to(kind: &str, settings: Value, low: Value, high: Value) -> Value {
    along(kind, settings, "linear", &[(0.0, low), (1.0, high)])
}

/// All of them, family by family, in the order in which they are offered.
pub fn all() -> impl Iterator<Item = &'static Starter> {
    [metals::STARTERS, paints::STARTERS, goods::STARTERS, minerals::STARTERS].into_iter().flatten()
}

/// The starter of that kind.
pub fn find(kind: &str) -> Option<&'static Starter> {
    all().find(|s| s.kind == kind)
}

//! A ladder: one or two dials stepped over a range, to see what they do side by side.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

use super::check_dial::check_value;
use super::edit::unknown;
use super::error::limits;
use super::{Dial, Document, EditError};
use crate::setting::{DialKind, ParamSpec, Value};

/// Which dial is stepped, and how.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
pub struct LadderSide {
    /// Its id.
    pub dial: String,
    /// Of a number, where the ladder begins; the dial's own minimum if nothing is said.
    #[serde(default)]
    #[ts(optional)]
    pub from: Option<f64>,
    /// Of a number, where it ends; the dial's own maximum if nothing is said.
    #[serde(default)]
    #[ts(optional)]
    pub to: Option<f64>,
    /// How many steps a number or a seed is taken in. A choice and a switch go through all they have.
    #[serde(default)]
    #[ts(optional)]
    pub steps: Option<usize>,
}

/// One step of a ladder.
#[derive(Debug, Clone, PartialEq, Serialize, TS)]
pub struct Rung {
    /// What the dial stands at.
    pub value: Value,
    /// What it is called there: `Wear 0.5`.
    pub label: String,
}

/// How many steps a number takes.
pub fn steps_spec() -> ParamSpec {
    let help = "How many steps the ladder has from its beginning to its end.";
    ParamSpec::integer("steps", "Steps", (2.0, limits::RUNGS as f64), 5.0, help)
}

/// The steps of one side of a ladder, from its beginning to its end.
///
/// # Errors
/// When there is no such dial, it can't be stepped, or the range or the number of steps is none.
pub fn rungs(document: &Document, side: &LadderSide) -> Result<Vec<Rung>, EditError> {
    let dial = document.dials.iter().find(|d| d.id == side.dial).ok_or_else(|| unknown("dial", &side.dial))?;
    let wrong = |why| Err(EditError::Dial { label: dial.label.clone(), why });
    if dial.formula.is_some() {
        return wrong("it follows a formula and is not stepped; take one of those that it follows");
    }
    let values: Vec<Value> = match dial.kind() {
        DialKind::Number | DialKind::Seed => {
            let spec = steps_spec();
            let asked = side.steps.map_or(spec.default.clone(), |n| Value::Number(n as f64));
            let (Value::Number(steps), Ok(())) = (&asked, spec.check(&asked)) else {
                return wrong("it is stepped in 2 to 12 steps");
            };
            let steps = *steps as usize;
            let (from, to) = (side.from.unwrap_or(dial.min), side.to.unwrap_or(dial.max));
            let at = |i: usize| dial.bounded(Value::Number(between(dial, from, to, i as f64 / (steps - 1) as f64)));
            let values: Vec<Value> = (0..steps).map(at).collect();
            check_value(dial, &Value::Number(from)).and(check_value(dial, &Value::Number(to)))?;
            values
        }
        DialKind::Choice => dial.options.iter().map(|o| Value::Text(o.key.clone())).collect(),
        DialKind::Switch => vec![Value::Bool(false), Value::Bool(true)],
        DialKind::Color | DialKind::Part | DialKind::Picture | DialKind::Palette => {
            return wrong("only a number, a seed, a choice or a switch can be stepped");
        }
    };
    Ok(values.into_iter().map(|value| Rung { label: words(dial, &value), value }).collect())
}

fn between(dial: &Dial, from: f64, to: f64, share: f64) -> f64 {
    let n = if dial.log && from > 0.0 && to > 0.0 {
        from * libm::pow(to / from, share)
    } else {
        from + (to - from) * share
    };
    if dial.kind() == DialKind::Seed { libm::round(n) } else { n }
}

/// What a dial and its value are called together.
fn words(dial: &Dial, value: &Value) -> String {
    let said = match value {
        Value::Number(n) => {
            let unit = if dial.unit.is_empty() { String::new() } else { format!(" {}", dial.unit) };
            format!("{}{unit}", libm::round(n * 1000.0) / 1000.0)
        }
        Value::Bool(on) => if *on { "on" } else { "off" }.into(),
        Value::Text(key) => {
            dial.options.iter().find(|o| o.key == *key).map_or_else(|| key.clone(), |o| o.label.clone())
        }
    };
    format!("{} {said}", dial.label)
}

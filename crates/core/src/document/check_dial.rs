//! What a valid dial is.

use super::check::name;
use super::error::{EditError, limits};
use super::{Dial, ShownWhen};
use crate::setting::formula::Formula;
use crate::setting::{DialKind, DialStates, DriveError, Value, check_formula, parse_hex, read_palette};

/// Checks a dial among those that stand at `states`.
pub(super) fn check_dial(d: &Dial, states: &DialStates) -> Result<(), EditError> {
    name(&d.label, "dial")?;
    let wrong = |why| Err(EditError::Dial { label: d.label.clone(), why });
    let long = |text: &str, most: usize| text.chars().count() > most;
    if long(&d.group, limits::NAME) || long(&d.unit, 12) || long(&d.help, 4 * limits::NAME) {
        return wrong("its group, its unit or its help is too long");
    }
    match d.kind() {
        DialKind::Number | DialKind::Seed => {
            if !(d.min.is_finite() && d.max.is_finite() && d.min < d.max) {
                return wrong("its range must run from a lower to a higher number");
            }
            if !(d.step >= 0.0 && d.step <= d.max - d.min) {
                return wrong("its step must lie within its range");
            }
            if d.log && d.min <= 0.0 {
                return wrong("it can only move in ratios if its range begins above 0");
            }
        }
        DialKind::Choice => {
            let n = d.options.len();
            if !(2..=limits::OPTIONS).contains(&n) {
                return wrong("a choice has 2 to 64 options");
            }
            let twice = |i: usize| d.options[..i].iter().any(|o| o.key == d.options[i].key);
            if (0..n)
                .any(|i| twice(i) || d.options[i].label.trim().is_empty() || long(&d.options[i].label, limits::NAME))
            {
                return wrong("each of its options needs a name and a key of its own");
            }
        }
        DialKind::Color | DialKind::Switch | DialKind::Part | DialKind::Picture | DialKind::Palette => {}
    }
    check_value(d, &d.default)?;
    check_value(d, &d.value)?;
    if let Some(when) = &d.when {
        check_when(d, when, states)?;
    }
    let Some(formula) = &d.formula else { return Ok(()) };
    if d.kind() != DialKind::Number {
        return wrong("only a number can follow a formula");
    }
    let checked = Formula::read(formula).map_err(DriveError::from).and_then(|f| check_formula(&f, states));
    checked.map_err(|why| EditError::Drive { place: "Dial".into(), setting: d.label.clone(), why })
}

/// Checks that a dial can stand at a value.
pub(super) fn check_value(d: &Dial, value: &Value) -> Result<(), EditError> {
    let wrong = |why| Err(EditError::Dial { label: d.label.clone(), why });
    match (d.kind(), value) {
        (DialKind::Number | DialKind::Seed, Value::Number(n)) => {
            if !n.is_finite() || !(d.min..=d.max).contains(n) {
                return wrong("its value and its default must lie within its range");
            }
            let whole = d.kind() == DialKind::Number || n.fract() == 0.0;
            if whole { Ok(()) } else { wrong("a seed is a whole number") }
        }
        (DialKind::Number | DialKind::Seed, _) => wrong("its value and its default must be numbers"),
        (DialKind::Color, Value::Text(t)) if parse_hex(t).is_some() => Ok(()),
        (DialKind::Color, _) => wrong("a colour is written as #rrggbb"),
        (DialKind::Choice, Value::Text(t)) if d.options.iter().any(|o| o.key == *t) => Ok(()),
        (DialKind::Choice, _) => wrong("its value and its default must be among its options"),
        (DialKind::Switch, Value::Bool(_)) => Ok(()),
        (DialKind::Switch, _) => wrong("a switch is on or off"),
        (DialKind::Part | DialKind::Picture, Value::Text(t)) if t.len() <= 800 => Ok(()),
        (DialKind::Part, _) => wrong("it takes the name of a part"),
        (DialKind::Palette, Value::Text(t)) if read_palette(t).is_some() => Ok(()),
        (DialKind::Palette, _) => {
            wrong("a palette is written as its colours with their weights: #5b6e52 0.6, #8a3b1f 0.4")
        }
        (DialKind::Picture, _) => wrong("it takes the file name of a picture"),
    }
}

fn check_when(d: &Dial, when: &ShownWhen, states: &DialStates) -> Result<(), EditError> {
    let wrong = |why| Err(EditError::Dial { label: d.label.clone(), why });
    let Some(other) = states.get(&when.dial).filter(|_| when.dial != d.id) else {
        return wrong("the dial that it is shown by is gone");
    };
    match (other.kind, &when.is) {
        (DialKind::Switch, Value::Bool(_)) => Ok(()),
        (DialKind::Choice, Value::Text(t)) if other.options.contains(t) => Ok(()),
        _ => wrong("it can be shown by a switch or a choice alone, and by what that can stand at"),
    }
}

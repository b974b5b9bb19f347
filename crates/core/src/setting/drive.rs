//! What sets a setting in the artist's place: a dial whose range is laid on the setting's, or a formula over dials.
//!
//! Nothing else matches on the kinds of [`Drive`].

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

use super::formula::{Formula, FormulaError, braced, written};
use super::{DialKind, DialState, DialStates, Param, ParamSpec, ParamType, Value};

/// What sets a setting.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(untagged)]
pub enum Drive {
    /// A dial.
    Dial(DialDrive),
    /// A formula over dials.
    Formula(FormulaDrive),
}

/// How a dial drives a setting: its range from minimum to maximum is laid on `low`…`high`; without them the dial's own value is taken.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct DialDrive {
    /// The id of the dial.
    pub dial: String,
    /// The setting's value when the dial stands at its minimum.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub low: Option<f64>,
    /// The setting's value when the dial stands at its maximum.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub high: Option<f64>,
    /// The way from one to the other.
    #[serde(default, skip_serializing_if = "Way::is_even")]
    #[ts(as = "Option<Way>", optional)]
    pub way: Way,
}

/// The way from the low end to the high one.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Way {
    /// In even steps.
    #[default]
    Even,
    /// In even ratios: half way of the dial is the geometric mean.
    Ratios,
    /// Slowly at both ends.
    Smooth,
    /// In five even steps.
    Stepped,
}

impl Way {
    fn is_even(&self) -> bool {
        *self == Way::Even
    }

    fn between(self, low: f64, high: f64, t: f64) -> f64 {
        match self {
            Way::Even => low + (high - low) * t,
            Way::Ratios if low > 0.0 && high > 0.0 => low * libm::pow(high / low, t),
            Way::Ratios => low + (high - low) * t,
            Way::Smooth => low + (high - low) * (t * t * (3.0 - 2.0 * t)),
            Way::Stepped => low + (high - low) * (libm::round(t * 4.0) / 4.0),
        }
    }
}

/// A formula that sets a number, its dials by id in braces.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct FormulaDrive {
    /// The formula.
    pub formula: String,
}

/// Why a drive can't set a setting.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum DriveError {
    /// It names a dial that is not there.
    #[error("it is driven by a dial that is gone (“{0}”); give it a value or another dial")]
    Gone(String),
    /// The dial is of another kind.
    #[error("the dial “{dial}” is {is}, and that can't set it")]
    Kind {
        /// The dial's label.
        dial: String,
        /// What it is, with an article.
        is: &'static str,
    },
    /// Ends out of range.
    #[error("{0}")]
    Ends(String),
    /// A formula that can't be read.
    #[error("its formula can't be worked out: {}", .0.why)]
    Formula(#[from] FormulaError),
}

impl Drive {
    /// A dial's range laid evenly on `low`…`high`.
    pub fn ranged(dial: &str, low: f64, high: f64) -> Drive {
        Drive::Dial(DialDrive { dial: dial.into(), low: Some(low), high: Some(high), way: Way::Even })
    }

    /// A dial's own value.
    pub fn plain(dial: &str) -> Drive {
        Drive::Dial(DialDrive { dial: dial.into(), low: None, high: None, way: Way::Even })
    }

    /// A formula, its dials by id in braces.
    pub fn formula(formula: &str) -> Drive {
        Drive::Formula(FormulaDrive { formula: formula.into() })
    }

    /// The ids of the dials that it follows.
    pub fn dials(&self) -> Vec<String> {
        match self {
            Drive::Dial(drive) => vec![drive.dial.clone()],
            Drive::Formula(drive) => drive.read().map(|f| f.dials().map(str::to_owned).collect()).unwrap_or_default(),
        }
    }

    /// Whether it follows the dial of that id.
    pub fn follows(&self, dial: &str) -> bool {
        self.dials().iter().any(|d| d == dial)
    }

    /// The formula, its dials by id, if it is one.
    pub fn as_formula(&self) -> Option<&str> {
        if let Drive::Formula(drive) = self { Some(&drive.formula) } else { None }
    }

    /// A formula that gives the same, if there is one.
    pub(crate) fn as_text(&self, dials: &DialStates) -> Option<String> {
        let drive = match self {
            Drive::Formula(drive) => return Some(drive.formula.clone()),
            Drive::Dial(drive) => drive,
        };
        let (state, dial) = (dials.get(&drive.dial)?, braced(&drive.dial));
        match (drive.low, drive.high) {
            (Some(low), Some(high)) if drive.way == Way::Even && !state.log => {
                let (from, span) =
                    if state.kind == DialKind::Switch { (0.0, 1.0) } else { (state.min, state.max - state.min) };
                Some(format!("mix({low}, {high}, ({dial} - ({from})) / {span})"))
            }
            (None, None) if state.kind.is_of_numbers() => Some(dial),
            _ => None,
        }
    }

    /// Gives dials other ids, where `to` has one.
    pub fn rename(&mut self, to: &dyn Fn(&str) -> Option<String>) {
        match self {
            Drive::Dial(drive) => drive.dial = to(&drive.dial).unwrap_or_else(|| drive.dial.clone()),
            Drive::Formula(drive) => drive.replace(&|id| braced(&to(id).unwrap_or_else(|| id.into()))),
        }
    }

    /// What it gives, as it is: not bounded to the setting's range. `None` where a dial is gone or has no number.
    fn gives(&self, dials: &DialStates) -> Option<Value> {
        match self {
            Drive::Dial(drive) => {
                let state = dials.get(&drive.dial)?;
                Some(match (state.share(), drive.low, drive.high) {
                    (Some(t), Some(low), Some(high)) => Value::Number(drive.way.between(low, high, t)),
                    _ => state.value.clone(),
                })
            }
            Drive::Formula(drive) => {
                let number = drive.read().ok()?.value(&|id| dials.get(id)?.number())?;
                Some(Value::Number(number))
            }
        }
    }

    /// The setting's value, within its range; its default where a dial is gone, or a formula gives no number.
    pub fn value(&self, spec: &ParamSpec, dials: &DialStates) -> Value {
        let given = match self.gives(dials) {
            // What is infinite lies beyond an end; what is no number lies nowhere.
            Some(Value::Number(n)) if !n.is_nan() => Value::Number(n.clamp(spec.min, spec.max)),
            Some(other) => other,
            None => spec.default.clone(),
        };
        spec.bound(given)
    }

    /// Why the setting doesn't stand at what a formula gives, if it doesn't.
    pub fn bounded(&self, spec: &ParamSpec, dials: &DialStates) -> Option<String> {
        let (Drive::Formula(_), Value::Number(stands)) = (self, self.value(spec, dials)) else { return None };
        match self.gives(dials) {
            Some(Value::Number(n)) if n.is_nan() => Some(format!("The formula gives no number; {stands} is taken.")),
            Some(Value::Number(n)) if n > spec.max => {
                Some(format!("The formula gives {}; {stands} is the most.", short(n)))
            }
            Some(Value::Number(n)) if n < spec.min => {
                Some(format!("The formula gives {}; {stands} is the least.", short(n)))
            }
            _ => None,
        }
    }

    /// What takes its place when a dial goes: the value that the setting stands at, or the formula with a number where the dial was.
    pub fn without(&self, dial: &str, spec: &ParamSpec, dials: &DialStates) -> Param {
        match self {
            Drive::Formula(drive) if self.dials().iter().any(|d| d != dial) => {
                let mut drive = drive.clone();
                drive.hold(dial, dials);
                Param::Drive(Drive::Formula(drive))
            }
            _ => Param::Const(self.value(spec, dials)),
        }
    }

    /// The same with other ends.
    pub fn scaled(&self, end: &dyn Fn(f64) -> f64) -> Drive {
        match self {
            Drive::Dial(d) => Drive::Dial(DialDrive { low: d.low.map(end), high: d.high.map(end), ..d.clone() }),
            Drive::Formula(_) => self.clone(),
        }
    }

    /// Checks that it can set a setting.
    ///
    /// # Errors
    /// [`DriveError`]
    pub fn check(&self, spec: &ParamSpec, dials: &DialStates) -> Result<(), DriveError> {
        match self {
            Drive::Dial(drive) => drive.check(spec, dials),
            Drive::Formula(drive) => {
                let number = matches!(spec.kind, ParamType::Number | ParamType::Integer);
                if !number {
                    return Err(DriveError::Ends("a formula gives a number, and it takes none".into()));
                }
                check_formula(&drive.read()?, dials)
            }
        }
    }
}

/// Checks that all dials of a formula are there and have numbers.
pub(crate) fn check_formula(formula: &Formula, dials: &DialStates) -> Result<(), DriveError> {
    for id in formula.dials() {
        let Some(state) = dials.get(id) else { return Err(DriveError::Gone(id.into())) };
        if !state.kind.is_of_numbers() {
            return Err(DriveError::Kind { dial: state.label.clone(), is: state.kind.words() });
        }
    }
    Ok(())
}

impl DialDrive {
    fn check(&self, spec: &ParamSpec, dials: &DialStates) -> Result<(), DriveError> {
        let Some(state) = dials.get(&self.dial) else { return Err(DriveError::Gone(self.dial.clone())) };
        let ranged = self.low.is_some() && self.high.is_some();
        if !state.fits(spec, ranged) {
            return Err(DriveError::Kind { dial: state.label.clone(), is: state.kind.words() });
        }
        for end in [self.low, self.high].into_iter().flatten() {
            if !end.is_finite() || end < spec.min || end > spec.max {
                let error = spec.check(&Value::Number(end)).err();
                let error = error.map_or_else(|| "its ends must be numbers".into(), |e| e.to_string());
                return Err(DriveError::Ends(error));
            }
        }
        if self.way == Way::Ratios && !(self.low > Some(0.0) && self.high > Some(0.0)) {
            return Err(DriveError::Ends("in even ratios both ends must lie above 0".into()));
        }
        Ok(())
    }
}

impl FormulaDrive {
    fn read(&self) -> Result<Formula, FormulaError> {
        Formula::read(&self.formula)
    }

    /// Puts something in the place of each dial.
    fn replace(&mut self, with: &dyn Fn(&str) -> String) {
        if let Ok(new) = self.read().and_then(|f| f.renamed(&|id| Ok(with(id)))) {
            self.formula = new;
        }
    }

    /// Puts the number that a dial stands at in its place.
    pub(crate) fn hold(&mut self, dial: &str, dials: &DialStates) {
        let number = dials.get(dial).and_then(DialState::number).unwrap_or(0.0);
        let number = if number < 0.0 { format!("({number})") } else { number.to_string() };
        self.replace(&|id| if id == dial { number.clone() } else { braced(id) });
    }
}

/// A formula as the artist writes it, with the ids of its dials in the place of their labels.
///
/// # Errors
/// [`FormulaError`] with the place: also where no dial is called so, or two are.
pub fn formula_from_labels(text: &str, dials: &DialStates) -> Result<String, FormulaError> {
    let id = |name: &str| {
        let called = |d: &&String| plain(&dials[*d].label) == name || told_apart(&dials[*d].label, d) == name;
        let alike = |d: &&String| plain(&dials[*d].label).eq_ignore_ascii_case(name);
        let exact: Vec<&String> = dials.keys().filter(called).collect();
        let found = if exact.is_empty() { dials.keys().filter(alike).collect() } else { exact };
        match found.as_slice() {
            [one] => Ok(braced(one)),
            [] => Err(format!("There is no dial “{name}”")),
            [first, second, ..] => {
                let write = |id: &str| braced(&told_apart(&dials[id].label, id));
                Err(format!("Two dials are called “{name}”: write {} or {}", write(first), write(second)))
            }
        }
    };
    Formula::read(text)?.renamed(&id)
}

/// A formula as the artist reads it, with the labels of its dials in the place of their ids.
pub fn formula_to_labels(text: &str, dials: &DialStates) -> String {
    let label = |id: &str| {
        let Some(state) = dials.get(id) else { return Ok(braced(id)) };
        let alike = dials.values().filter(|d| d.label.eq_ignore_ascii_case(&state.label)).count();
        Ok(if alike > 1 { braced(&told_apart(&state.label, id)) } else { written(&plain(&state.label)) })
    };
    Formula::read(text).and_then(|f| f.renamed(&label)).unwrap_or_else(|_| text.into())
}

/// How dials of one label are told apart.
fn told_apart(label: &str, id: &str) -> String {
    format!("{} ({id})", plain(label))
}

/// A label without what would end it within braces.
fn plain(label: &str) -> String {
    label.replace(['{', '}'], "").trim().into()
}

/// To four places.
fn short(n: f64) -> String {
    if n.is_infinite() {
        return if n > 0.0 { "something infinite".into() } else { "minus something infinite".into() };
    }
    let rounded: f64 = format!("{n:.3e}").parse().unwrap_or(n);
    rounded.to_string()
}

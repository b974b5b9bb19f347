//! Settings: one type, one description and one resolver for everything that can be turned.
//!
//! A [`Param`] is what a document holds: a constant, or a drive by a dial or by a mask. A [`ParamSpec`] says what the setting means
//! (label, unit, range, default). [`Settings`] are the params of one step or channel by key. Before anything is computed,
//! [`resolve`] turns them into [`Resolved`] values: complete, in range, without dials. Kernels see nothing else.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// The value of a setting. Colours are sRGB hex strings (`#rrggbb`), choices their key, parts their name.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
#[serde(untagged)]
pub enum Value {
    /// On or off.
    Bool(bool),
    /// A number in the unit of its [`ParamSpec`].
    Number(f64),
    /// A colour, a choice or a name.
    Text(String),
}

impl Value {
    /// Feeds it to a content hash.
    pub fn hash_into(&self, h: &mut blake3::Hasher) {
        match self {
            Value::Bool(b) => h.update(&[0, u8::from(*b)]),
            // −0 and 0 are the same setting and so the same key.
            Value::Number(n) => h.update(&[1]).update(&(n + 0.0).to_bits().to_le_bytes()),
            Value::Text(t) => h.update(&[2]).update(&(t.len() as u64).to_le_bytes()).update(t.as_bytes()),
        };
    }
}

/// A setting as the document holds it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
#[serde(untagged)]
pub enum Param {
    /// Driven by a dial.
    Dial(DialDrive),
    /// Driven by a mask: another number at every place.
    Mask(MaskDrive),
    /// Read from a ramp along a mask: another number or colour at every place.
    Ramp(RampDrive),
    /// Read from a picture: another colour at every place.
    Colors(ColorsDrive),
    /// Says its own value.
    Const(Value),
}

/// How a dial drives a setting: the dial's range from minimum to maximum is laid linearly on `low`…`high`; without them the
/// dial's own value is taken.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
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
}

/// How a mask drives a number of a step: where it is 0 the number is `low`, where it is 1 `high`; between them evenly, or in even ratios for settings whose
/// slider moves in ratios.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
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
    /// The mask that makes it another one at every place.
    pub fn source(&self) -> Option<&MaskSource> {
        match self {
            Param::Mask(drive) => Some(&drive.mask),
            Param::Ramp(drive) => Some(&drive.along),
            Param::Colors(drive) => Some(&drive.colors),
            Param::Dial(_) | Param::Const(_) => None,
        }
    }

    /// The same, to change it.
    pub fn source_mut(&mut self) -> Option<&mut MaskSource> {
        match self {
            Param::Mask(drive) => Some(&mut drive.mask),
            Param::Ramp(drive) => Some(&mut drive.along),
            Param::Colors(drive) => Some(&mut drive.colors),
            Param::Dial(_) | Param::Const(_) => None,
        }
    }
}

/// A mask that drives a number: a reading, a pattern or another source.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct MaskSource {
    /// A kind of the catalog that brings something in.
    pub kind: String,
    /// Its settings; missing ones stand at their default. None of them is driven by a mask.
    #[serde(default)]
    pub settings: Settings,
}

/// A number or colour of a finish that is read from a ramp along a mask.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
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
}

fn once() -> u32 {
    1
}

/// A colour of a finish that is read from a picture.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct ColorsDrive {
    /// The picture and how it lies: a source of the kind `colors`.
    pub colors: MaskSource,
}

/// A stop of a ramp.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct Stop {
    /// Its place, 0…1.
    pub at: f64,
    /// A number, or a colour as `#rrggbb`.
    pub value: Value,
    /// The dial that its value follows: edits keep the value at what the dial gives.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub by: Option<DialDrive>,
}

impl RampDrive {
    /// Gives the stops that follow dials the values of these.
    pub fn follow(&mut self, spec: &ParamSpec, dials: &DialStates) {
        for stop in &mut self.stops {
            // One whose dial is gone keeps what it had.
            if let Some(by) = stop.by.clone().filter(|by| dials.contains_key(&by.dial)) {
                stop.value = resolve_one(spec, Some(&Param::Dial(by)), dials);
            }
        }
    }
}

/// What lies between two stops of a ramp.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, TS)]
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

impl From<&str> for Param {
    fn from(v: &str) -> Self {
        Param::Const(Value::Text(v.into()))
    }
}

/// The params of one step, channel or reading, by key. A key that is missing stands for its default.
pub type Settings = BTreeMap<String, Param>;

/// What kind of value a setting takes, and so which control shows it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum ParamType {
    /// A real number.
    Number,
    /// A whole number.
    Integer,
    /// An sRGB colour.
    Color,
    /// One of the spec's choices.
    Choice,
    /// The name of a part of the piece.
    Part,
    /// The name under which a layer publishes its mask.
    Follow,
    /// The file name of a picture that was brought in for masks.
    Picture,
}

/// The description of a setting: the interface draws its control from this and from nothing else.
#[derive(Debug, Clone, PartialEq, Serialize, TS)]
pub struct ParamSpec {
    /// Its key in [`Settings`].
    pub key: &'static str,
    /// What the artist reads.
    pub label: &'static str,
    /// `mm`, `°`, `%` or nothing.
    pub unit: &'static str,
    /// Least value.
    pub min: f64,
    /// Greatest value.
    pub max: f64,
    /// What it is when nobody said anything.
    pub default: Value,
    /// Kind of value.
    #[serde(rename = "type")]
    pub kind: ParamType,
    /// Whether the slider moves in ratios rather than in steps (lengths).
    pub log: bool,
    /// The choices, as key and label; empty for other kinds.
    pub choices: Vec<(&'static str, &'static str)>,
    /// One sentence of help.
    pub help: &'static str,
    /// Under which heading it stands, folded away; empty for what is always seen.
    pub group: &'static str,
    /// It has an effect only while the setting of the first key stands at one of the values; always when there is no key.
    pub when: (&'static str, Vec<&'static str>),
    /// It is a value of the mask that its step changes: drawn into the histogram of the mask before that step.
    pub marks: bool,
    /// A number that may differ from place to place, along a mask.
    pub varies: bool,
    /// What may be read along a ramp.
    pub ramps: bool,
}

impl ParamSpec {
    fn base(key: &'static str, label: &'static str, kind: ParamType, default: Value, help: &'static str) -> Self {
        Self {
            key,
            label,
            unit: "",
            min: 0.0,
            max: 1.0,
            default,
            kind,
            log: false,
            choices: vec![],
            help,
            group: "",
            when: ("", vec![]),
            marks: false,
            varies: false,
            ramps: false,
        }
    }

    /// The same under a heading.
    pub fn in_group(self, group: &'static str) -> Self {
        Self { group, ..self }
    }

    /// The same, as a value of the mask before the step.
    pub fn marking(self) -> Self {
        Self { marks: true, ..self }
    }

    /// The same, and if it is a number it may vary along a mask.
    pub fn varying(self) -> Self {
        let varies = matches!(self.kind, ParamType::Number | ParamType::Integer);
        Self { varies, ..self }
    }

    /// The same, and may be read along a ramp.
    pub fn ramping(self) -> Self {
        Self { ramps: true, ..self }.varying()
    }

    /// The same, with an effect only while another setting stands at one of `values`.
    pub fn only_with(self, key: &'static str, values: &[&'static str]) -> Self {
        Self { when: (key, values.to_vec()), ..self }
    }

    /// A number from 0 to 1.
    pub fn share(key: &'static str, label: &'static str, default: f64, help: &'static str) -> Self {
        Self::base(key, label, ParamType::Number, Value::Number(default), help)
    }

    /// A number in `unit` within `range`.
    pub fn number(
        key: &'static str,
        label: &'static str,
        unit: &'static str,
        range: (f64, f64),
        default: f64,
        help: &'static str,
    ) -> Self {
        Self { unit, min: range.0, max: range.1, ..Self::share(key, label, default, help) }
    }

    /// A length in millimetres whose slider moves in ratios.
    pub fn length(key: &'static str, label: &'static str, range: (f64, f64), default: f64, help: &'static str) -> Self {
        Self { log: true, ..Self::number(key, label, "mm", range, default, help) }
    }

    /// A whole number within `range`.
    pub fn integer(
        key: &'static str,
        label: &'static str,
        range: (f64, f64),
        default: f64,
        help: &'static str,
    ) -> Self {
        Self { kind: ParamType::Integer, ..Self::number(key, label, "", range, default, help) }
    }

    /// A colour.
    pub fn color(key: &'static str, label: &'static str, default: &str, help: &'static str) -> Self {
        Self::base(key, label, ParamType::Color, Value::Text(default.into()), help)
    }

    /// One of `choices`; the first is the default.
    pub fn choice(
        key: &'static str,
        label: &'static str,
        choices: &[(&'static str, &'static str)],
        help: &'static str,
    ) -> Self {
        let default = Value::Text(choices[0].0.into());
        Self { choices: choices.to_vec(), ..Self::base(key, label, ParamType::Choice, default, help) }
    }

    /// The name of a part; empty means none.
    pub fn part(key: &'static str, label: &'static str, help: &'static str) -> Self {
        Self::base(key, label, ParamType::Part, Value::Text(String::new()), help)
    }

    /// The file name of a picture; empty means none.
    pub fn picture(key: &'static str, label: &'static str, help: &'static str) -> Self {
        Self::base(key, label, ParamType::Picture, Value::Text(String::new()), help)
    }

    /// The name of a published mask; empty means none.
    pub fn follow(key: &'static str, label: &'static str, help: &'static str) -> Self {
        Self::base(key, label, ParamType::Follow, Value::Text(String::new()), help)
    }

    /// Checks a value against the description.
    ///
    /// # Errors
    /// A sentence that says what is wrong and what would be right.
    pub fn check(&self, value: &Value) -> Result<(), SettingError> {
        let wrong = |wanted: String| Err(SettingError { setting: self.label.into(), wanted });
        match (self.kind, value) {
            (ParamType::Number | ParamType::Integer, Value::Number(n)) => {
                if !n.is_finite() || *n < self.min || *n > self.max {
                    let unit = if self.unit.is_empty() { String::new() } else { format!(" {}", self.unit) };
                    return wrong(format!("a number from {} to {}{unit}", self.min, self.max));
                }
                if self.kind == ParamType::Integer && n.fract() != 0.0 {
                    return wrong(format!("a whole number from {} to {}", self.min, self.max));
                }
                Ok(())
            }
            (ParamType::Color, Value::Text(t)) if parse_hex(t).is_some() => Ok(()),
            (ParamType::Color, _) => wrong("a colour written as #rrggbb".into()),
            (ParamType::Choice, Value::Text(t)) if self.choices.iter().any(|c| c.0 == t) => Ok(()),
            (ParamType::Choice, _) => {
                let all: Vec<_> = self.choices.iter().map(|c| c.0).collect();
                wrong(format!("one of: {}", all.join(", ")))
            }
            (ParamType::Part, Value::Text(t)) if t.len() <= 200 => Ok(()),
            (ParamType::Part, _) => wrong("the name of a part".into()),
            (ParamType::Follow, Value::Text(t)) if t.len() <= 200 => Ok(()),
            (ParamType::Picture, Value::Text(t)) if t.len() <= 800 => Ok(()),
            (ParamType::Picture, _) => wrong("the file name of a picture".into()),
            (ParamType::Follow, _) => wrong("the name of a published mask".into()),
            (ParamType::Number | ParamType::Integer, _) => wrong(format!("a number from {} to {}", self.min, self.max)),
        }
    }

    /// The number at share `t` of the way from `low` to `high`: evenly, or in even ratios where the slider moves in ratios.
    pub fn between(&self, low: f64, high: f64, t: f64) -> f64 {
        let ratios = self.log && low > 0.0 && high > 0.0;
        let number = if ratios { low * libm::pow(high / low, t) } else { low + (high - low) * t };
        if self.kind == ParamType::Integer { number.round() } else { number }
    }

    /// The nearest value that [`Self::check`] accepts: for values that a dial computed.
    pub fn bound(&self, value: Value) -> Value {
        match (self.kind, value) {
            (ParamType::Number, Value::Number(n)) if n.is_finite() => Value::Number(n.clamp(self.min, self.max)),
            (ParamType::Integer, Value::Number(n)) if n.is_finite() => {
                Value::Number(n.round().clamp(self.min, self.max))
            }
            (_, v) if self.check(&v).is_ok() => v,
            _ => self.default.clone(),
        }
    }
}

/// A value that its setting does not take.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("“{setting}” takes {wanted}.")]
pub struct SettingError {
    /// Label of the setting.
    pub setting: String,
    /// What it takes.
    pub wanted: String,
}

/// What a dial stands at, as the resolver needs it.
#[derive(Debug, Clone, PartialEq)]
pub struct DialState {
    /// Least value of a number dial.
    pub min: f64,
    /// Greatest value of a number dial.
    pub max: f64,
    /// Where it stands.
    pub value: Value,
}

/// The dials in force, by id.
pub type DialStates = BTreeMap<String, DialState>;

/// Complete values in range, ready for a kernel.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Resolved(pub BTreeMap<&'static str, Value>);

impl Resolved {
    /// The number at `key`, which its spec guarantees; 0 otherwise.
    pub fn number(&self, key: &str) -> f32 {
        match self.0.get(key) {
            Some(Value::Number(n)) => *n as f32,
            _ => 0.0,
        }
    }

    /// The whole number at `key` as unsigned.
    pub fn integer(&self, key: &str) -> u32 {
        self.number(key) as u32
    }

    /// The text at `key`.
    pub fn text(&self, key: &str) -> &str {
        match self.0.get(key) {
            Some(Value::Text(t)) => t,
            _ => "",
        }
    }

    /// The colour at `key`, linear Rec. 709.
    pub fn color(&self, key: &str) -> [f32; 3] {
        parse_hex(self.text(key)).unwrap_or_default()
    }

    /// The same with another number at `key`.
    pub fn with_number(mut self, key: &str, number: f64) -> Self {
        if let Some(value) = self.0.get_mut(key) {
            *value = Value::Number(number);
        }
        self
    }

    /// The same with another text at `key`.
    pub fn with_text(mut self, key: &str, text: &str) -> Self {
        if let Some(value) = self.0.get_mut(key) {
            *value = Value::Text(text.into());
        }
        self
    }

    /// Feeds keys and values to a content hash.
    pub fn hash_into(&self, h: &mut blake3::Hasher) {
        for (k, v) in &self.0 {
            h.update(k.as_bytes());
            v.hash_into(h);
        }
    }
}

/// The value of one param under the dials in force, bounded to the setting's range. A dial that is gone leaves the default.
pub fn resolve_one(spec: &ParamSpec, param: Option<&Param>, dials: &DialStates) -> Value {
    let value = match param {
        None => spec.default.clone(),
        Some(Param::Const(v)) => v.clone(),
        // What stands for all of them where only one can be used.
        Some(Param::Ramp(ramp)) => ramp.stops.first().map_or_else(|| spec.default.clone(), |s| s.value.clone()),
        Some(Param::Colors(_)) => spec.default.clone(),
        Some(Param::Mask(drive)) => Value::Number(spec.between(drive.low, drive.high, 0.5)),
        Some(Param::Dial(drive)) => match dials.get(&drive.dial) {
            None => spec.default.clone(),
            Some(state) => drive_value(drive, state),
        },
    };
    spec.bound(value)
}

fn drive_value(drive: &DialDrive, state: &DialState) -> Value {
    match (&state.value, drive.low, drive.high) {
        (Value::Number(v), Some(low), Some(high)) => {
            let span = state.max - state.min;
            let t = if span > 0.0 { ((v - state.min) / span).clamp(0.0, 1.0) } else { 0.0 };
            Value::Number(low + (high - low) * t)
        }
        (v, _, _) => v.clone(),
    }
}

/// All settings of a step, channel or reading under the dials in force.
pub fn resolve(specs: &[ParamSpec], settings: &Settings, dials: &DialStates) -> Resolved {
    Resolved(specs.iter().map(|s| (s.key, resolve_one(s, settings.get(s.key), dials))).collect())
}

/// Reads `#rrggbb` into linear Rec. 709 by the sRGB transfer function (IEC 61966-2-1).
pub fn parse_hex(text: &str) -> Option<[f32; 3]> {
    let digits = text.strip_prefix('#').filter(|d| d.len() == 6 && d.is_ascii())?;
    let byte = |i: usize| u8::from_str_radix(digits.get(i..i + 2)?, 16).ok();
    Some([byte(0)?, byte(2)?, byte(4)?].map(|b| crate::raster::srgb::decode(f32::from(b) / 255.0)))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_dial_is_laid_on_the_settings_own_range() {
        let spec = ParamSpec::share("amount", "Amount", 1.0, "");
        let dials = BTreeMap::from([("d".to_string(), DialState { min: 0.0, max: 10.0, value: Value::Number(5.0) })]);
        let driven = |low, high| Param::Dial(DialDrive { dial: "d".into(), low, high });
        assert_eq!(resolve_one(&spec, Some(&driven(Some(0.75), Some(0.25))), &dials), Value::Number(0.5));
        assert_eq!(resolve_one(&spec, Some(&driven(None, None)), &dials), Value::Number(1.0), "bounded to the range");
        let gone = Param::Dial(DialDrive { dial: "gone".into(), low: None, high: None });
        assert_eq!(resolve_one(&spec, Some(&gone), &dials), Value::Number(1.0));
    }

    #[test]
    fn values_out_of_range_are_refused_with_what_would_be_right() {
        let spec = ParamSpec::length("size", "Size", (0.1, 1000.0), 40.0, "");
        for bad in [Value::Number(f64::NAN), Value::Number(0.0), Value::Number(1e9), Value::Text("a".into())] {
            let said = spec.check(&bad).unwrap_err().to_string();
            assert!(said.contains("“Size” takes a number from 0.1 to 1000"), "{said}");
        }
        assert!(spec.check(&Value::Number(38.0)).is_ok());
    }
}

//! What a setting means: label, unit, range, default, and what it refuses.

use std::borrow::Cow;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

use super::{Value, parse_hex, read_palette};

/// What kind of value a setting takes, and so which control shows it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
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
    /// On or off.
    Switch,
    /// The name of a part of the piece.
    Part,
    /// The name under which a layer publishes its mask.
    Follow,
    /// The file name of a picture that was brought in for masks.
    Picture,
    /// A few colours, each as often as its weight says.
    Palette,
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
    pub choices: Vec<(Cow<'static, str>, Cow<'static, str>)>,
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
    pub(crate) fn base(
        key: &'static str,
        label: &'static str,
        kind: ParamType,
        default: Value,
        help: &'static str,
    ) -> Self {
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

    /// On or off.
    pub fn switch(key: &'static str, label: &'static str, default: bool, help: &'static str) -> Self {
        Self::base(key, label, ParamType::Switch, Value::Bool(default), help)
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
        Self {
            choices: choices.iter().map(|c| (c.0.into(), c.1.into())).collect(),
            ..Self::base(key, label, ParamType::Choice, default, help)
        }
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
            (ParamType::Choice, Value::Text(t)) if self.choices.iter().any(|c| c.0 == *t) => Ok(()),
            (ParamType::Choice, _) => {
                let all: Vec<&str> = self.choices.iter().map(|c| &*c.0).collect();
                wrong(format!("one of: {}", all.join(", ")))
            }
            (ParamType::Switch, Value::Bool(_)) => Ok(()),
            (ParamType::Switch, _) => wrong("on or off".into()),
            (ParamType::Part, Value::Text(t)) if t.len() <= 200 => Ok(()),
            (ParamType::Part, _) => wrong("the name of a part".into()),
            (ParamType::Follow, Value::Text(t)) if t.len() <= 200 => Ok(()),
            (ParamType::Picture, Value::Text(t)) if t.len() <= 800 => Ok(()),
            (ParamType::Picture, _) => wrong("the file name of a picture".into()),
            (ParamType::Palette, Value::Text(t)) if read_palette(t).is_some() => Ok(()),
            (ParamType::Palette, _) => wrong("1 to 16 colours, each with its weight: #5b6e52 0.6, #8a3b1f 0.4".into()),
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

//! From what a document holds to what a kernel takes: complete, in range, without dials.

use std::collections::BTreeMap;

use super::{DialStates, Param, ParamSpec, Settings, Value, parse_hex};

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

    /// Whether the switch at `key` is on.
    pub fn is_on(&self, key: &str) -> bool {
        self.0.get(key) == Some(&Value::Bool(true))
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
        Some(Param::Drive(drive)) => return drive.value(spec, dials),
    };
    spec.bound(value)
}

/// All settings of a step, channel or reading under the dials in force.
pub fn resolve(specs: &[ParamSpec], settings: &Settings, dials: &DialStates) -> Resolved {
    Resolved(specs.iter().map(|s| (s.key, resolve_one(s, settings.get(s.key), dials))).collect())
}

//! Settings: one type, one description and one resolver for everything that can be turned.
//!
//! A [`Param`] is what a document holds: a constant, or a drive by a dial or by a mask. A [`ParamSpec`] says what the setting means
//! (label, unit, range, default). [`Settings`] are the params of one step or channel by key. Before anything is computed,
//! [`resolve`] turns them into [`Resolved`] values: complete, in range, without dials. Kernels see nothing else.

mod param;
mod resolve;
mod spec;

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use ts_rs::TS;

pub use param::{Between, ColorsDrive, DialDrive, MaskDrive, MaskSource, Param, RampDrive, Stop};
pub use resolve::{DialState, DialStates, Resolved, resolve, resolve_one};
pub use spec::{ParamSpec, ParamType, SettingError};

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

/// The params of one step, channel or reading, by key. A key that is missing stands for its default.
pub type Settings = BTreeMap<String, Param>;

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

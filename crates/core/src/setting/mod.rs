//! Settings: one type, one description and one resolver for everything that can be turned.
//!
//! A [`Param`] is what a document holds: a constant, a [`Drive`] by a dial or a formula, or a mask along which it differs. A [`ParamSpec`] says what the setting means
//! (label, unit, range, default). [`Settings`] are the params of one step or channel by key. Before anything is computed,
//! [`resolve`] turns them into [`Resolved`] values: complete, in range, without dials. Kernels see nothing else.

mod dial;
mod drive;
pub mod formula;
mod palette;
mod param;
mod resolve;
mod spec;

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

pub use dial::{DialKind, DialState, DialStates};
pub(crate) use drive::check_formula;
pub use drive::{DialDrive, Drive, DriveError, FormulaDrive, Way, formula_from_labels, formula_to_labels};
pub use palette::{MOST_COLORS, PALETTE, Swatch, palette_spec, palette_stops, read_palette, write_palette};
pub use param::{Between, ColorsDrive, MaskDrive, MaskSource, Param, RampDrive, Stop};
pub use resolve::{Resolved, resolve, resolve_one};
pub use spec::{ParamSpec, ParamType, SettingError};

/// The value of a setting. Colours are sRGB hex strings (`#rrggbb`), choices their key, parts their name, palettes as
/// [`read_palette`] reads them.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(untagged)]
pub enum Value {
    /// On or off.
    Bool(bool),
    /// A number in the unit of its [`ParamSpec`].
    Number(f64),
    /// A colour, a palette, a choice or a name.
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

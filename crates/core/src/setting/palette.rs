//! Palettes as values: a few colours, each as often as its weight says, written in one line so that a dial can stand at them.

use std::fmt::Write;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

use super::{ParamSpec, ParamType, Stop, Value, parse_hex};

/// The most colours of a palette, and stops of a ramp.
pub const MOST_COLORS: usize = 16;

/// The key under which the colours of a ramp are set all at once.
pub const PALETTE: &str = "palette";

/// A colour of a palette.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
pub struct Swatch {
    /// sRGB, `#rrggbb`.
    pub color: String,
    /// How often it is there against the others, 0…1.
    pub weight: f64,
}

/// Reads colours with their weights: `#5b6e52 0.6, #8a3b1f 0.4`; one without a weight has the whole. `None` for anything else: no colours or more than
/// [`MOST_COLORS`], weights beyond 0…1 or all 0.
pub fn read_palette(text: &str) -> Option<Vec<Swatch>> {
    let one = |part: &str| {
        let mut words = part.split_whitespace();
        let color = words.next().filter(|c| parse_hex(c).is_some())?.to_ascii_lowercase();
        let weight = words.next().map_or(Some(1.0), |w| w.parse().ok()).filter(|w| (0.0..=1.0).contains(w))?;
        words.next().is_none().then_some(Swatch { color, weight })
    };
    let colors: Vec<Swatch> = text.split(',').map(one).collect::<Option<_>>()?;
    let some = colors.iter().any(|c| c.weight > 0.0);
    (some && colors.len() <= MOST_COLORS).then_some(colors)
}

/// Writes them so that [`read_palette`] reads them.
pub fn write_palette(colors: &[Swatch]) -> String {
    let mut text = String::new();
    for (i, Swatch { color, weight }) in colors.iter().enumerate() {
        let _ = write!(text, "{}{color} {weight}", if i > 0 { ", " } else { "" });
    }
    text
}

/// The description of a ramp's colours as one setting, which stand at these stops.
pub fn palette_spec(stops: &[Stop]) -> ParamSpec {
    let text = |s: &Stop| if let Value::Text(t) = &s.value { t.clone() } else { String::new() };
    let colors: Vec<Swatch> = stops.iter().map(|s| Swatch { color: text(s), weight: s.at }).collect();
    let default = Value::Text(write_palette(&colors));
    ParamSpec::base(PALETTE, "Palette", ParamType::Palette, default, "Its colours, and how often each is there.")
}

/// The stops of a ramp that stands at such a value.
pub fn palette_stops(value: &Value) -> Option<Vec<Stop>> {
    let Value::Text(text) = value else { return None };
    let stop = |s: Swatch| Stop { at: s.weight, value: Value::Text(s.color), by: None };
    Some(read_palette(text)?.into_iter().map(stop).collect())
}

//! Six to choose from: values of dials, drawn around those that they stand at.

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

use super::{Dial, Document};
use crate::lattice::hash;
use crate::raster::oklab::{of_linear, to_linear};
use crate::raster::srgb::encode_u8;
use crate::setting::{DialKind, Value, parse_hex};

/// How far a dial takes part.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Reach {
    /// It stays.
    Held,
    /// It is moved a little.
    Little,
    /// It is moved over all of its range.
    Lot,
}

/// How many there are to choose from.
pub const SIX: usize = 6;

/// Six sets of dial values around those of the document: of each dial that takes part another value, of the others none. The same seed draws the same six.
pub fn six(document: &Document, reaches: &BTreeMap<String, Reach>, seed: u32) -> Vec<BTreeMap<String, Value>> {
    let draw = |choice: usize, (i, dial): (usize, &Dial)| {
        let reach = reaches.get(&dial.id).copied().filter(|r| *r != Reach::Held && dial.formula.is_none())?;
        let random = |k: u32| f64::from(hash(i as u32 + 1, choice as u32 + 1, k, seed)) / f64::from(u32::MAX);
        Some((dial.id.clone(), drawn(dial, reach, &random)))
    };
    (0..SIX).map(|choice| document.dials.iter().enumerate().filter_map(|d| draw(choice, d)).collect()).collect()
}

/// Another value of a dial; `random` gives numbers 0…1.
fn drawn(dial: &Dial, reach: Reach, random: &dyn Fn(u32) -> f64) -> Value {
    let little = reach == Reach::Little;
    // Of what can't be moved a little, a little means seldom.
    let moves = !little || random(9) < 0.35;
    match (dial.kind(), &dial.value) {
        (DialKind::Number, Value::Number(now)) => {
            let spec = dial.spec();
            let (low, high) = (dial.min, dial.max);
            let anywhere = spec.between(low, high, random(0));
            let near = now + (high - low) * 0.15 * (2.0 * random(0) - 1.0);
            let near = if dial.log { now * libm::pow(high / low, 0.15 * (2.0 * random(0) - 1.0)) } else { near };
            dial.bounded(Value::Number(if little { near } else { anywhere }))
        }
        (DialKind::Seed, _) => dial.bounded(Value::Number((dial.min + (dial.max - dial.min) * random(0)).round())),
        (DialKind::Switch, Value::Bool(now)) => Value::Bool(if little { *now != moves } else { random(0) < 0.5 }),
        (DialKind::Choice, now) => {
            let at = (random(0) * dial.options.len() as f64) as usize;
            let other = dial.options.get(at.min(dial.options.len().saturating_sub(1)));
            other.filter(|_| moves).map_or_else(|| now.clone(), |o| Value::Text(o.key.clone()))
        }
        (DialKind::Color, Value::Text(now)) => {
            let far = if little { 0.25 } else { 1.0 };
            let around = |k: u32| (far * (2.0 * random(k) - 1.0)) as f32;
            let turned = shifted(now, 0.2 * around(0), 1.0 + 0.6 * around(1), 180.0 * around(2));
            Value::Text(turned.unwrap_or_else(|| now.clone()))
        }
        (_, now) => now.clone(),
    }
}

/// A colour made lighter, its chroma multiplied and its hue turned by degrees, in OKLCh; of what sRGB doesn't hold, the nearest of less chroma.
fn shifted(hex: &str, lighter: f32, chroma: f32, turn: f32) -> Option<String> {
    let [l, a, b] = of_linear(parse_hex(hex)?);
    let (sin, cos) = (libm::sinf(turn.to_radians()), libm::cosf(turn.to_radians()));
    let l = (l + lighter).clamp(0.1, 0.95);
    let (a, b) = (chroma * (a * cos - b * sin), chroma * (a * sin + b * cos));
    let inside = |k: f32| to_linear([l, k * a, k * b]);
    let fits = |rgb: &[f32; 3]| rgb.iter().all(|v| (-1e-4..=1.0001).contains(v));
    let rgb = (0..=10).map(|i| inside(1.0 - i as f32 / 10.0)).find(fits).unwrap_or_else(|| inside(0.0));
    let [r, g, b] = rgb.map(encode_u8);
    Some(format!("#{r:02x}{g:02x}{b:02x}"))
}

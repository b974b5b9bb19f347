//! How large a file comes out, unit by unit: most formats don't say what their numbers mean, and the sizes make plain which answer is right.

use serde::Serialize;
use ts_rs::TS;

use super::{MeshError, MeshLimits, corners, is_gltf, says_its_unit};
use crate::mesh::{Soup, Unit};

/// How large things that are dressed usually are, in mm: millimetres are believed where they make such a thing.
const BELIEVED: std::ops::RangeInclusive<f32> = 15.0..=5000.0;
/// What is nearest to it is likely meant where they don't, in mm.
const USUAL: f32 = 400.0;

/// What one answer would come to.
#[derive(Debug, Clone, PartialEq, Serialize, TS)]
pub struct SizeInUnit {
    /// One unit of the file is one of these.
    pub unit: Unit,
    /// Its name, of several.
    pub label: &'static str,
    /// Along x, y and z, in mm.
    pub size: [f32; 3],
    /// Whether it is likely the one that is meant.
    pub likely: bool,
}

const UNITS: [(Unit, &str); 4] =
    [(Unit::Mm, "millimetres"), (Unit::Cm, "centimetres"), (Unit::M, "metres"), (Unit::In, "inches")];

/// How long a mesh is along each axis.
fn sides(soup: &Soup) -> [f32; 3] {
    [0, 1, 2].map(|axis| {
        let along = soup.positions.iter().map(|p| p[axis]);
        let (low, high) = along.fold((f32::INFINITY, f32::NEG_INFINITY), |(low, high), v| (low.min(v), high.max(v)));
        (high - low).max(0.0)
    })
}

fn longest_side(soup: &Soup) -> f32 {
    sides(soup).into_iter().fold(0.0, f32::max).max(f32::MIN_POSITIVE)
}

/// What a mesh file measures in each unit. glTF is in metres by its own word, USD says its unit; other formats are likely in millimetres where that makes a thing of some
/// centimetres to some metres, and otherwise, inches aside, in what makes one.
///
/// # Errors
/// As [`super::import`].
pub fn sizes(name: &str, bytes: &[u8], limits: MeshLimits) -> Result<Vec<SizeInUnit>, MeshError> {
    let soup = corners(name, bytes, Some(Unit::Mm), limits)?;
    let size = sides(&soup);
    let longest = longest_side(&soup);
    let off = |unit: Unit| (longest * unit.millimetres() / USUAL).ln().abs();
    let guessed = if is_gltf(name, bytes) {
        Unit::M
    } else if says_its_unit(name, bytes) {
        let own = longest_side(&corners(name, bytes, None, limits)?);
        let off = |unit: Unit| (longest * unit.millimetres() / own.max(f32::MIN_POSITIVE)).ln().abs();
        UNITS.map(|u| u.0).into_iter().min_by(|a, b| off(*a).total_cmp(&off(*b))).unwrap_or_default()
    } else if BELIEVED.contains(&longest) {
        Unit::Mm
    } else {
        [Unit::Mm, Unit::Cm, Unit::M].into_iter().min_by(|a, b| off(*a).total_cmp(&off(*b))).unwrap_or_default()
    };
    let one = |(unit, label): (Unit, &'static str)| SizeInUnit {
        unit,
        label,
        size: size.map(|s| s * unit.millimetres()),
        likely: unit == guessed,
    };
    Ok(UNITS.map(one).into())
}

//! What shape a piece has, told in a few numbers: enough to know it again however its mesh is exported, cut and unwrapped.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

use super::Piece;

/// By as much of the diagonal the ends may differ, and of its own the area, for two shapes to be one.
const ALIKE: f64 = 0.01;

/// The box of a piece and its area.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
pub struct Shape {
    /// The lowest corner of its box, in mm.
    pub min: [f64; 3],
    /// The highest.
    pub max: [f64; 3],
    /// Area of its surface, in mm².
    pub area: f64,
}

impl Shape {
    /// Whether another is the same but for what another export of a mesh, or another unwrap, makes of it.
    pub fn is_like(&self, other: &Shape) -> bool {
        let diagonal = (0..3).map(|a| (self.max[a] - self.min[a]).powi(2)).sum::<f64>().sqrt();
        let ends = self.min.iter().chain(&self.max).zip(other.min.iter().chain(&other.max));
        let same_ends = ends.into_iter().all(|(a, b)| (a - b).abs() <= ALIKE * diagonal);
        same_ends && (self.area - other.area).abs() <= ALIKE * self.area.abs()
    }
}

impl Piece {
    /// What shape it has.
    pub fn shape(&self) -> Shape {
        let area = self.parts.iter().map(|p| p.area).sum();
        Shape { min: self.min.map(f64::from), max: self.max.map(f64::from), area }
    }
}

//! What was drawn.

use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Which strokes lie at a place?
#[derive(Debug, Clone, Deserialize, TS)]
pub struct StrokesAt {
    /// The layer.
    pub layer: String,
    /// The step of its mask line.
    pub step: String,
    /// The place, in mm.
    pub at: [f32; 3],
    /// The surface's unit normal there.
    pub normal: [f32; 3],
}

/// What do some strokes look like?
#[derive(Debug, Clone, Deserialize, TS)]
pub struct StrokesAsked {
    /// The layer.
    pub layer: String,
    /// The step of its mask line.
    pub step: String,
    /// Their ids.
    pub strokes: Vec<String>,
}

/// A stroke in small.
#[derive(Debug, Clone, PartialEq, Serialize, TS)]
pub struct StrokeView {
    /// Its id.
    pub id: String,
    /// The points of its line in a picture, in mm, x to the right and y down.
    pub line: Vec<[f32; 2]>,
    /// Least x and y, width and height of what it covers there.
    pub bounds: [f32; 4],
    /// Of one that is led through its points: those, as rows of x, y, z, the normal's three, pressure, time and tilt.
    pub points: Vec<[f32; 9]>,
}

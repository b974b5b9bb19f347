//! What was drawn.

use serde::Deserialize;
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

//! What is written, and the lights and stills that it is judged by.

use dustcoat_core::handoff::{Layout, PlannedFile};
use dustcoat_core::mesh::Finding;
use dustcoat_core::still::light::{Lamp, Light};
use dustcoat_core::still::shoot::Surround;
use serde::Serialize;
use ts_rs::TS;

/// What a hand-off would write, and what stands against it.
#[derive(Debug, Serialize, TS)]
pub struct HandoffView {
    /// The layout.
    pub layout: Layout,
    /// The files.
    pub files: Vec<PlannedFile>,
    /// Keys of the maps whose channels no coat lays.
    pub unlaid: Vec<&'static str>,
    /// Problems to know of.
    pub problems: Vec<Finding>,
    /// The height in mm that would have to be white for no relief to be cut off, where the layout's is too low.
    pub fits: Option<f32>,
}

/// What a hand-off wrote.
#[derive(Debug, Serialize, TS)]
pub struct HandoffDone {
    /// Address of the ZIP.
    pub download: String,
    /// Name of the ZIP.
    pub name: String,
    /// The files in it.
    pub files: Vec<PlannedFile>,
    /// Bytes of the ZIP.
    #[ts(type = "number")]
    pub bytes: u64,
    /// How long it took.
    pub seconds: f64,
}

/// What the piece can stand under and before.
#[derive(Debug, Serialize, TS)]
pub struct LightsView {
    /// Set-ups of light.
    pub lights: &'static [Light],
    /// The light from behind, at full strength.
    pub rim: Lamp,
    /// What may surround the piece.
    pub surrounds: Vec<SurroundView>,
    /// Texels of a panorama across and down.
    pub panorama: [usize; 2],
}

/// A surround.
#[derive(Debug, Clone, Serialize, TS)]
pub struct SurroundView {
    /// Which.
    pub key: Surround,
    /// What the artist reads.
    pub label: &'static str,
    /// Its grey, sRGB; of the sky what stands for it where none is drawn.
    pub byte: u8,
}

/// What a piece stands on: a disc.
#[derive(Debug, Serialize, TS)]
pub struct GroundView {
    /// Its middle, in mm.
    pub middle: [f32; 3],
    /// Where it begins to fade, and where it is gone, in mm from the middle.
    pub fades: [f32; 2],
    /// Its grey, linear.
    pub grey: f32,
    /// Texels along each side of the picture of how open it is to the sky.
    pub size: u32,
    /// Address of that picture.
    pub pixels: String,
}

/// A still that was taken, or a turntable's.
#[derive(Debug, Serialize, TS)]
pub struct StillDone {
    /// Address of the PNG, or the ZIP of them.
    pub download: String,
    /// Its name.
    pub name: String,
    /// Its bytes.
    #[ts(type = "number")]
    pub bytes: u64,
    /// How long it took.
    pub seconds: f64,
}

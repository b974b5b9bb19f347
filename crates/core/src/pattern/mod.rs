//! Procedural fields in space: one file per family, one line each in [`PATTERNS`].
//!
//! A pattern is sampled at the texel's place on the piece, in millimetres, so it has no seams and keeps its size whatever the UVs do.
//! Fields work on runs of points, structure of arrays, a few thousand at a time.

pub mod perlin;

use crate::setting::{ParamSpec, Resolved};

/// A field that is ready to be sampled.
pub trait Field: Send + Sync {
    /// Writes the value 0…1 at each point. All slices have one length; coordinates in mm.
    fn sample(&self, x: &[f32], y: &[f32], z: &[f32], out: &mut [f32]);
}

/// A pattern: description and maker.
pub struct Pattern {
    /// Key.
    pub kind: &'static str,
    /// What the artist reads.
    pub label: &'static str,
    /// One sentence of help.
    pub help: &'static str,
    /// Its settings.
    pub specs: fn() -> Vec<ParamSpec>,
    /// Makes the field of resolved settings.
    pub field: fn(&Resolved) -> Box<dyn Field>,
}

/// All patterns.
pub static PATTERNS: &[&Pattern] = &[&perlin::PATTERN];

/// The pattern of that kind.
pub fn find(kind: &str) -> Option<&'static Pattern> {
    PATTERNS.iter().copied().find(|p| p.kind == kind)
}

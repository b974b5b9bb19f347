//! Procedural fields in space: one file per family, one line each in [`PATTERNS`].
//!
//! A pattern is sampled at the texel's place on the piece, in millimetres, so it has no seams and keeps its size whatever the UVs do. [`placement`] brings places on
//! the piece into the pattern's own space. Fields work on runs of points, structure of arrays, a few thousand at a time.

mod bands;
mod billow;
mod brushed;
mod cells;
mod cord;
mod cracks;
mod droplets;
mod fibres;
mod folded;
mod gradient;
pub mod perlin;
pub mod picture;
pub mod placement;
pub mod planks;
mod ridged;
mod rings;
mod scatter;
mod scratches;
mod simplex;
mod spots;
mod strokes;
mod value;
mod veins;
mod weave;
pub mod worley;

use crate::setting::{ParamSpec, Resolved};

pub use placement::Placed;

/// A field that is ready to be sampled.
pub trait Field: Send + Sync {
    /// Writes the value 0…1 at each point. All slices have one length; coordinates in mm.
    fn sample(&self, x: &[f32], y: &[f32], z: &[f32], out: &mut [f32]);

    /// The same for points that stand for stretches `texel` mm long: what is finer is evened out, where the field knows how.
    fn sample_at(&self, x: &[f32], y: &[f32], z: &[f32], texel: f32, out: &mut [f32]) {
        _ = texel;
        self.sample(x, y, z, out);
    }
}

/// Along how many axes a pattern differs.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Axes {
    /// Its x alone.
    One,
    /// Its x and y: it lies on a plane rather than in space.
    Two,
    /// All three.
    Three,
}

/// A pattern: description and maker.
pub struct Pattern {
    /// Key.
    pub kind: &'static str,
    /// What the artist reads.
    pub label: &'static str,
    /// One sentence of help.
    pub help: &'static str,
    /// Whether it lies in space, on a plane or along a line.
    pub axes: Axes,
    /// Its settings but for those of its placement.
    pub specs: fn() -> Vec<ParamSpec>,
    /// Makes the field of resolved settings.
    pub field: fn(&Resolved) -> Box<dyn Field>,
}

impl Pattern {
    /// All its settings, placement included.
    pub fn all_specs(&self) -> Vec<ParamSpec> {
        let mut all = (self.specs)();
        all.extend(placement::specs(self.axes));
        all
    }
}

/// All patterns, in the order they are offered.
pub static PATTERNS: &[&Pattern] = &[
    &perlin::PATTERN,
    &simplex::PATTERN,
    &value::PATTERN,
    &billow::PATTERN,
    &ridged::PATTERN,
    &worley::PATTERN,
    &cracks::PATTERN,
    &veins::PATTERN,
    &spots::PATTERN,
    &droplets::PATTERN,
    &scratches::PATTERN,
    &fibres::PATTERN,
    &brushed::PATTERN,
    &rings::PATTERN,
    &weave::PATTERN,
    &cord::PATTERN,
    &planks::PATTERN,
    &bands::PATTERN,
    &gradient::PATTERN,
];

/// The pattern of that kind.
pub fn find(kind: &str) -> Option<&'static Pattern> {
    PATTERNS.iter().copied().find(|p| p.kind == kind)
}

//! Sources that are neither readings nor patterns: one file each, one line each in [`SOURCES`].

mod below;
mod colors;
mod even;
mod follow;
mod own;
mod painted;
mod part;
mod picture;
mod pin;
mod pinned;
mod strokes;
mod within;

use crate::bake::Surface;
use crate::setting::{ParamSpec, Resolved};

/// A source: description and computation.
pub struct Source {
    /// Key.
    pub kind: &'static str,
    /// What the artist reads.
    pub label: &'static str,
    /// One sentence of help.
    pub help: &'static str,
    /// Its settings.
    pub specs: fn() -> Vec<ParamSpec>,
    /// Where its values come from.
    pub origin: Origin,
}

/// Where a source's values come from.
#[derive(Clone, Copy)]
pub enum Origin {
    /// Computed on the spot: writes values 0…1 for the covered texels from `start` on.
    Here(fn(&Surface, &Resolved, usize, &mut [f32])),
    /// Computed on the spot for the part of the name that the settings say.
    Part(fn(&Resolved) -> String, fn(&Surface, &Resolved, usize, &mut [f32])),
    /// The picture of the file name that the settings say, laid like a pattern.
    Picture(fn(&Resolved) -> String),
    /// The picture of the file name that the settings say, laid by the UVs.
    Painted(fn(&Resolved) -> String),
    /// The mask of the layer that publishes it under the name that the settings say.
    Follow(fn(&Resolved) -> String),
    /// The colours of the picture of the file name that the settings say, laid like a pattern: for colours of a finish alone.
    Colors(fn(&Resolved) -> String),
    /// A random value for the use of a recipe that the layer belongs to, by the seed that the settings say.
    Use(fn(&Resolved) -> u32),
    /// What was drawn by hand, which the step holds.
    Strokes,
    /// A picture that was laid by hand where the step says.
    Pin,
    /// A number of a picture as the pins of the layer's own line lay it, for the values of its finish: the file name, empty for the pin's own.
    Pinned(fn(&Resolved) -> String),
    /// The same with the colours of a picture.
    PinnedColors(fn(&Resolved) -> String),
    /// The mask of the layer itself: for the values of its finish alone.
    Own,
    /// A channel of what lies below the layer: which one, and the value 0…1 of its components at a texel.
    Below(fn(&Resolved) -> &'static str, fn(&Resolved, &[f32]) -> f32),
}

/// All sources of their own.
pub static SOURCES: &[&Source] = &[
    &strokes::SOURCE,
    &pin::SOURCE,
    &picture::SOURCE,
    &painted::SOURCE,
    &part::SOURCE,
    &follow::SOURCE,
    &below::SOURCE,
    &within::SOURCE,
    &even::SOURCE,
];

/// Sources that only the values of a finish know.
pub static OF_FINISH: &[&Source] = &[&own::SOURCE, &pinned::NUMBER];

/// Where colours of a finish come from, rather than numbers.
pub static OF_COLORS: &[&Source] = &[&colors::SOURCE, &pinned::COLORS];

/// The source of that kind.
pub fn find(kind: &str) -> Option<&'static Source> {
    SOURCES.iter().chain(OF_FINISH).chain(OF_COLORS).copied().find(|s| s.kind == kind)
}

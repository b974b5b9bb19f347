//! Sources that are neither readings nor patterns: one file each, one line each in [`SOURCES`].

mod even;
mod part;

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
    /// Writes values 0…1 for the covered texels from `start` on.
    pub fill: fn(&Surface, &Resolved, usize, &mut [f32]),
}

/// All sources of their own.
pub static SOURCES: &[&Source] = &[&even::SOURCE, &part::SOURCE];

/// The source of that kind.
pub fn find(kind: &str) -> Option<&'static Source> {
    SOURCES.iter().copied().find(|s| s.kind == kind)
}

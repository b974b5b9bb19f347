//! Shapers: they change the mask that is there. One file each, one line each in [`SHAPERS`].

mod invert;
mod levels;
mod threshold;

use crate::setting::{ParamSpec, Resolved};

/// A pointwise change of a run of mask values, in place.
pub type Shape = Box<dyn Fn(&mut [f32]) + Send + Sync>;

/// A shaper: description and maker.
pub struct Shaper {
    /// Key.
    pub kind: &'static str,
    /// What the artist reads.
    pub label: &'static str,
    /// One sentence of help.
    pub help: &'static str,
    /// Its settings.
    pub specs: fn() -> Vec<ParamSpec>,
    /// Makes the change of resolved settings.
    pub shape: fn(&Resolved) -> Shape,
}

/// All shapers.
pub static SHAPERS: &[&Shaper] = &[&levels::SHAPER, &threshold::SHAPER, &invert::SHAPER];

/// The shaper of that kind.
pub fn find(kind: &str) -> Option<&'static Shaper> {
    SHAPERS.iter().copied().find(|s| s.kind == kind)
}

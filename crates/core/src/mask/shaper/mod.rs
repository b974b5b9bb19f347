//! Shapers: they change the mask that is there. One file each, one line each in [`SHAPERS`].
//!
//! Most change each value by itself ([`Work::Point`]); such steps run fused, batch by batch. Some ask how far it is to the mask's border ([`Work::Border`]), which is
//! found once, whatever they make of it. Those that ask what lies around a texel, or how the mask is spread
//! ([`Work::Whole`]), are given the whole mask and work in millimetres on the surface, across seams and sheets.

mod blur;
mod clamp;
mod contrast;
mod creep;
mod curve;
pub mod distance;
mod grow;
mod invert;
mod levels;
mod lift;
mod posterise;
mod rim;
mod run;
mod threshold;
mod warp;
mod wash;

use std::any::Any;
use std::sync::Arc;

use crate::bake::Surface;
use crate::raster::Plane;
use crate::setting::{ParamSpec, Resolved};
use crate::task::{Cancel, Cancelled};

/// A pointwise change of a run of mask values, in place.
pub type Shape = Box<dyn Fn(&mut [f32]) + Send + Sync>;

/// A change of a whole mask: one value 0…1 per covered texel, in and out. The same for every thread count, and whatever was kept.
pub type Reshape = Box<dyn Fn(&Surface, &[f32], &Given) -> Result<Plane, Cancelled> + Send + Sync>;

/// What a change of a whole mask is given besides.
pub struct Given<'a> {
    /// Somebody may ask to stop.
    pub cancel: &'a Cancel,
    /// Where it keeps what hangs on the surface and its settings alone.
    pub keeper: &'a dyn Keeper,
}

/// Keeps what a shaper found of a surface for the next mask, within somebody's budget.
pub trait Keeper: Sync {
    /// What was kept by that name for the surface at hand, if it is still there.
    fn kept(&self, name: &str) -> Option<Arc<dyn Any + Send + Sync>>;
    /// Keeps something that takes so many bytes.
    fn keep(&self, name: String, what: Arc<dyn Any + Send + Sync>, bytes: u64);
    /// Bytes that may be kept in all.
    fn room(&self) -> u64;
}

/// A change of a run of signed distances from the mask's border into mask values, in place: mm, positive inside; besides, the length of a texel in mm.
pub type BorderShape = Box<dyn Fn(&mut [f32], f32) + Send + Sync>;

/// What a shaper does with its settings worked out.
pub enum Work {
    /// Changes each value by itself.
    Point(Shape),
    /// Asks how far each texel lies from the mask's border, within that many mm and a texel.
    Border(f32, BorderShape),
    /// Asks what lies around.
    Whole(Reshape),
}

impl Work {
    fn point(shape: impl Fn(&mut [f32]) + Send + Sync + 'static) -> Work {
        Work::Point(Box::new(shape))
    }

    fn border(reach: f32, shape: impl Fn(&mut [f32], f32) + Send + Sync + 'static) -> Work {
        Work::Border(reach, Box::new(shape))
    }

    fn whole(reshape: impl Fn(&Surface, &[f32], &Given) -> Result<Plane, Cancelled> + Send + Sync + 'static) -> Work {
        Work::Whole(Box::new(reshape))
    }
}

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
    /// What it does with resolved settings.
    pub work: fn(&Resolved) -> Work,
}

/// All shapers, in the order they are offered.
pub static SHAPERS: &[&Shaper] = &[
    &levels::SHAPER,
    &threshold::SHAPER,
    &invert::SHAPER,
    &contrast::SHAPER,
    &curve::SHAPER,
    &clamp::SHAPER,
    &posterise::SHAPER,
    &blur::SHAPER,
    &grow::SHAPER,
    &rim::SHAPER,
    &lift::SHAPER,
    &warp::SHAPER,
    &creep::SHAPER,
    &run::SHAPER,
    &wash::SHAPER,
];

/// The shaper of that kind.
pub fn find(kind: &str) -> Option<&'static Shaper> {
    SHAPERS.iter().copied().find(|s| s.kind == kind)
}

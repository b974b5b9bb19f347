//! The ball integral invariant V(r): the share of the ball of radius r around a surface point that lies inside the solid
//! (Pottmann, Wallner, Huang, Yang 2009, "Integral invariants for robust geometry processing").
//!
//! Rays from the point stand for thin cones of the ball. Along a ray the inside share is the sum over its surface crossings of
//! ±(1 − (t/r)³), plus 1 when it starts inwards; the sum needs no order, so hits are taken as they come. A flat surface gives exactly ½, a 90° edge ¼,
//! a 90° inner corner ¾. Open sheets read as flat: a ray that starts inwards and never leaves counts as inside.

use super::rays::Rays;
use super::{Run, inset};
use crate::bake::rays::uniform_sphere;
use crate::setting::{ParamSpec, Resolved};

pub fn specs() -> Vec<ParamSpec> {
    vec![
        ParamSpec::length("radius", "Radius", (0.05, 1000.0), 6.0, "How far around each texel the shape is looked at."),
        ParamSpec::integer("rays", "Rays", (2.0, 1024.0), 64.0, "Rays per texel: more are smoother and slower."),
    ]
}

/// V for a run of texels, clamped to 0…1.
pub fn fill(run: &Run, settings: &Resolved, out: &mut [f32]) {
    let (atlas, bvh, piece) = (&run.surface.atlas, run.surface.bvh(), &run.surface.piece);
    let radius = settings.number("radius");
    let rays =
        Rays { count: settings.integer("rays"), seed: 2, near: radius * 1e-3, far: radius, direction: uniform_sphere };
    // The flat triangle's own normal decides which way is in; the smooth one would leak at coarse facets.
    let start = |i: usize| (inset(run.surface, i, radius * 0.01), piece.face_normal(atlas.triangle[i]));
    rays.mean(run, out, start, |packet, cosine| {
        let mut share = cosine.map(|c| if c < 0.0 { 1.0 } else { 0.0 });
        bvh.inside_share(packet, &mut share);
        // Solids that overlap would count twice; a cone can't be more than full.
        share.map(|s| s.clamp(0.0, 1.0))
    });
}

//! Curvature at three radii: the ball integral invariant V, the share of the ball of radius r around a spot that lies inside the solid (Pottmann, Wallner, Huang,
//! Yang 2009). Flat ½, a 90° edge ¼, a 90° inner corner ¾.
//!
//! By rays from the spot in all directions: along a ray of direction ω the inside pieces [s, t] fill (t³ − s³)/r³ of the thin cone, so V is the mean over
//! directions of the inside share. Crossings within r are added with sign; whether the ray starts inside is told by the flat triangle's normal. One set of rays serves
//! all radii.

use super::rays::Rays;
use super::{Extent, Measurement, Run, smooth_spec};
use crate::bake::bvh::WIDTH;
use crate::bake::rays::uniform_sphere;
use crate::setting::{ParamSpec, Resolved};

pub static MEASUREMENT: Measurement = Measurement {
    kind: "curvature",
    label: "Curvature",
    help: "Where the surface stands out and where it closes in, at three sizes: what edges and recesses are read from.",
    specs,
    planes: &[("fine", "Fine"), ("medium", "Medium"), ("broad", "Broad")],
    fill,
};

fn specs(extent: Extent) -> Vec<ParamSpec> {
    let radius = |key, label, share, help| ParamSpec::length(key, label, (0.01, 10_000.0), extent.share(share), help);
    vec![
        radius("fine", "Fine radius", 0.004, "How far around each texel the shape is looked at for the finest edges."),
        radius(
            "medium",
            "Medium radius",
            0.013,
            "How far around each texel the shape is looked at for edges as hands feel them.",
        ),
        radius("broad", "Broad radius", 0.04, "How far around each texel the shape is looked at for the large forms."),
        ParamSpec::integer("rays", "Rays", (2.0, 1024.0), 64.0, "Rays per texel: more are smoother and slower."),
        smooth_spec(),
    ]
}

fn fill(run: &Run, settings: &Resolved, planes: &mut [&mut [f32]]) {
    let bvh = run.surface.bvh();
    let radii = ["fine", "medium", "broad"].map(|key| settings.number(key));
    let farthest = radii.iter().fold(0.0f32, |a, b| a.max(*b));
    let nearest = radii.iter().fold(f32::MAX, |a, b| a.min(*b));
    let rays = Rays {
        count: settings.integer("rays"),
        seed: 2,
        near: nearest * 1e-3,
        far: farthest,
        alike: true,
        direction: uniform_sphere,
    };
    // The flat triangle's own normal decides which way is in; the smooth one would leak at coarse facets.
    let start = |i: usize| (run.inset(i, nearest * 0.01), run.face_normal(i));
    rays.mean(run, planes, start, |_, packet, cosine| {
        let begin: [f32; WIDTH] = cosine.map(|c| if c < 0.0 { 1.0 } else { 0.0 });
        let mut shares = [begin; 3];
        bvh.inside_shares(packet, radii, &mut shares);
        // Solids that overlap would count twice; a cone can't be more than full.
        shares.map(|s| s.map(|v| v.clamp(0.0, 1.0)))
    });
}

//! Curvature at three radii: the ball integral invariant V, the share of the ball of radius r around a spot that lies inside the solid (Pottmann, Wallner, Huang,
//! Yang 2009). Flat ½, a 90° edge ¼, a 90° inner corner ¾.
//!
//! By rays from the spot in all directions: along a ray of direction ω the inside pieces [s, t] fill (t³ − s³)/r³ of the thin cone, so V is the mean over
//! directions of the inside share. Crossings within r are added with sign; whether the ray starts inside is told by the flat triangle's normal. One set of rays serves
//! all radii.

use super::rays::Rays;
use super::{Extent, Measurement, Run, Work, smooth_spec};
use crate::bake::bvh::WIDTH;
use crate::bake::rays::uniform_sphere;
use crate::setting::{ParamSpec, Resolved};
use glam::Vec3;

pub static MEASUREMENT: Measurement = Measurement {
    kind: "curvature",
    label: "Curvature",
    help: "Where the surface stands out and where it closes in, at three sizes: what edges and recesses are read from.",
    specs,
    weather: &[],
    planes: &[("fine", "Fine"), ("medium", "Medium"), ("broad", "Broad")],
    by_size: true,
    work: Work::Texels(fill),
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
    let bvh = &run.solid.bvh;
    let radii = ["fine", "medium", "broad"].map(|key| settings.number(key));
    let farthest = radii.iter().fold(0.0f32, |a, b| a.max(*b));
    let nearest = radii.iter().fold(f32::MAX, |a, b| a.min(*b));
    let rays = Rays {
        count: settings.integer("rays"),
        seed: 2,
        near: nearest * 1e-3,
        far: farthest,
        alike: true,
        direction: &uniform_sphere,
    };
    // The flat face's own normal decides which way is in; the smooth one would leak at coarse facets.
    let start = |i: usize| run.spot(i, nearest * 0.01);
    if run.solid.sunken {
        return sunken(run, &rays, radii, planes, start);
    }
    rays.mean(run, planes, start, |_, packet, cosine| {
        let begin: [f32; WIDTH] = cosine.map(|c| if c < 0.0 { 1.0 } else { 0.0 });
        let mut shares = [begin; 3];
        bvh.inside_shares(packet, radii, &mut shares);
        // Solids that overlap would count twice; a cone can't be more than full.
        shares.map(|s| s.map(|v| v.clamp(0.0, 1.0)))
    });
}

/// The same where shells lie in one another: what lies in several solids is solid once.
fn sunken(run: &Run, rays: &Rays, radii: [f32; 3], planes: &mut [&mut [f32]], start: impl Fn(usize) -> (Vec3, Vec3)) {
    let depths = run.depths();
    rays.mean(run, planes, start, |first, packet, cosine| {
        let outside = depths[first / WIDTH];
        let begin = std::array::from_fn(|l| outside[l] + if cosine[l] < 0.0 { 1.0 } else { 0.0 });
        let mut shares = [[0.0f32; WIDTH]; 3];
        run.solid.bvh.within(packet, &begin, |l, from, to| {
            for (share, radius) in shares.iter_mut().zip(radii) {
                let cube = |at: f32| (at / radius).min(1.0).powi(3);
                share[l] += cube(to) - cube(from);
            }
        });
        shares
    });
}

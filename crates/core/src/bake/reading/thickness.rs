//! Thickness: the mean way through the solid behind each texel, as a share of the greatest that is told apart. 0 = thin as a sheet.

use super::rays::Rays;
use super::{Reading, Run, inset};
use crate::bake::rays::cosine_hemisphere;
use crate::setting::{ParamSpec, Resolved};

pub static READING: Reading = Reading {
    kind: "thickness",
    label: "Thickness",
    help: "How much material lies behind the surface: 0 at thin fins and rims, 1 where it is as thick as the distance.",
    measured: true,
    specs,
    fill,
};

fn specs() -> Vec<ParamSpec> {
    vec![
        ParamSpec::length("distance", "Distance", (0.1, 10_000.0), 40.0, "The thickness that reads as 1."),
        ParamSpec::integer("rays", "Rays", (1.0, 1024.0), 64.0, "Rays per texel: more are smoother and slower."),
    ]
}

/// Mean inward distance of cosine-weighted rays to where they leave the solid, over the greatest distance.
fn fill(run: &Run, settings: &Resolved, out: &mut [f32]) {
    let (atlas, bvh, piece) = (&run.surface.atlas, run.surface.bvh(), &run.surface.piece);
    let lift = piece.diagonal() * 1e-5;
    let distance = settings.number("distance");
    let rays =
        Rays { count: settings.integer("rays"), seed: 3, near: lift, far: distance, direction: cosine_hemisphere };
    let start = |i: usize| {
        // Inwards of the flat triangle: a smooth normal would send rays out of coarse facets.
        let inwards = -piece.face_normal(atlas.triangle[i]);
        (inset(run.surface, i, lift * 4.0) + inwards * lift, inwards)
    };
    rays.mean(run, out, start, |packet, _| bvh.nearest(packet).map(|way| (way / distance).clamp(0.0, 1.0)));
}

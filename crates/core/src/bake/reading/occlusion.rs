//! Occlusion: the cosine-weighted share of the sky above each texel that the piece leaves open. 1 = open.

use glam::Vec3;

use super::rays::Rays;
use super::{Reading, Run, inset};
use crate::bake::rays::cosine_hemisphere;
use crate::setting::{ParamSpec, Resolved};

pub static READING: Reading = Reading {
    kind: "occlusion",
    label: "Occlusion",
    help: "How open the surface lies: 1 in the open, 0 deep in a hollow.",
    measured: true,
    specs,
    fill,
};

fn specs() -> Vec<ParamSpec> {
    vec![
        ParamSpec::integer("rays", "Rays", (1.0, 1024.0), 64.0, "Rays per texel: more are smoother and slower."),
        ParamSpec::length("distance", "Distance", (0.1, 10_000.0), 120.0, "How far away something still shades."),
    ]
}

fn fill(run: &Run, settings: &Resolved, out: &mut [f32]) {
    let (atlas, bvh) = (&run.surface.atlas, run.surface.bvh());
    let lift = run.surface.piece.diagonal() * 1e-5;
    let rays = Rays {
        count: settings.integer("rays"),
        seed: 1,
        near: lift,
        far: settings.number("distance"),
        direction: cosine_hemisphere,
    };
    let start = |i: usize| {
        let n = Vec3::new(atlas.nx[i], atlas.ny[i], atlas.nz[i]);
        (inset(run.surface, i, lift * 4.0) + n * lift, n)
    };
    rays.mean(run, out, start, |packet, _| bvh.occluded(packet).map(|hit| if hit { 0.0 } else { 1.0 }));
}

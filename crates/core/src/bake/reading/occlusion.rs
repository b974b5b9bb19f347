//! Occlusion: the cosine-weighted share of the sky above each texel that the piece leaves open. 1 = open.

use glam::Vec3;

use super::{Reading, Run, inset};
use crate::bake::bvh::{Packet, WIDTH};
use crate::bake::rays::{Directions, cosine_hemisphere, frame};
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

/// Any-hit rays in packets: the n-th ray of [`WIDTH`] neighbouring texels at a time.
fn fill(run: &Run, settings: &Resolved, out: &mut [f32]) {
    let (atlas, bvh) = (&run.surface.atlas, run.surface.bvh());
    let plan = Directions::new(settings.integer("rays"));
    let distance = settings.number("distance");
    let lift = run.surface.piece.diagonal() * 1e-5;
    let mut squares = vec![Vec::new(); WIDTH];
    for (block, values) in out.chunks_mut(WIDTH).enumerate() {
        let first = run.start + block * WIDTH;
        let mut frames = [(Vec3::ZERO, Vec3::ZERO, Vec3::ZERO, Vec3::ZERO); WIDTH];
        for l in 0..values.len() {
            let i = first + l;
            let n = Vec3::new(atlas.nx[i], atlas.ny[i], atlas.nz[i]);
            let (t, b) = frame(n);
            frames[l] = (inset(run.surface, i, lift * 4.0) + n * lift, t, b, n);
            plan.square(atlas.texel[i], 1, &mut squares[l]);
        }
        let mut open = [0u32; WIDTH];
        for ray in 0..plan.len() {
            let mut packet = Packet::default();
            for l in 0..values.len() {
                let (p, t, b, n) = frames[l];
                let d = cosine_hemisphere(squares[l][ray]);
                packet.set(l, p.to_array(), (t * d.x + b * d.y + n * d.z).to_array(), lift, distance);
            }
            let hit = bvh.occluded(&mut packet);
            for l in 0..WIDTH {
                open[l] += u32::from(!hit[l]);
            }
        }
        for (v, n) in values.iter_mut().zip(open) {
            *v = n as f32 / plan.len() as f32;
        }
    }
}

//! Thickness: the mean way through the solid behind each texel, as a share of the greatest that is told apart. 0 = thin as a sheet.

use glam::Vec3;

use super::{Reading, Run, inset};
use crate::bake::bvh::{Packet, WIDTH};
use crate::bake::rays::{Directions, cosine_hemisphere, frame};
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
    let plan = Directions::new(settings.integer("rays"));
    let distance = settings.number("distance");
    let lift = piece.diagonal() * 1e-5;
    let mut squares = vec![Vec::new(); WIDTH];
    for (block, values) in out.chunks_mut(WIDTH).enumerate() {
        let first = run.start + block * WIDTH;
        let mut frames = [(Vec3::ZERO, Vec3::ZERO, Vec3::ZERO, Vec3::Z); WIDTH];
        for l in 0..values.len() {
            let i = first + l;
            let corners = piece.triangles[atlas.triangle[i] as usize].map(|v| Vec3::from(piece.positions[v as usize]));
            // Inwards of the flat triangle: a smooth normal would send rays out of coarse facets.
            let n = -(corners[1] - corners[0]).cross(corners[2] - corners[0]).normalize_or(Vec3::Y);
            let (t, b) = frame(n);
            frames[l] = (inset(run.surface, i, lift * 4.0) + n * lift, t, b, n);
            plan.square(atlas.texel[i], 3, &mut squares[l]);
        }
        let mut sum = [0.0f32; WIDTH];
        for ray in 0..plan.len() {
            let mut packet = Packet::default();
            for l in 0..values.len() {
                let (p, t, b, n) = frames[l];
                let d = cosine_hemisphere(squares[l][ray]);
                packet.set(l, p.to_array(), (t * d.x + b * d.y + n * d.z).to_array(), lift, distance);
            }
            let way = bvh.nearest(&mut packet);
            for l in 0..WIDTH {
                sum[l] += way[l];
            }
        }
        for (v, s) in values.iter_mut().zip(sum) {
            *v = (s / (plan.len() as f32 * distance)).clamp(0.0, 1.0);
        }
    }
}

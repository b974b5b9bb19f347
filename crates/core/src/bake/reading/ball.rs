//! The ball integral invariant V(r): the share of the ball of radius r around a surface point that lies inside the solid
//! (Pottmann, Wallner, Huang, Yang 2009, "Integral invariants for robust geometry processing").
//!
//! Rays from the point stand for thin cones of the ball. Along a ray the inside share is the sum over its surface crossings of
//! ±(1 − (t/r)³), plus 1 when it starts inwards; the sum needs no order, so hits are taken as they come. A flat surface gives exactly ½, a 90° edge ¼,
//! a 90° inner corner ¾. Open sheets read as flat: a ray that starts inwards and never leaves counts as inside.

use glam::Vec3;

use super::{Run, inset};
use crate::bake::bvh::{Packet, WIDTH};
use crate::bake::rays::{Directions, frame, uniform_sphere};
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
    let plan = Directions::new(settings.integer("rays"));
    let radius = settings.number("radius");
    let near = radius * 1e-3;
    let mut squares = vec![Vec::new(); WIDTH];
    for (block, values) in out.chunks_mut(WIDTH).enumerate() {
        let first = run.start + block * WIDTH;
        let mut frames = [(Vec3::ZERO, Vec3::ZERO, Vec3::ZERO, Vec3::Z); WIDTH];
        for l in 0..values.len() {
            let i = first + l;
            // The flat triangle's own normal decides which way is in; the smooth one would leak at coarse facets.
            let [a, b, c] =
                piece.triangles[atlas.triangle[i] as usize].map(|v| Vec3::from(piece.positions[v as usize]));
            let n = (b - a).cross(c - a).normalize_or(Vec3::Y);
            let (t, b) = frame(n);
            frames[l] = (inset(run.surface, i, radius * 0.01), t, b, n);
            plan.square(atlas.texel[i], 2, &mut squares[l]);
        }
        let mut sum = [0.0f32; WIDTH];
        for ray in 0..plan.len() {
            let mut packet = Packet::default();
            let mut weight = [0.0f32; WIDTH];
            for l in 0..values.len() {
                let (p, t, b, n) = frames[l];
                let d = uniform_sphere(squares[l][ray]);
                packet.set(l, p.to_array(), (t * d.x + b * d.y + n * d.z).to_array(), near, radius);
                weight[l] = if d.z < 0.0 { 1.0 } else { 0.0 };
            }
            bvh.inside_share(&packet, &mut weight);
            for l in 0..WIDTH {
                // Solids that overlap would count twice; a cone can't be more than full.
                sum[l] += weight[l].clamp(0.0, 1.0);
            }
        }
        for (v, s) in values.iter_mut().zip(sum) {
            *v = s / plan.len() as f32;
        }
    }
}

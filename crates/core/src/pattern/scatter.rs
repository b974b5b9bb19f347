//! Round things strewn in space, several sizes over one another: what spots and droplets are made of.

use multiversion::multiversion;

use crate::lattice::{cell, hash, next, unit};

/// How they are strewn. Lengths in mm.
pub struct Scatter {
    /// Radius of the smallest.
    pub small: f32,
    /// Radius of the largest.
    pub large: f32,
    /// 0…1: share of the places that hold one.
    pub density: f32,
    /// Chooses the arrangement.
    pub seed: u32,
}

/// Sizes that are strewn each by itself, from the largest down.
const CLASSES: u32 = 3;

impl Scatter {
    /// How deep inside the nearest one each point lies: 1 in its middle, 0 at its border, negative outside; and its random number.
    pub fn depth(&self, x: &[f32], y: &[f32], z: &[f32], out: &mut [f32], id: &mut [u32]) {
        out.fill(-1.0);
        for class in 0..CLASSES {
            let share = |k: u32| k as f32 / CLASSES as f32;
            // Sizes are even in ratio: as many halvings from one class to the next.
            let ratio = self.small.max(1e-3) / self.large.max(1e-3);
            let upper = self.large * libm::powf(ratio, share(class));
            let lower = self.large * libm::powf(ratio, share(class + 1));
            strew(
                x,
                y,
                z,
                [lower, upper],
                self.density,
                self.seed.wrapping_add(class.wrapping_mul(0x9e37_79b9)),
                out,
                id,
            );
        }
    }
}

#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
#[allow(clippy::too_many_arguments)]
fn strew(x: &[f32], y: &[f32], z: &[f32], radius: [f32; 2], density: f32, seed: u32, out: &mut [f32], id: &mut [u32]) {
    // Slices of one length need no check of bounds in the loop, and so become vectors.
    let n = out.len();
    let (x, y, z, id) = (&x[..n], &y[..n], &z[..n], &mut id[..n]);
    // A place is as large as the largest one of the class is wide, so that none reaches beyond the places next to its own.
    let frequency = 0.5 / radius[1];
    let (low, span) = (radius[0] * frequency, (radius[1] - radius[0]) * frequency);
    for k in 0..27u32 {
        let (dx, dy, dz) = (k % 3, k / 3 % 3, k / 9);
        for i in 0..n {
            let ((fx, ix), (fy, iy), (fz, iz)) =
                (cell(x[i] * frequency), cell(y[i] * frequency), cell(z[i] * frequency));
            let h = hash(
                ix.wrapping_add(dx).wrapping_sub(1),
                iy.wrapping_add(dy).wrapping_sub(1),
                iz.wrapping_add(dz).wrapping_sub(1),
                seed,
            );
            let (b, c, e) = (next(h), next(h ^ 0x1234_5677), next(h ^ 0x0bad_cafe));
            let (px, py, pz) =
                (dx as f32 - 1.0 + unit(h) - fx, dy as f32 - 1.0 + unit(b) - fy, dz as f32 - 1.0 + unit(c) - fz);
            // Small ones are more frequent than large ones.
            let u = unit(e);
            let r = low + span * u * u;
            let d = 1.0 - (px * px + py * py + pz * pz).sqrt() / r;
            let there = (unit(next(e)) < density) & (d > out[i]);
            out[i] = if there { d } else { out[i] };
            id[i] = if there { h } else { id[i] };
        }
    }
}

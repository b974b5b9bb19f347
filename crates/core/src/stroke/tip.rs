//! Tips of the brush: how much of what a stroke covers they let through. They go by places in millimetres and in the stroke's own measure, so that they have no seams
//! and are the same at every texture size; what is random of them hangs on the stroke's points.

use multiversion::multiversion;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

use crate::lattice::{cell, hash, next, smooth, unit};

/// Texels that are worked out side by side.
pub(super) const LANES: usize = 16;

/// What a brush ends in.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Tip {
    /// All of it touches.
    #[default]
    Round,
    /// Hairs that draw lines along the stroke.
    Bristle,
    /// Holes, as of a sponge that dabs.
    Sponge,
    /// Drops.
    Splash,
}

impl Tip {
    /// Whether it is the one that one begins with.
    pub fn is_round(&self) -> bool {
        *self == Tip::Round
    }
}

/// Hairs from the middle of a bristle brush to its border.
const HAIRS: f32 = 9.0;
/// A hair touches or doesn't for about so many radii along a stroke.
const TOUCH: f32 = 1.6;

/// Leaves what hairs touch, of places side by side: `across` the stroke from its middle and `along` it from its beginning, in mm.
#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
pub fn bristle(across: &[f32; LANES], along: &[f32; LANES], radius: f32, seed: u32, covered: &mut [f32; LANES]) {
    let (hairs, touches) = (HAIRS / radius, 1.0 / (TOUCH * radius));
    for l in 0..LANES {
        let ((u, iu), (v, iv)) = (cell(across[l] * hairs), cell(along[l] * touches));
        let (u, v) = (smooth(u), smooth(v));
        let at = |du: u32, dv: u32| unit(hash(iu.wrapping_add(du), iv.wrapping_add(dv), 1, seed));
        let (near, far) = (at(0, 0) + (at(1, 0) - at(0, 0)) * u, at(0, 1) + (at(1, 1) - at(0, 1)) * u);
        covered[l] *= smooth((near + (far - near) * v - 0.36) / 0.2);
    }
}

#[inline(always)]
fn value_noise(x: f32, y: f32, z: f32, seed: u32) -> f32 {
    let ((x, ix), (y, iy), (z, iz)) = (cell(x), cell(y), cell(z));
    let (x, y, z) = (smooth(x), smooth(y), smooth(z));
    let at =
        |dx: u32, dy: u32, dz: u32| unit(hash(ix.wrapping_add(dx), iy.wrapping_add(dy), iz.wrapping_add(dz), seed));
    let side = |dz: u32| {
        let (a, b) =
            (at(0, 0, dz) + (at(1, 0, dz) - at(0, 0, dz)) * x, at(0, 1, dz) + (at(1, 1, dz) - at(0, 1, dz)) * x);
        a + (b - a) * y
    };
    side(0) + (side(1) - side(0)) * z
}

/// Takes away what a sponge has holes for, of places side by side.
#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
pub fn sponge(at: &[[f32; LANES]; 3], radius: f32, seed: u32, covered: &mut [f32; LANES]) {
    let (coarse, fine) = (1.0 / (radius * 0.22), 1.0 / (radius * 0.08));
    for l in 0..LANES {
        let (x, y, z) = (at[0][l], at[1][l], at[2][l]);
        let n = 0.62 * value_noise(x * coarse, y * coarse, z * coarse, seed)
            + 0.38 * value_noise(x * fine, y * fine, z * fine, next(seed));
        covered[l] *= smooth((n - 0.44) / 0.14);
    }
}

/// Leaves drops of what is covered, of places side by side. In every cell of a lattice lies one, or none.
#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
pub fn splash(at: &[[f32; LANES]; 3], radius: f32, seed: u32, covered: &mut [f32; LANES]) {
    let cells = 1.0 / (radius * 0.5);
    for l in 0..LANES {
        let ((x, ix), (y, iy), (z, iz)) = (cell(at[0][l] * cells), cell(at[1][l] * cells), cell(at[2][l] * cells));
        let mut wet = 0.0f32;
        for k in 0..27u32 {
            let step = [k % 3, k / 3 % 3, k / 9];
            // One below to one above.
            let place = |i: u32, s: u32| i.wrapping_add(s).wrapping_sub(1);
            let h = hash(place(ix, step[0]), place(iy, step[1]), place(iz, step[2]), seed);
            let (a, b, c) = (next(h), next(h ^ 0x51ed_270b), next(h ^ 0x2545_f491));
            let off = |v: f32, s: u32, r: u32| v + 1.0 - s as f32 - unit(r);
            let (dx, dy, dz) = (off(x, step[0], a), off(y, step[1], b), off(z, step[2], c));
            // Many small ones, few large ones.
            let size = unit(h);
            let drop = 0.2 + 0.75 * size * size;
            let there = if unit(next(a)) < 0.8 { 1.0 } else { 0.0 };
            let inside = (drop - (dx * dx + dy * dy + dz * dz).sqrt()) / (0.2 * drop);
            wet = wet.max(there * smooth(inside + 0.5));
        }
        covered[l] *= wet;
    }
}

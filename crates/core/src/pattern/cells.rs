//! Cells around points strewn one to a lattice cell (Worley 1996): what several patterns are made of. Distances are in lattice cells.

use multiversion::multiversion;

use super::lattice::{PX, PY, PZ, cell};
use crate::bake::rays::mix;

const STEPS: [u32; 3] = [PX, PY, PZ];

/// Points per chunk: all that is known of them stays in the first-level cache.
pub const CHUNK: usize = 256;

/// What is known of each point of a chunk.
pub struct Cells {
    /// Distance to the nearest seed point.
    pub first: [f32; CHUNK],
    /// Distance to the second nearest.
    pub second: [f32; CHUNK],
    /// Distance to the border between the nearest two.
    pub border: [f32; CHUNK],
    /// A random number of the nearest.
    pub id: [u32; CHUNK],
}

impl Default for Cells {
    fn default() -> Self {
        Self { first: [0.0; CHUNK], second: [0.0; CHUNK], border: [0.0; CHUNK], id: [0; CHUNK] }
    }
}

/// Which numbers are asked for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Want {
    /// The distances to the nearest two points and the nearest one's number.
    Distances,
    /// The distance to the border as well, which costs a second round.
    Border,
}

/// Finds the cells of at most [`CHUNK`] points, given in lattice cells. `jitter` 0…1 says how far seed points leave the middle of their cells.
#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
pub fn find(x: &[f32], y: &[f32], z: &[f32], jitter: f32, seed: u32, want: Want, out: &mut Cells) {
    let n = x.len().min(CHUNK);
    let mut fraction = [[0.0f32; CHUNK]; 3];
    let mut whole = [[0u32; CHUNK]; 3];
    for (a, v) in [x, y, z].into_iter().enumerate() {
        for i in 0..n {
            (fraction[a][i], whole[a][i]) = cell(v[i]);
            // Multiplied once here: a neighbour's share of the hash is only added to it.
            whole[a][i] = whole[a][i].wrapping_mul(STEPS[a]);
        }
    }
    let [fx, fy, fz] = &fraction;
    let [ix, iy, iz] = &whole;
    let (mut first, mut second) = ([1e9f32; CHUNK], [1e9f32; CHUNK]);
    let mut at = [[0.0f32; CHUNK]; 3];
    for (dx, dy, dz) in around() {
        let (sx, sy, sz) = ((dx as u32).wrapping_mul(PX), (dy as u32).wrapping_mul(PY), (dz as u32).wrapping_mul(PZ));
        let (mx, my, mz) = (dx as f32, dy as f32, dz as f32);
        for i in 0..n {
            let (p, h) = point(ix[i].wrapping_add(sx), iy[i].wrapping_add(sy), iz[i].wrapping_add(sz), jitter, seed);
            let (px, py, pz) = (mx + p[0] - fx[i], my + p[1] - fy[i], mz + p[2] - fz[i]);
            let d = px * px + py * py + pz * pz;
            let nearer = d < first[i];
            let other = if nearer { first[i] } else { d };
            second[i] = if other < second[i] { other } else { second[i] };
            first[i] = if nearer { d } else { first[i] };
            out.id[i] = if nearer { h } else { out.id[i] };
            at[0][i] = if nearer { px } else { at[0][i] };
            at[1][i] = if nearer { py } else { at[1][i] };
            at[2][i] = if nearer { pz } else { at[2][i] };
        }
    }
    for i in 0..n {
        out.first[i] = first[i].sqrt();
        out.second[i] = second[i].sqrt();
    }
    if want == Want::Distances {
        return;
    }
    let mut border = [1e9f32; CHUNK];
    for (dx, dy, dz) in around() {
        let (sx, sy, sz) = ((dx as u32).wrapping_mul(PX), (dy as u32).wrapping_mul(PY), (dz as u32).wrapping_mul(PZ));
        let (mx, my, mz) = (dx as f32, dy as f32, dz as f32);
        for i in 0..n {
            let (p, _) = point(ix[i].wrapping_add(sx), iy[i].wrapping_add(sy), iz[i].wrapping_add(sz), jitter, seed);
            let (px, py, pz) = (mx + p[0] - fx[i], my + p[1] - fy[i], mz + p[2] - fz[i]);
            let (ax, ay, az) = (px - at[0][i], py - at[1][i], pz - at[2][i]);
            let apart = ax * ax + ay * ay + az * az;
            // The plane half-way between both points: (a + b)/2 · (b − a)/|b − a|.
            let along = (px + at[0][i]) * ax + (py + at[1][i]) * ay + (pz + at[2][i]) * az;
            let d = 0.5 * along / (if apart > 1e-6 { apart } else { 1.0 }).sqrt();
            let counts = (apart > 1e-6) & (d < border[i]);
            border[i] = if counts { d } else { border[i] };
        }
    }
    out.border[..n].copy_from_slice(&border[..n]);
}

#[inline(always)]
fn around() -> impl Iterator<Item = (i32, i32, i32)> {
    (0..27).map(|k| (k % 3 - 1, k / 3 % 3 - 1, k / 9 - 1))
}

/// The seed point of a lattice cell, in it, and the cell's random number. The three shares of the hash are of the cell's coordinates; the point's coordinates
/// are ten bits each of it.
#[inline(always)]
fn point(x: u32, y: u32, z: u32, jitter: f32, seed: u32) -> ([f32; 3], u32) {
    let h = mix(x ^ y ^ z ^ seed);
    let place = |bits: u32| 0.5 + ((bits & 1023) as f32 * (1.0 / 1024.0) - 0.499_511_7) * jitter;
    ([place(h), place(h >> 10), place(h >> 20)], h)
}

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

/// Points that go through all neighbours side by side: what is known of them stays in registers.
const BLOCK: usize = 16;

/// Finds the cells of at most [`CHUNK`] points, given in lattice cells. `jitter` 0…1 says how far seed points leave the middle of their cells.
pub fn find(x: &[f32], y: &[f32], z: &[f32], jitter: f32, seed: u32, want: Want, out: &mut Cells) {
    match want {
        Want::Distances => distances(x, y, z, jitter, seed, out),
        Want::Border => borders(x, y, z, jitter, seed, out),
    }
}

#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
fn distances(x: &[f32], y: &[f32], z: &[f32], jitter: f32, seed: u32, out: &mut Cells) {
    for start in (0..x.len().min(CHUNK)).step_by(BLOCK) {
        let near = nearest(&lattice(x, y, z, start), jitter, seed);
        put(&near, start, out);
    }
}

#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
fn borders(x: &[f32], y: &[f32], z: &[f32], jitter: f32, seed: u32, out: &mut Cells) {
    for start in (0..x.len().min(CHUNK)).step_by(BLOCK) {
        let l = lattice(x, y, z, start);
        let near = nearest(&l, jitter, seed);
        put(&near, start, out);
        let mut border = [1e9f32; BLOCK];
        for (dx, dy, dz) in around() {
            for i in 0..BLOCK {
                let ([px, py, pz], _) = l.seed(i, dx, dy, dz, jitter, seed);
                let (ax, ay, az) = (px - near.at[0][i], py - near.at[1][i], pz - near.at[2][i]);
                let apart = ax * ax + ay * ay + az * az;
                // The plane half-way between both points: (a + b)/2 · (b − a)/|b − a|.
                let along = (px + near.at[0][i]) * ax + (py + near.at[1][i]) * ay + (pz + near.at[2][i]) * az;
                let d = 0.5 * along / (if apart > 1e-6 { apart } else { 1.0 }).sqrt();
                let counts = (apart > 1e-6) & (d < border[i]);
                border[i] = if counts { d } else { border[i] };
            }
        }
        out.border[start..start + BLOCK].copy_from_slice(&border);
    }
}

/// A block's points: their place in the lattice cell, and their cell's shares of the hash.
struct Lattice {
    fraction: [[f32; BLOCK]; 3],
    share: [[u32; BLOCK]; 3],
}

#[inline(always)]
fn lattice(x: &[f32], y: &[f32], z: &[f32], start: usize) -> Lattice {
    let mut l = Lattice { fraction: [[0.0; BLOCK]; 3], share: [[0; BLOCK]; 3] };
    for (a, v) in [x, y, z].into_iter().enumerate() {
        let mut block = [0.0f32; BLOCK];
        let n = BLOCK.min(v.len() - start);
        block[..n].copy_from_slice(&v[start..start + n]);
        for i in 0..BLOCK {
            let (fraction, whole) = cell(block[i]);
            // Multiplied once here: a neighbour's share of the hash is only added to it.
            (l.fraction[a][i], l.share[a][i]) = (fraction, whole.wrapping_mul(STEPS[a]));
        }
    }
    l
}

impl Lattice {
    /// The seed point of a neighbouring cell as seen from the `i`-th point, and that cell's random number.
    #[inline(always)]
    fn seed(&self, i: usize, dx: i32, dy: i32, dz: i32, jitter: f32, seed: u32) -> ([f32; 3], u32) {
        let share = |a: usize, d: i32| self.share[a][i].wrapping_add((d as u32).wrapping_mul(STEPS[a]));
        let (p, h) = point(share(0, dx), share(1, dy), share(2, dz), jitter, seed);
        let from = |a: usize, d: i32| d as f32 + p[a] - self.fraction[a][i];
        ([from(0, dx), from(1, dy), from(2, dz)], h)
    }
}

/// The nearest two seed points of a block: squared distances, the nearest's number and where it lies.
struct Nearest {
    first: [f32; BLOCK],
    second: [f32; BLOCK],
    id: [u32; BLOCK],
    at: [[f32; BLOCK]; 3],
}

#[inline(always)]
fn nearest(l: &Lattice, jitter: f32, seed: u32) -> Nearest {
    let (mut first, mut second, mut id) = ([1e9f32; BLOCK], [1e9f32; BLOCK], [0u32; BLOCK]);
    let mut at = [[0.0f32; BLOCK]; 3];
    for (dx, dy, dz) in around() {
        for i in 0..BLOCK {
            let (p, h) = l.seed(i, dx, dy, dz, jitter, seed);
            let d = p[0] * p[0] + p[1] * p[1] + p[2] * p[2];
            let nearer = d < first[i];
            let other = if nearer { first[i] } else { d };
            second[i] = if other < second[i] { other } else { second[i] };
            first[i] = if nearer { d } else { first[i] };
            id[i] = if nearer { h } else { id[i] };
            at[0][i] = if nearer { p[0] } else { at[0][i] };
            at[1][i] = if nearer { p[1] } else { at[1][i] };
            at[2][i] = if nearer { p[2] } else { at[2][i] };
        }
    }
    Nearest { first, second, id, at }
}

#[inline(always)]
fn put(near: &Nearest, start: usize, out: &mut Cells) {
    for i in 0..BLOCK {
        out.first[start + i] = near.first[i].sqrt();
        out.second[start + i] = near.second[i].sqrt();
        out.id[start + i] = near.id[i];
    }
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

//! Cells around points strewn one to a lattice cell (Worley 1996): what several patterns are made of. Distances are in lattice cells.

use multiversion::multiversion;

use crate::lattice::{PX, PY, PZ, cell};

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
    /// The distance to the nearest point alone.
    First,
    /// The distances to the nearest two points and the nearest one's number.
    Distances,
    /// The distance to the border as well, which costs a second round.
    Border,
}

/// Points that go through all neighbours side by side: what is known of them stays in registers.
const BLOCK: usize = 16;

/// How points are strewn.
struct How {
    frequency: f32,
    jitter: f32,
    seed: u32,
}

type Lanes = [f32; BLOCK];

/// The cells around a point: before, at and after its own along each axis.
const AROUND: [(usize, usize, usize); 27] = {
    let (mut out, mut k) = ([(0, 0, 0); 27], 0);
    while k < 27 {
        out[k] = (k % 3, k / 3 % 3, k / 9);
        k += 1;
    }
    out
};

/// Finds the cells of at most [`CHUNK`] points, `frequency` lattice cells to the mm. `jitter` 0…1 says how far seed points leave the middle of their cells.
pub fn find([x, y, z]: [&[f32]; 3], frequency: f32, jitter: f32, seed: u32, want: Want, out: &mut Cells) {
    let how = How { frequency, jitter, seed };
    match want {
        Want::First => firsts(x, y, z, &how, out),
        Want::Distances => distances(x, y, z, &how, out),
        Want::Border => borders(x, y, z, &how, out),
    }
}

#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
fn firsts(x: &[f32], y: &[f32], z: &[f32], how: &How, out: &mut Cells) {
    for start in (0..x.len().min(CHUNK)).step_by(BLOCK) {
        let near = nearest::<false, false>(&lattice(x, y, z, start, how));
        let to = &mut out.first[start..start + BLOCK];
        to.iter_mut().zip(&near.first).for_each(|(to, d)| *to = d.sqrt());
    }
}

#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
fn distances(x: &[f32], y: &[f32], z: &[f32], how: &How, out: &mut Cells) {
    for start in (0..x.len().min(CHUNK)).step_by(BLOCK) {
        put(&nearest::<true, false>(&lattice(x, y, z, start, how)), start, out);
    }
}

#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
fn borders(x: &[f32], y: &[f32], z: &[f32], how: &How, out: &mut Cells) {
    for start in (0..x.len().min(CHUNK)).step_by(BLOCK) {
        let l = lattice(x, y, z, start, how);
        let near = nearest::<true, true>(&l);
        put(&near, start, out);
        let mut border: Lanes = [1e9; BLOCK];
        for (dx, dy, dz) in AROUND {
            for i in 0..BLOCK {
                let ([px, py, pz], _) = l.seed(i, dx, dy, dz);
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

/// What a block's points need of the cells before, at and after their own along each axis.
struct Lattice {
    /// The cell's share of the hash.
    share: [[[u32; BLOCK]; 3]; 3],
    /// From the point to where the cell's seed point lies when its bits are 0, less `jitter`.
    base: [[Lanes; 3]; 3],
    jitter: f32,
}

#[inline(always)]
fn lattice(x: &[f32], y: &[f32], z: &[f32], start: usize, how: &How) -> Lattice {
    let How { frequency, jitter, seed } = *how;
    let mut l = Lattice { share: [[[0; BLOCK]; 3]; 3], base: [[[0.0; BLOCK]; 3]; 3], jitter };
    // Ten bits as a number from 1 up to 2, whose middle comes to lie in the middle of the cell.
    let middle = 0.5 - 1.499_511_7 * jitter;
    for (a, v) in [x, y, z].into_iter().enumerate() {
        let block = v[start..].first_chunk::<BLOCK>().copied().unwrap_or_else(|| {
            let mut padded: Lanes = [0.0; BLOCK];
            padded[..v.len() - start].copy_from_slice(&v[start..]);
            padded
        });
        let salt = if a == 0 { seed } else { 0 };
        for i in 0..BLOCK {
            let (fraction, whole) = cell(block[i] * frequency);
            let own = whole.wrapping_mul(STEPS[a]);
            for d in 0..3 {
                l.share[a][d][i] = own.wrapping_add((d as u32).wrapping_sub(1).wrapping_mul(STEPS[a])) ^ salt;
                l.base[a][d][i] = (middle - fraction) + (d as f32 - 1.0);
            }
        }
    }
    l
}

/// The first half of Wellons' `lowbias32`: what it is given are products already.
#[inline(always)]
fn scramble(mut h: u32) -> u32 {
    h ^= h >> 16;
    h = h.wrapping_mul(0x7feb_352d);
    h ^ (h >> 15)
}

impl Lattice {
    /// The seed point of a neighbouring cell (0 before, 1 at, 2 after along each axis) as seen from the `i`-th point, and that cell's random number.
    /// The point's coordinates are ten bits each of it.
    #[inline(always)]
    fn seed(&self, i: usize, dx: usize, dy: usize, dz: usize) -> ([f32; 3], u32) {
        let h = scramble(self.share[0][dx][i] ^ self.share[1][dy][i] ^ self.share[2][dz][i]);
        let place = |bits: u32| f32::from_bits((bits & 0x007f_e000) | 0x3f80_0000) * self.jitter;
        let [x, y, z] = [place(h), place(h << 10), place(h >> 9)];
        ([self.base[0][dx][i] + x, self.base[1][dy][i] + y, self.base[2][dz][i] + z], h)
    }
}

/// The nearest two seed points of a block: squared distances, the nearest's number and where it lies, as far as asked for.
struct Nearest {
    first: Lanes,
    second: Lanes,
    id: [u32; BLOCK],
    at: [Lanes; 3],
}

#[inline(always)]
fn nearest<const BOTH: bool, const PLACE: bool>(l: &Lattice) -> Nearest {
    let (mut first, mut second, mut id) = ([1e9f32; BLOCK], [1e9f32; BLOCK], [0u32; BLOCK]);
    let mut at = [[0.0f32; BLOCK]; 3];
    for (dx, dy, dz) in AROUND {
        for i in 0..BLOCK {
            let (p, h) = l.seed(i, dx, dy, dz);
            let d = p[0] * p[0] + p[1] * p[1] + p[2] * p[2];
            let nearer = d < first[i];
            if BOTH {
                let other = if nearer { first[i] } else { d };
                second[i] = if other < second[i] { other } else { second[i] };
                id[i] = if nearer { h } else { id[i] };
            }
            if PLACE {
                at[0][i] = if nearer { p[0] } else { at[0][i] };
                at[1][i] = if nearer { p[1] } else { at[1][i] };
                at[2][i] = if nearer { p[2] } else { at[2][i] };
            }
            first[i] = if nearer { d } else { first[i] };
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

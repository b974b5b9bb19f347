//! Directions to look in: an Owen-scrambled (0,2)-sequence per texel, sorted so that neighbours look alike.
//!
//! The first two dimensions of Sobol's sequence put one point into each elementary interval; scrambling per texel (Owen 1997,
//! by the hash of Laine & Karras 2011 as given by Burley 2020) keeps that and makes the error of neighbours independent. Sorted by their cell of a coarse
//! grid, the n-th rays of neighbouring texels point the same way, which makes coherent packets.

use glam::Vec3;

use crate::lattice::mix;

#[inline]
fn owen(x: u32, seed: u32) -> u32 {
    let mut x = x.reverse_bits();
    x = x.wrapping_add(seed);
    x ^= x.wrapping_mul(0x6c50_b47c);
    x ^= x.wrapping_mul(0xb82f_1e52);
    x ^= x.wrapping_mul(0xc7af_e638);
    x ^= x.wrapping_mul(0x8d22_f6e6);
    x.reverse_bits()
}

/// Second dimension of Sobol's sequence: direction numbers by v[i] = v[i−1] ⊕ v[i−1] ≫ 1.
#[inline]
fn sobol2(mut index: u32) -> u32 {
    let (mut v, mut x) = (1u32 << 31, 0);
    while index != 0 {
        if index & 1 == 1 {
            x ^= v;
        }
        v ^= v >> 1;
        index >>= 1;
    }
    x
}

/// The `sample`-th point of the unit square of the sequence that `seed` names: shuffled and scrambled, so that sequences go together without a pattern, and the first
/// 2ⁿ points of each are stratified (Burley 2020).
#[inline]
pub fn point(sample: u32, seed: u32) -> [f32; 2] {
    let index = owen(sample, mix(seed));
    let (x, y) = (owen(index.reverse_bits(), mix(seed ^ 0x9e37_79b9)), owen(sobol2(index), mix(seed ^ 0x3c6e_f372)));
    [unit(x), unit(y)]
}

/// 24 bits fill the mantissa; half a step keeps points off the borders.
#[inline]
fn unit(v: u32) -> f32 {
    ((v >> 8) as f32 + 0.5) / 16_777_216.0
}

/// A plan for `count` rays: the unscrambled points and how finely they are sorted.
pub struct Directions {
    points: Vec<(u32, u32)>,
    grid: [u32; 2],
}

impl Directions {
    /// A plan for `count` rays per texel, at least 1.
    pub fn new(count: u32) -> Self {
        let count = count.max(1);
        let points = (0..count).map(|i| (i.reverse_bits(), sobol2(i))).collect();
        let bits = count.ilog2();
        Self { points, grid: [bits.div_ceil(2), bits / 2] }
    }

    /// Rays per texel.
    pub fn len(&self) -> usize {
        self.points.len()
    }

    /// Never: there is at least one ray.
    pub fn is_empty(&self) -> bool {
        self.points.is_empty()
    }

    /// The texel's own points of the unit square, in the order of the grid's cells, into `out`.
    pub fn square(&self, texel: u32, seed: u32, out: &mut Vec<[f32; 2]>) {
        let (s0, s1) = (mix(texel ^ mix(seed)), mix(texel.wrapping_mul(0x9e37_79b9) ^ mix(seed ^ 0x5bd1)));
        let mut keyed: Vec<(u32, u32, u32)> = self
            .points
            .iter()
            .map(|(x, y)| {
                let (x, y) = (owen(*x, s0), owen(*y, s1));
                let cell = |v: u32, bits: u32| if bits == 0 { 0 } else { v >> (32 - bits) };
                ((cell(x, self.grid[0]) << self.grid[1]) | cell(y, self.grid[1]), x, y)
            })
            .collect();
        keyed.sort_unstable();
        out.clear();
        out.extend(keyed.iter().map(|(_, x, y)| [unit(*x), unit(*y)]));
    }
}

/// Sine and cosine of 2πt for t in 0…1, to 1e-6, by polynomials that every machine computes alike.
#[inline]
pub fn sin_cos_turn(t: f32) -> (f32, f32) {
    // Reduce to a quarter turn around 0, then Taylor terms to the 9th and 8th power.
    let q = (t * 4.0 + 0.5).floor();
    let x = (t - q * 0.25) * std::f32::consts::TAU;
    let x2 = x * x;
    let s = x * (1.0 - x2 * (1.0 / 6.0 - x2 * (1.0 / 120.0 - x2 * (1.0 / 5040.0 - x2 / 362_880.0))));
    let c = 1.0 - x2 * (0.5 - x2 * (1.0 / 24.0 - x2 * (1.0 / 720.0 - x2 / 40320.0)));
    match q as i32 & 3 {
        0 => (s, c),
        1 => (c, -s),
        2 => (-s, -c),
        _ => (-c, s),
    }
}

/// A frame around a unit normal without branches (Duff et al. 2017).
#[inline]
pub fn frame(n: Vec3) -> (Vec3, Vec3) {
    let sign = if n.z < 0.0 { -1.0 } else { 1.0 };
    let a = -1.0 / (sign + n.z);
    let b = n.x * n.y * a;
    (Vec3::new(1.0 + sign * n.x * n.x * a, sign * b, -sign * n.x), Vec3::new(b, sign + n.y * n.y * a, -n.y))
}

/// A direction of the hemisphere around z, cosine-weighted, from a point of the unit square.
#[inline]
pub fn cosine_hemisphere(p: [f32; 2]) -> Vec3 {
    let r = p[1].sqrt();
    let (s, c) = sin_cos_turn(p[0]);
    Vec3::new(r * c, r * s, (1.0 - p[1]).sqrt())
}

/// A direction of the whole sphere, uniform, from a point of the unit square; half of an even stratification lies on each side.
#[inline]
pub fn uniform_sphere(p: [f32; 2]) -> Vec3 {
    let z = 1.0 - 2.0 * p[1];
    let r = (1.0 - z * z).max(0.0).sqrt();
    let (s, c) = sin_cos_turn(p[0]);
    Vec3::new(r * c, r * s, z)
}

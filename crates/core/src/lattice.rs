//! What patterns are woven from, and what else must look random and be the same every time: a lattice hashed by arithmetic, value and gradient noise on it, and octaves of noise.
//!
//! The lattice is hashed by arithmetic rather than by table, so that loops over points vectorise without gathers. Only additions and multiplications in a
//! fixed order are used: the same bits for every instruction set.

use multiversion::multiversion;

use crate::setting::{ParamSpec, Resolved};

/// One layer of noise.
#[derive(Clone, Copy)]
pub struct Octave {
    /// Lattice cells per mm.
    pub frequency: f32,
    /// How strongly it counts.
    pub amplitude: f32,
    /// Chooses the arrangement.
    pub seed: u32,
    /// Shift in cells, so that the zeros of the octaves, which lie on the lattice, don't meet at the origin.
    pub offset: [f32; 3],
}

/// Octaves from coarse to fine; their amplitudes are scaled so that their squares add up to that of `spread`. `size` in mm.
pub fn octaves(size: f32, count: u32, lacunarity: f32, gain: f32, seed: u32, spread: f32) -> Vec<Octave> {
    let (mut frequency, mut amplitude, mut sum) = (1.0 / size.max(1e-3), 1.0f32, 0.0);
    let mut all: Vec<Octave> = (0..count.max(1))
        .map(|i| {
            let s = mix(seed.wrapping_mul(0x9e37_79b9) ^ mix(i + 1));
            let shift = |k: u32| (mix(s ^ k) >> 16) as f32 / 256.0;
            let o = Octave { frequency, amplitude, seed: s, offset: [shift(1), shift(2), shift(3)] };
            sum += amplitude * amplitude;
            frequency *= lacunarity;
            amplitude *= gain;
            o
        })
        .collect();
    let norm = spread / sum.sqrt();
    all.iter_mut().for_each(|o| o.amplitude *= norm);
    all
}

/// The octaves of settings described by [`octave_specs`].
pub fn octaves_of(s: &Resolved, spread: f32) -> Vec<Octave> {
    let (size, count) = (s.number("size"), s.integer("octaves"));
    octaves(size, count, s.number("lacunarity"), s.number("gain"), s.integer("seed"), spread)
}

/// The settings of noise in octaves.
pub fn octave_specs(size: f64, octaves: f64) -> Vec<ParamSpec> {
    vec![
        ParamSpec::length("size", "Size", (0.1, 5000.0), size, "Length of the coarsest patches."),
        ParamSpec::integer("octaves", "Octaves", (1.0, 10.0), octaves, "How many finer layers are added."),
        ParamSpec::number(
            "lacunarity",
            "Lacunarity",
            "",
            (1.2, 4.0),
            2.0,
            "How much finer each octave is than the one before.",
        ),
        ParamSpec::share("gain", "Gain", 0.5, "How strong each octave is against the one before."),
        seed_spec(),
    ]
}

/// The setting that chooses the arrangement.
pub fn seed_spec() -> ParamSpec {
    ParamSpec::integer("seed", "Seed", (0.0, 999_999.0), 1.0, "Another number, another arrangement.")
}

/// Avalanche of 32 bits (Wellons' `lowbias32`).
#[inline]
pub fn mix(mut x: u32) -> u32 {
    x ^= x >> 16;
    x = x.wrapping_mul(0x7feb_352d);
    x ^= x >> 15;
    x = x.wrapping_mul(0x846c_a68b);
    x ^ (x >> 16)
}

/// A number that is as good as random, of a lattice cell.
#[inline(always)]
pub fn hash(x: u32, y: u32, z: u32, seed: u32) -> u32 {
    mix(x.wrapping_mul(PX) ^ y.wrapping_mul(PY) ^ z.wrapping_mul(PZ) ^ seed)
}

/// The next one of a row of such numbers.
#[inline(always)]
pub fn next(h: u32) -> u32 {
    mix(h.wrapping_add(0x9e37_79b9))
}

/// The quick hash of gradient noise: good enough to choose among twelve directions.
#[inline(always)]
pub fn hash_lattice(x: u32, y: u32, z: u32, seed: u32) -> u32 {
    x.wrapping_mul(PX) ^ y.wrapping_mul(PY) ^ z.wrapping_mul(PZ) ^ seed
}

/// 0…1 of the top 24 bits.
#[inline(always)]
pub fn unit(h: u32) -> f32 {
    (h >> 8) as f32 * (1.0 / 16_777_216.0)
}

/// 0 at 0 and below, 1 at 1 and above, smooth between.
#[inline(always)]
pub fn smooth(t: f32) -> f32 {
    let t = clamp(t);
    t * t * (3.0 - 2.0 * t)
}

/// Into 0…1, without a call.
#[inline(always)]
pub fn clamp(t: f32) -> f32 {
    let t = if t > 0.0 { t } else { 0.0 };
    if t < 1.0 { t } else { 1.0 }
}

/// Multipliers of the three lattice coordinates.
pub const PX: u32 = 0x9e37_79b1;
/// See [`PX`].
pub const PY: u32 = 0x85eb_ca77;
/// See [`PX`].
pub const PZ: u32 = 0xc2b2_ae3d;

/// Value noise in 0…1: a random value at each lattice point, mixed smoothly between (Lewis 1989).
#[inline(always)]
pub fn value_noise(x: f32, y: f32, z: f32, seed: u32) -> f32 {
    let ((x, ix), (y, iy), (z, iz)) = (cell(x), cell(y), cell(z));
    let at =
        |dx: u32, dy: u32, dz: u32| unit(hash(ix.wrapping_add(dx), iy.wrapping_add(dy), iz.wrapping_add(dz), seed));
    let (u, v, w) = (fade(x), fade(y), fade(z));
    let near = lerp(lerp(at(0, 0, 0), at(1, 0, 0), u), lerp(at(0, 1, 0), at(1, 1, 0), u), v);
    let far = lerp(lerp(at(0, 0, 1), at(1, 0, 1), u), lerp(at(0, 1, 1), at(1, 1, 1), u), v);
    lerp(near, far, w)
}

/// Gradient noise in about −1…1, 0 on the lattice, with continuous second derivatives.
#[inline(always)]
pub fn gradient_noise(x: f32, y: f32, z: f32, o: &Octave) -> f32 {
    let (x, ix) = cell(x * o.frequency + o.offset[0]);
    let (y, iy) = cell(y * o.frequency + o.offset[1]);
    let (z, iz) = cell(z * o.frequency + o.offset[2]);
    let (hx, hy, hz) = (ix.wrapping_mul(PX), iy.wrapping_mul(PY), iz.wrapping_mul(PZ) ^ o.seed);
    let (hx1, hy1, hz1) = (hx.wrapping_add(PX), hy.wrapping_add(PY), (iz.wrapping_add(1)).wrapping_mul(PZ) ^ o.seed);
    let (u, v, w) = (fade(x), fade(y), fade(z));
    let (x1, y1, z1) = (x - 1.0, y - 1.0, z - 1.0);
    let near = lerp(
        lerp(corner(hx ^ hy ^ hz, x, y, z), corner(hx1 ^ hy ^ hz, x1, y, z), u),
        lerp(corner(hx ^ hy1 ^ hz, x, y1, z), corner(hx1 ^ hy1 ^ hz, x1, y1, z), u),
        v,
    );
    let far = lerp(
        lerp(corner(hx ^ hy ^ hz1, x, y, z1), corner(hx1 ^ hy ^ hz1, x1, y, z1), u),
        lerp(corner(hx ^ hy1 ^ hz1, x, y1, z1), corner(hx1 ^ hy1 ^ hz1, x1, y1, z1), u),
        v,
    );
    lerp(near, far, w)
}

/// Fraction and whole part. Coordinates are far below 2³¹ for any piece and size that pass validation; the clamp makes the
/// conversion safe for everything else.
#[inline(always)]
pub fn cell(v: f32) -> (f32, u32) {
    let f = v.floor();
    let c = if f > -1e9 { f } else { -1e9 };
    let c = if c < 1e9 { c } else { 1e9 };
    // SAFETY: `c` is finite (NaN became −1e9) and within ±1e9, well inside i32.
    (v - f, unsafe { c.to_int_unchecked::<i32>() } as u32)
}

/// Perlin's quintic, with first and second derivative 0 at both ends.
#[inline(always)]
pub fn fade(t: f32) -> f32 {
    t * t * t * (t * (t * 6.0 - 15.0) + 10.0)
}

/// a + (b − a) t
#[inline(always)]
pub fn lerp(a: f32, b: f32, t: f32) -> f32 {
    a + (b - a) * t
}

/// The dot product with one of the twelve edge directions of a cube (some twice), chosen by the hash.
#[inline(always)]
pub fn corner(h: u32, x: f32, y: f32, z: f32) -> f32 {
    let h = h.wrapping_mul(0x27d4_eb2f);
    let h = h ^ (h >> 15);
    let h = h.wrapping_mul(0x85eb_ca6b) >> 27;
    let low = h & 15;
    let u = if low < 8 { x } else { y };
    let v = if low < 4 {
        y
    } else if low & 13 == 12 {
        x
    } else {
        z
    };
    // The signs sit in the lowest two bits: moved to the sign bit and flipped in.
    let u = f32::from_bits(u.to_bits() ^ (h << 31));
    let v = f32::from_bits(v.to_bits() ^ ((h & 2) << 30));
    u + v
}

/// The sum of octaves of gradient noise at each point, around 0, with the spread that the octaves were made with. Slices of one length.
#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
pub fn sum(octaves: &[Octave], x: &[f32], y: &[f32], z: &[f32], out: &mut [f32]) {
    out.fill(0.0);
    for o in octaves {
        for (((x, y), z), v) in x.iter().zip(y).zip(z).zip(out.iter_mut()) {
            *v += o.amplitude * gradient_noise(*x, *y, *z, o);
        }
    }
}

/// Sine of 2πt to 1e-6, without a branch.
#[inline(always)]
pub fn sin_turn(t: f32) -> f32 {
    let t = t - (t + 0.5).floor();
    // Folded to a quarter turn around 0.
    let folded = if t > 0.25 { 0.5 - t } else { t };
    let folded = if folded < -0.25 { -0.5 - folded } else { folded };
    let x = folded * std::f32::consts::TAU;
    let x2 = x * x;
    x * (1.0 - x2 * (1.0 / 6.0 - x2 * (1.0 / 120.0 - x2 * (1.0 / 5040.0 - x2 * (1.0 / 362_880.0)))))
}

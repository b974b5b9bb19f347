//! Perlin fBm: octaves of gradient noise (Perlin 2002, "Improving noise") in the piece's own space.
//!
//! The lattice is hashed by arithmetic rather than by table, so that the loop over points vectorises without gathers. Only
//! additions and multiplications in a fixed order are used: the same bits for every instruction set.

use multiversion::multiversion;

use super::{Field, Pattern};
use crate::setting::{ParamSpec, Resolved};

/// The pattern.
pub static PATTERN: Pattern = Pattern {
    kind: "perlin",
    label: "Clouds",
    help: "Perlin noise in several octaves: soft, uneven patches without direction.",
    specs,
    field: |s| Box::new(Perlin::new(s)),
};

fn specs() -> Vec<ParamSpec> {
    vec![
        ParamSpec::length("size", "Size", (0.1, 5000.0), 40.0, "Length of the coarsest patches."),
        ParamSpec::integer("octaves", "Octaves", (1.0, 10.0), 5.0, "How many finer layers are added."),
        ParamSpec::number(
            "lacunarity",
            "Lacunarity",
            "",
            (1.2, 4.0),
            2.0,
            "How much finer each octave is than the one before.",
        ),
        ParamSpec::share("gain", "Gain", 0.5, "How strong each octave is against the one before."),
        ParamSpec::integer("seed", "Seed", (0.0, 999_999.0), 1.0, "Another number, another arrangement."),
    ]
}

/// fBm with its settings worked out. Mean ½, standard deviation about 0.17 at five octaves.
pub struct Perlin {
    octaves: Vec<Octave>,
}

#[derive(Clone, Copy)]
struct Octave {
    frequency: f32,
    amplitude: f32,
    seed: u32,
    offset: [f32; 3],
}

/// Stretches the sum so that five octaves use most of 0…1; the tails beyond are clamped.
const SPREAD: f32 = 0.85;

impl Perlin {
    /// Reads the settings of [`PATTERN`].
    pub fn new(s: &Resolved) -> Self {
        Self::with(s.number("size"), s.integer("octaves"), s.number("lacunarity"), s.number("gain"), s.integer("seed"))
    }

    /// `size` in mm; `octaves` at least 1.
    pub fn with(size: f32, octaves: u32, lacunarity: f32, gain: f32, seed: u32) -> Self {
        use crate::bake::rays::mix;
        let (mut frequency, mut amplitude, mut sum) = (1.0 / size.max(1e-3), 1.0f32, 0.0);
        let mut all: Vec<Octave> = (0..octaves.max(1))
            .map(|i| {
                let s = mix(seed.wrapping_mul(0x9e37_79b9) ^ mix(i + 1));
                // Each octave is shifted, so that their zeros, which lie on the lattice, don't meet at the origin.
                let shift = |k: u32| (mix(s ^ k) >> 16) as f32 / 256.0;
                let o = Octave { frequency, amplitude, seed: s, offset: [shift(1), shift(2), shift(3)] };
                sum += amplitude * amplitude;
                frequency *= lacunarity;
                amplitude *= gain;
                o
            })
            .collect();
        let norm = SPREAD / sum.sqrt();
        all.iter_mut().for_each(|o| o.amplitude *= norm);
        Self { octaves: all }
    }
}

impl Field for Perlin {
    fn sample(&self, x: &[f32], y: &[f32], z: &[f32], out: &mut [f32]) {
        sample(&self.octaves, x, y, z, out);
    }
}

#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
fn sample(octaves: &[Octave], x: &[f32], y: &[f32], z: &[f32], out: &mut [f32]) {
    out.fill(0.5);
    for o in octaves {
        for (((x, y), z), v) in x.iter().zip(y).zip(z).zip(out.iter_mut()) {
            *v += o.amplitude * gradient_noise(*x, *y, *z, o);
        }
    }
    for v in out {
        *v = if *v < 0.0 { 0.0 } else { *v };
        *v = if *v > 1.0 { 1.0 } else { *v };
    }
}

const PX: u32 = 0x9e37_79b1;
const PY: u32 = 0x85eb_ca77;
const PZ: u32 = 0xc2b2_ae3d;

/// Gradient noise in about −1…1, 0 on the lattice, with continuous second derivatives.
#[inline(always)]
fn gradient_noise(x: f32, y: f32, z: f32, o: &Octave) -> f32 {
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
fn cell(v: f32) -> (f32, u32) {
    let f = v.floor();
    let c = if f > -1e9 { f } else { -1e9 };
    let c = if c < 1e9 { c } else { 1e9 };
    // SAFETY: `c` is finite (NaN became −1e9) and within ±1e9, well inside i32.
    (v - f, unsafe { c.to_int_unchecked::<i32>() } as u32)
}

#[inline(always)]
fn fade(t: f32) -> f32 {
    t * t * t * (t * (t * 6.0 - 15.0) + 10.0)
}

#[inline(always)]
fn lerp(a: f32, b: f32, t: f32) -> f32 {
    a + (b - a) * t
}

/// The dot product with one of the twelve edge directions of a cube (some twice), chosen by the hash.
#[inline(always)]
fn corner(h: u32, x: f32, y: f32, z: f32) -> f32 {
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

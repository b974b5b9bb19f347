//! Perlin fBm: octaves of gradient noise (Perlin 2002, "Improving noise") in the piece's own space.

use multiversion::multiversion;

use super::{Field, Pattern};
use crate::lattice::{Octave, gradient_noise, octave_specs, octaves, octaves_of};

/// The pattern.
pub static PATTERN: Pattern = Pattern {
    kind: "perlin",
    label: "Clouds",
    help: "Perlin noise in several octaves: soft, uneven patches without direction.",
    axes: super::Axes::Three,
    specs: || octave_specs(40.0, 5.0),
    field: |s| Box::new(Perlin { octaves: octaves_of(s, SPREAD) }),
};

/// fBm with its settings worked out. Mean ½, standard deviation about 0.17 at five octaves.
pub struct Perlin {
    octaves: Vec<Octave>,
}

/// Stretches the sum so that five octaves use most of 0…1; the tails beyond are clamped.
const SPREAD: f32 = 0.85;

impl Perlin {
    /// `size` in mm; `count` of octaves at least 1.
    pub fn with(size: f32, count: u32, lacunarity: f32, gain: f32, seed: u32) -> Self {
        Self { octaves: octaves(size, count, lacunarity, gain, seed, SPREAD) }
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

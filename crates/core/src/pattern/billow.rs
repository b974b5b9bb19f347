//! Billow noise: octaves of |gradient noise|, which folds it into rounded puffs (Perlin 1985, "turbulence").

use multiversion::multiversion;

use super::lattice::{Octave, clamp, gradient_noise, octave_specs, octaves_of};
use super::{Field, Pattern};

/// The pattern.
pub static PATTERN: Pattern = Pattern {
    kind: "billow",
    label: "Billows",
    help: "Rounded puffs with narrow valleys between them, in several octaves: crusts, damp plaster, swollen paint.",
    flat: false,
    specs: || octave_specs(40.0, 4.0),
    field: |s| Box::new(Folded(octaves_of(s, SCALE))),
};

struct Folded(Vec<Octave>);

impl Field for Folded {
    fn sample(&self, x: &[f32], y: &[f32], z: &[f32], out: &mut [f32]) {
        sample(&self.0, x, y, z, out);
    }
}

// Mean and spread of the fold of one octave, and where the sum is put in 0…1.
const MEAN: f32 = 0.22;
const SCALE: f32 = 1.15;
const MIDDLE: f32 = 0.4;

#[inline(always)]
fn fold(n: f32) -> f32 {
    n.abs()
}

#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
fn sample(octaves: &[Octave], x: &[f32], y: &[f32], z: &[f32], out: &mut [f32]) {
    out.fill(0.0);
    for o in octaves {
        for (((x, y), z), v) in x.iter().zip(y).zip(z).zip(out.iter_mut()) {
            *v += o.amplitude * (fold(gradient_noise(*x, *y, *z, o)) - MEAN);
        }
    }
    for v in out {
        *v = clamp(MIDDLE + *v);
    }
}

//! Value noise in octaves: a random value at each lattice point, mixed smoothly between (Lewis 1989). Blockier than gradient noise.

use multiversion::multiversion;

use super::{Field, Pattern};
use crate::lattice::{Octave, clamp, octave_specs, octaves_of, value_noise};

/// The pattern.
pub static PATTERN: Pattern = Pattern {
    kind: "value",
    label: "Blotches",
    help: "Value noise in several octaves: blunt, slightly boxy patches, as of damp or of uneven dye.",
    axes: super::Axes::Three,
    specs: || octave_specs(30.0, 4.0),
    field: |s| Box::new(Value(octaves_of(s, SPREAD))),
};

struct Value(Vec<Octave>);

impl Field for Value {
    fn sample(&self, x: &[f32], y: &[f32], z: &[f32], out: &mut [f32]) {
        sample(&self.0, x, y, z, out);
    }
}

/// Stretches the sum so that it uses most of 0…1.
const SPREAD: f32 = 0.95;

#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
fn sample(octaves: &[Octave], x: &[f32], y: &[f32], z: &[f32], out: &mut [f32]) {
    out.fill(0.5);
    for o in octaves {
        let [a, b, c] = o.offset;
        for (((x, y), z), v) in x.iter().zip(y).zip(z).zip(out.iter_mut()) {
            let n = value_noise(*x * o.frequency + a, *y * o.frequency + b, *z * o.frequency + c, o.seed);
            *v += o.amplitude * (n - 0.5);
        }
    }
    for v in out {
        *v = clamp(*v);
    }
}

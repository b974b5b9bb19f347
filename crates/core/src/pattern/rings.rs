//! Growth rings around an axis: slow early wood, a dark late band, and a sharp start of the next year; with a fine grain along the axis.

use multiversion::multiversion;

use crate::lattice::{Octave, cell, clamp, hash, octaves, seed_spec, smooth, sum, unit, value_noise};

use super::{Field, Pattern};
use crate::setting::{ParamSpec, Resolved};

/// The pattern.
pub static PATTERN: Pattern = Pattern {
    kind: "rings",
    label: "Growth rings",
    help: "The rings of a tree around the upright axis, with the grain along it: turn it to lie along a plank.",
    axes: super::Axes::Three,
    specs,
    field: |s| Box::new(Rings::new(s)),
};

fn specs() -> Vec<ParamSpec> {
    vec![
        ParamSpec::length("size", "Ring", (0.1, 500.0), 6.0, "Width of a year's ring."),
        ParamSpec::share(
            "uneven",
            "Uneven",
            0.5,
            "How unlike each other the years are, and how far the rings are out of round.",
        ),
        ParamSpec::share("late", "Late wood", 0.3, "Share of a ring that is its dense late band."),
        ParamSpec::share("grain", "Grain", 0.35, "How strong the fine fibres along the axis are."),
        seed_spec(),
    ]
}

struct Rings {
    frequency: f32,
    uneven: f32,
    late: f32,
    grain: f32,
    seed: u32,
    stray: Vec<Octave>,
}

impl Rings {
    fn new(s: &Resolved) -> Self {
        let (size, seed) = (s.number("size").max(1e-3), s.integer("seed").wrapping_mul(0x7feb_352d));
        Self {
            frequency: 1.0 / size,
            uneven: s.number("uneven"),
            late: s.number("late").max(0.02),
            grain: s.number("grain"),
            seed,
            stray: octaves(size * 12.0, 2, 2.0, 0.4, seed, 1.0),
        }
    }
}

impl Field for Rings {
    fn sample(&self, x: &[f32], y: &[f32], z: &[f32], out: &mut [f32]) {
        sample(self, x, y, z, out);
    }
}

#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
fn sample(s: &Rings, x: &[f32], y: &[f32], z: &[f32], out: &mut [f32]) {
    // A trunk bends and swells along many times its thickness: noise is stretched along the axis.
    let drawn_out: Vec<f32> = y.iter().map(|y| y * 0.2).collect();
    sum(&s.stray, x, &drawn_out, z, out);
    let (x, y, z) = (&x[..out.len()], &y[..out.len()], &z[..out.len()]);
    for (i, v) in out.iter_mut().enumerate() {
        let (x, y, z) = (x[i], y[i], z[i]);
        let t = (x * x + z * z).sqrt() * s.frequency + *v * s.uneven * 3.0;
        let year = t.floor();
        let into = t - year;
        let own = unit(hash(cell(year).1, 3, 5, s.seed));
        let late = clamp(s.late * (1.0 + s.uneven * (own * 1.6 - 0.8)));
        // Into the late band slowly, out of it at once.
        let band = smooth((into - (1.0 - late)) / (late * 0.75 + 0.01)) * (1.0 - smooth((into - 0.94) / 0.06));
        let early = 0.28 * into;
        let f = s.frequency * 9.0;
        let fibre = value_noise(x * f, y * f * 0.03, z * f, s.seed ^ 0x99) - 0.5;
        *v = clamp(0.12 + early * (1.0 - band) + (0.55 + 0.3 * own) * band + fibre * s.grain);
    }
}

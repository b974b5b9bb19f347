//! Brushed: noise drawn out along one direction, as a wire brush or a belt leaves metal.

use multiversion::multiversion;

use crate::lattice::{clamp, seed_spec, value_noise};

use super::{Field, Pattern};
use crate::setting::{ParamSpec, Resolved};

/// The pattern.
pub static PATTERN: Pattern = Pattern {
    kind: "brushed",
    label: "Brushed",
    help: "Fine lines all one way, as brushing, rolling or planing leaves them. Placed radially they go round a disc.",
    axes: super::Axes::Two,
    specs,
    field: |s| Box::new(Brushed::new(s)),
};

fn specs() -> Vec<ParamSpec> {
    vec![
        ParamSpec::length("size", "Width", (0.02, 200.0), 1.2, "Width of the coarsest lines."),
        ParamSpec::length("length", "Length", (1.0, 10_000.0), 120.0, "How long a line goes on."),
        ParamSpec::integer("octaves", "Octaves", (1.0, 6.0), 4.0, "How many finer lines lie between."),
        ParamSpec::share("gain", "Gain", 0.7, "How strong finer lines are against coarser ones."),
        seed_spec(),
    ]
}

/// Cells per mm across and along, strength, seed.
type Layer = (f32, f32, f32, u32);

struct Brushed(Vec<Layer>);

impl Brushed {
    fn new(s: &Resolved) -> Self {
        let (width, length, gain) = (s.number("size").max(1e-3), s.number("length").max(1e-3), s.number("gain"));
        let seed = s.integer("seed").wrapping_mul(0x1656_67b1);
        let mut layers: Vec<Layer> = (0..s.integer("octaves").max(1))
            .map(|k| {
                let f = libm::powf(1.9, k as f32);
                (f / width, f.sqrt() / length, libm::powf(gain, k as f32), seed ^ (k * 7919))
            })
            .collect();
        let sum: f32 = layers.iter().map(|l| l.2 * l.2).sum();
        layers.iter_mut().for_each(|l| l.2 *= 0.95 / sum.sqrt());
        Self(layers)
    }
}

impl Field for Brushed {
    fn sample(&self, x: &[f32], y: &[f32], _: &[f32], out: &mut [f32]) {
        sample(&self.0, x, y, out);
    }
}

#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
fn sample(layers: &[Layer], x: &[f32], y: &[f32], out: &mut [f32]) {
    out.fill(0.5);
    for (across, along, strength, seed) in layers {
        for ((x, y), v) in x.iter().zip(y).zip(out.iter_mut()) {
            *v += strength * (value_noise(*x * across, *y * along, 0.5, *seed) - 0.5);
        }
    }
    for v in out {
        *v = clamp(*v);
    }
}

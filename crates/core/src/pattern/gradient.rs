//! Gradients: from 0 to 1 along a direction, outwards from a point or an axis, or around it.

use super::{Field, Pattern};
use crate::lattice::clamp;
use crate::setting::{ParamSpec, Resolved};

/// The pattern.
pub static PATTERN: Pattern = Pattern {
    kind: "gradient",
    label: "Gradient",
    help: "From 0 to 1: along a direction, outwards from a point, or once around the upright axis.",
    axes: super::Axes::Three,
    specs,
    field: |s| Box::new(Gradient::new(s)),
};

fn specs() -> Vec<ParamSpec> {
    vec![
        ParamSpec::choice(
            "shape",
            "Shape",
            &[("linear", "linear"), ("radial", "radial"), ("angular", "angular")],
            "Along x, outwards, or around the upright axis.",
        ),
        ParamSpec::length("size", "Size", (0.1, 10_000.0), 200.0, "From 0 to 1.")
            .only_with("shape", &["linear", "radial"]),
    ]
}

struct Gradient {
    shape: u8,
    frequency: f32,
}

impl Gradient {
    fn new(s: &Resolved) -> Self {
        let shape = match s.text("shape") {
            "radial" => 1,
            "angular" => 2,
            _ => 0,
        };
        Self { shape, frequency: 1.0 / s.number("size").max(1e-3) }
    }
}

impl Field for Gradient {
    fn sample(&self, x: &[f32], y: &[f32], z: &[f32], out: &mut [f32]) {
        for (i, v) in out.iter_mut().enumerate() {
            *v = clamp(match self.shape {
                1 => (x[i] * x[i] + y[i] * y[i] + z[i] * z[i]).sqrt() * self.frequency,
                2 => libm::atan2f(x[i], z[i]) / std::f32::consts::TAU + 0.5,
                _ => x[i] * self.frequency + 0.5,
            });
        }
    }
}

//! Droplets: water that stands on the surface in domes.

use super::scatter::Scatter;
use super::{Field, Pattern};
use crate::lattice::{next, seed_spec, unit};
use crate::setting::{ParamSpec, Resolved};

/// The pattern.
pub static PATTERN: Pattern = Pattern {
    kind: "droplets",
    label: "Droplets",
    help: "Drops of water that stand on the surface: domes of many sizes, 1 at their top.",
    axes: super::Axes::Three,
    specs,
    field: |s| Box::new(Droplets::new(s)),
};

fn specs() -> Vec<ParamSpec> {
    vec![
        ParamSpec::choice(
            "output",
            "Gives",
            &[("dome", "the dome"), ("flat", "where there is one"), ("cell", "random per drop")],
            "Which number of a drop is taken.",
        ),
        ParamSpec::length("small", "Smallest", (0.05, 500.0), 1.0, "Width of the smallest drops."),
        ParamSpec::length("large", "Largest", (0.05, 500.0), 7.0, "Width of the largest drops."),
        ParamSpec::share("density", "Density", 0.5, "How many of the places hold a drop."),
        seed_spec(),
    ]
}

struct Droplets {
    scatter: Scatter,
    output: u8,
}

impl Droplets {
    fn new(s: &Resolved) -> Self {
        let (small, large) = (s.number("small") * 0.5, s.number("large") * 0.5);
        let seed = s.integer("seed").wrapping_mul(0x85eb_ca6b);
        let scatter = Scatter { small: small.min(large), large: small.max(large), density: s.number("density"), seed };
        let output = match s.text("output") {
            "flat" => 1,
            "cell" => 2,
            _ => 0,
        };
        Self { scatter, output }
    }
}

const RUN: usize = 512;

impl Field for Droplets {
    fn sample(&self, x: &[f32], y: &[f32], z: &[f32], out: &mut [f32]) {
        let mut id = [0u32; RUN];
        for (c, out) in out.chunks_mut(RUN).enumerate() {
            let (at, n) = (c * RUN, out.len());
            self.scatter.depth(&x[at..at + n], &y[at..at + n], &z[at..at + n], out, &mut id[..n]);
            for (v, id) in out.iter_mut().zip(&id) {
                let inside = *v > 0.0;
                // A sphere's cap: 1 − (1 − depth)², under the root.
                let dome = if inside { (1.0 - (1.0 - *v) * (1.0 - *v)).sqrt() } else { 0.0 };
                *v = match self.output {
                    1 => f32::from(u8::from(inside)),
                    2 => {
                        if inside {
                            unit(next(id ^ 0x77))
                        } else {
                            0.0
                        }
                    }
                    _ => dome,
                };
            }
        }
    }
}

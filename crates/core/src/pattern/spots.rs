//! Spots and spatter: blots of many sizes, with ragged borders.

use super::scatter::Scatter;
use super::{Field, Pattern};
use crate::lattice::{Octave, next, octaves, seed_spec, smooth, sum, unit};
use crate::setting::{ParamSpec, Resolved};

/// The pattern.
pub static PATTERN: Pattern = Pattern {
    kind: "spots",
    label: "Spatter",
    help: "Blots of many sizes with ragged borders: splashes, pitting, bird droppings, drops of paint.",
    axes: super::Axes::Three,
    specs,
    field: |s| Box::new(Spots::new(s)),
};

fn specs() -> Vec<ParamSpec> {
    vec![
        ParamSpec::choice(
            "output",
            "Gives",
            &[("spots", "the spots"), ("cell", "random per spot"), ("border", "depth from the border")],
            "Which number of a spot is taken.",
        ),
        ParamSpec::length("small", "Smallest", (0.05, 1000.0), 1.0, "Width of the smallest spots."),
        ParamSpec::length("large", "Largest", (0.05, 1000.0), 12.0, "Width of the largest spots."),
        ParamSpec::share("density", "Density", 0.35, "How many of the places hold a spot."),
        ParamSpec::share("ragged", "Ragged", 0.35, "How far the borders stray from a circle."),
        ParamSpec::share("softness", "Softness", 0.15, "How much of a spot is its fading border."),
        seed_spec(),
    ]
}

struct Spots {
    scatter: Scatter,
    ragged: f32,
    softness: f32,
    output: u8,
    stray: Vec<Octave>,
}

impl Spots {
    fn new(s: &Resolved) -> Self {
        let (small, large) = (s.number("small") * 0.5, s.number("large") * 0.5);
        let (small, large) = (small.min(large), small.max(large));
        let seed = s.integer("seed").wrapping_mul(0x1b87_3593);
        Self {
            scatter: Scatter { small, large, density: s.number("density"), seed },
            ragged: s.number("ragged"),
            softness: s.number("softness").max(0.02),
            output: match s.text("output") {
                "cell" => 1,
                "border" => 2,
                _ => 0,
            },
            stray: octaves((small * large).sqrt() * 0.9, 3, 2.0, 0.6, seed ^ 0x31, 1.0),
        }
    }
}

const RUN: usize = 512;

impl Field for Spots {
    fn sample(&self, x: &[f32], y: &[f32], z: &[f32], out: &mut [f32]) {
        let (mut id, mut stray) = ([0u32; RUN], [0.0f32; RUN]);
        for (c, out) in out.chunks_mut(RUN).enumerate() {
            let (at, n) = (c * RUN, out.len());
            let (x, y, z) = (&x[at..at + n], &y[at..at + n], &z[at..at + n]);
            self.scatter.depth(x, y, z, out, &mut id[..n]);
            sum(&self.stray, x, y, z, &mut stray[..n]);
            for (i, v) in out.iter_mut().enumerate() {
                let depth = *v + self.ragged * stray[i] * 0.8;
                let there = smooth(depth / self.softness);
                *v = match self.output {
                    1 if depth > 0.0 => unit(next(id[i] ^ 0x51)),
                    1 => 0.0,
                    2 => smooth(depth),
                    _ => there,
                };
            }
        }
    }
}

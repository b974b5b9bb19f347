//! Veins: bands bent by turbulence, as marble has them (Perlin 1985, "An image synthesizer").

use multiversion::multiversion;

use super::{Field, Pattern};
use crate::lattice::{Octave, clamp, gradient_noise, octaves, seed_spec, sum};
use crate::setting::{ParamSpec, Resolved};

/// The pattern.
pub static PATTERN: Pattern = Pattern {
    kind: "veins",
    label: "Veins",
    help: "Thin lines that wander and branch, as in marble, in leaves or under worn enamel.",
    axes: super::Axes::Three,
    specs,
    field: |s| Box::new(Veins::new(s)),
};

fn specs() -> Vec<ParamSpec> {
    vec![
        ParamSpec::length("size", "Size", (0.1, 5000.0), 34.0, "From one vein to the next."),
        ParamSpec::share("width", "Width", 0.12, "Width of a vein as a share of the size."),
        ParamSpec::share("wander", "Wander", 0.4, "How far the veins stray from straight bands."),
        ParamSpec::integer("octaves", "Octaves", (1.0, 8.0), 5.0, "How finely they tremble."),
        ParamSpec::share("fade", "Fade", 0.6, "How far veins fade away in places."),
        seed_spec(),
    ]
}

struct Veins {
    frequency: f32,
    width: f32,
    wander: f32,
    fade: f32,
    stray: Vec<Octave>,
    strength: Octave,
}

impl Veins {
    fn new(s: &Resolved) -> Self {
        let (size, seed) = (s.number("size").max(1e-3), s.integer("seed").wrapping_mul(0x9e37_79b1));
        Self {
            frequency: 1.0 / size,
            width: s.number("width").max(0.005),
            wander: s.number("wander") * 2.2,
            fade: s.number("fade"),
            stray: octaves(size * 1.3, s.integer("octaves"), 2.1, 0.5, seed, 1.0),
            strength: octaves(size * 0.8, 1, 2.0, 0.5, seed ^ 0x55, 1.0)[0],
        }
    }
}

impl Field for Veins {
    fn sample(&self, x: &[f32], y: &[f32], z: &[f32], out: &mut [f32]) {
        sample(self, x, y, z, out);
    }
}

#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
fn sample(s: &Veins, x: &[f32], y: &[f32], z: &[f32], out: &mut [f32]) {
    sum(&s.stray, x, y, z, out);
    let (x, y, z) = (&x[..out.len()], &y[..out.len()], &z[..out.len()]);
    for (i, v) in out.iter_mut().enumerate() {
        let (x, y, z) = (x[i], y[i], z[i]);
        let t = (x * 0.79 + y * 0.51 - z * 0.34) * s.frequency + *v * s.wander;
        // Distance to the nearest band, 0…½; the faces of bands are what a surface cuts as lines.
        let d = (t - (t + 0.5).floor()).abs();
        let strength = 1.0 - s.fade * clamp(0.5 + gradient_noise(x, y, z, &s.strength));
        let line = clamp(1.0 - d / (0.5 * s.width * (0.4 + 0.6 * strength)));
        *v = line * (2.0 - line) * strength;
    }
}

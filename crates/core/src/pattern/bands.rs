//! Bands and ramps along one direction, hard or soft, once or over and over.

use super::{Field, Pattern};
use crate::lattice::{clamp, smooth};
use crate::setting::{ParamSpec, Resolved};

/// The pattern.
pub static PATTERN: Pattern = Pattern {
    kind: "bands",
    label: "Bands",
    help: "Stripes across one direction: hard, soft or as a saw. Painted markings, threads, courses.",
    axes: super::Axes::One,
    specs,
    field: |s| Box::new(Bands::new(s)),
};

fn specs() -> Vec<ParamSpec> {
    vec![
        ParamSpec::choice(
            "shape",
            "Shape",
            &[("stripe", "stripe"), ("wave", "wave"), ("saw", "saw"), ("tent", "tent")],
            "How it goes from 0 to 1 within a band.",
        ),
        ParamSpec::choice(
            "repeat",
            "Repeats",
            &[("on", "over and over"), ("off", "once")],
            "Whether one band follows another.",
        ),
        ParamSpec::length("size", "Size", (0.1, 5000.0), 30.0, "From one band to the next."),
        ParamSpec::share("width", "Width", 0.5, "Width of a stripe as a share of the size.")
            .only_with("shape", &["stripe"]),
        ParamSpec::share("softness", "Softness", 0.02, "How much of the size each border takes.")
            .only_with("shape", &["stripe"]),
    ]
}

struct Bands {
    shape: u8,
    repeat: bool,
    frequency: f32,
    width: f32,
    softness: f32,
}

impl Bands {
    fn new(s: &Resolved) -> Self {
        let shape = match s.text("shape") {
            "wave" => 1,
            "saw" => 2,
            "tent" => 3,
            _ => 0,
        };
        Self {
            shape,
            repeat: s.text("repeat") != "off",
            frequency: 1.0 / s.number("size").max(1e-3),
            width: s.number("width"),
            softness: s.number("softness").max(1e-3),
        }
    }
}

impl Field for Bands {
    fn sample(&self, x: &[f32], _: &[f32], _: &[f32], out: &mut [f32]) {
        for (x, v) in x.iter().zip(out) {
            let whole = x * self.frequency;
            let t = if self.repeat { whole - whole.floor() } else { whole };
            *v = match self.shape {
                // A wave is at its lowest at the ends, so that a single one stands by itself.
                1 if (0.0..=1.0).contains(&t) => 0.5 - 0.5 * crate::bake::rays::sin_cos_turn(t).1,
                2 => clamp(t),
                3 => clamp(1.0 - (2.0 * t - 1.0).abs()),
                0 => {
                    let d = (t - 0.5).abs() - self.width * 0.5;
                    1.0 - smooth(d / self.softness + 0.5)
                }
                _ => 0.0,
            };
        }
    }
}

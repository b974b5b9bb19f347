//! Scratches: fine, straight or slightly bent marks, all one way or every way.

use super::lattice::seed_spec;
use super::strokes::{Strokes, sample};
use super::{Field, Pattern};
use crate::setting::{ParamSpec, Resolved};

/// The pattern.
pub static PATTERN: Pattern = Pattern {
    kind: "scratches",
    label: "Scratches",
    help: "Marks of use: thin, slightly bent lines that fade towards their ends.",
    flat: true,
    specs,
    field: |s| Box::new(Scratches(strokes(s))),
};

fn specs() -> Vec<ParamSpec> {
    vec![
        ParamSpec::length("length", "Length", (0.5, 5000.0), 45.0, "Length of the longest."),
        ParamSpec::length("width", "Width", (0.01, 100.0), 0.6, "Width of the widest."),
        ParamSpec::number(
            "density",
            "Density",
            "",
            (0.05, 12.0),
            1.6,
            "How many there are on a square of half a length's side.",
        ),
        ParamSpec::number("direction", "Direction", "°", (-180.0, 180.0), 20.0, "Which way they run."),
        ParamSpec::number("spread", "Spread", "°", (0.0, 180.0), 35.0, "How far they stray from it, each way."),
        ParamSpec::share("bend", "Bend", 0.04, "How far they are bent, as a share of their length."),
        seed_spec(),
    ]
}

fn strokes(s: &Resolved) -> Strokes {
    Strokes {
        length: s.number("length").max(0.01),
        width: s.number("width"),
        density: s.number("density"),
        direction: s.number("direction") / 360.0,
        spread: s.number("spread") / 360.0,
        bend: s.number("bend"),
        taper: true,
        seed: s.integer("seed").wrapping_mul(0x846c_a68b),
    }
}

struct Scratches(Strokes);

impl Field for Scratches {
    fn sample(&self, x: &[f32], y: &[f32], _: &[f32], out: &mut [f32]) {
        sample(&self.0, x, y, out);
    }
}

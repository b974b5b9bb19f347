//! Scratches: fine, straight or slightly bent marks, all one way or every way.

use super::Pattern;
use super::strokes::Strokes;
use crate::lattice::seed_spec;
use crate::setting::ParamSpec;

/// The pattern.
pub static PATTERN: Pattern = Pattern {
    kind: "scratches",
    label: "Scratches",
    help: "Marks of use: thin, slightly bent lines that fade towards their ends.",
    axes: super::Axes::Two,
    specs,
    field: |s| Box::new(Strokes::new(s, "bend", true, 0x846c_a68b)),
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

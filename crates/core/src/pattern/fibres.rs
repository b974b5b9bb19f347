//! Fibres: lint and hairs, thin and curled, lying every way.

use super::Pattern;
use super::strokes::Strokes;
use crate::lattice::seed_spec;
use crate::setting::ParamSpec;

/// The pattern.
pub static PATTERN: Pattern = Pattern {
    kind: "fibres",
    label: "Fibres",
    help: "Hairs and lint, thin and curled, as on felt, paper or a dusty shelf.",
    axes: super::Axes::Two,
    specs,
    field: |s| Box::new(Strokes::new(s, "curl", false, 0xd35a_2d97)),
};

fn specs() -> Vec<ParamSpec> {
    vec![
        ParamSpec::length("length", "Length", (0.2, 1000.0), 12.0, "Length of the longest."),
        ParamSpec::length("width", "Width", (0.01, 50.0), 0.35, "How thick they are."),
        ParamSpec::number(
            "density",
            "Density",
            "",
            (0.05, 12.0),
            3.0,
            "How many there are on a square of half a length's side.",
        ),
        ParamSpec::share("curl", "Curl", 0.35, "How far they are bent, as a share of their length."),
        ParamSpec::number("direction", "Direction", "°", (-180.0, 180.0), 0.0, "Which way they lie."),
        ParamSpec::number("spread", "Spread", "°", (0.0, 180.0), 180.0, "How far they stray from it, each way."),
        seed_spec(),
    ]
}

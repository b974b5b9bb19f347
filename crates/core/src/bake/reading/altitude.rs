//! Altitude: height on the piece between two levels, in millimetres above its lowest point.

use super::{Origin, Reading, Run};
use crate::setting::{ParamSpec, Resolved};

pub static READING: Reading = Reading {
    kind: "altitude",
    label: "Altitude",
    help: "Height above the lowest point of the piece: 0 at the lower level, 1 at the upper.",
    specs,
    weather: &[],
    origin: Origin::Computed(fill),
};

fn specs() -> Vec<ParamSpec> {
    vec![
        ParamSpec::number("low", "Lower level", "mm", (0.0, 10_000.0), 0.0, "Where it is 0."),
        ParamSpec::number(
            "high",
            "Upper level",
            "mm",
            (0.0, 10_000.0),
            200.0,
            "Where it is 1; below the lower level turns it round.",
        ),
    ]
}

fn fill(run: &Run, settings: &Resolved, out: &mut [f32]) {
    let base = run.surface.piece.min[1];
    let (low, high) = (settings.number("low"), settings.number("high"));
    let span = if (high - low).abs() < 1e-6 { 1e-6 } else { high - low };
    for (y, v) in run.surface.atlas.py[run.start..].iter().zip(out) {
        *v = ((y - base - low) / span).clamp(0.0, 1.0);
    }
}

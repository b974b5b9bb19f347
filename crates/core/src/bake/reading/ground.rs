//! Ground: closeness to the lowest point of the piece, where splashes and damp reach.

use super::{Origin, Reading, Run};
use crate::setting::{ParamSpec, Resolved};

pub static READING: Reading = Reading {
    kind: "ground",
    label: "Ground",
    help: "Closeness to the ground that the piece stands on: 1 at its lowest point, 0 above the reach.",
    specs,
    weather: &[],
    origin: Origin::Computed(fill),
};

fn specs() -> Vec<ParamSpec> {
    vec![ParamSpec::length("reach", "Reach", (0.1, 10_000.0), 80.0, "How high splashes and damp come.")]
}

fn fill(run: &Run, settings: &Resolved, out: &mut [f32]) {
    let (base, reach) = (run.surface.piece.min[1], settings.number("reach"));
    for (y, v) in run.surface.atlas.py[run.start..].iter().zip(out) {
        *v = (1.0 - (y - base) / reach).clamp(0.0, 1.0);
    }
}

//! Edges: how much the surface stands out, 2(½ − V) of the ball integral, clamped. A 90° edge reads ½, a cube's corner ¾.

use super::{Reading, Run, ball};
use crate::setting::Resolved;

pub static READING: Reading = Reading {
    kind: "edges",
    label: "Edges",
    help: "Where the surface stands out and hands and ropes rub: 0 on flats, ½ on a right-angled edge.",
    measured: true,
    specs: ball::specs,
    fill,
};

fn fill(run: &Run, settings: &Resolved, out: &mut [f32]) {
    ball::fill(run, settings, out);
    for v in out {
        *v = (1.0 - 2.0 * *v).clamp(0.0, 1.0);
    }
}

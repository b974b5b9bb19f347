//! Recesses: how much the surface closes in, 2(V − ½) of the ball integral, clamped. A 90° inner corner reads ½.

use super::{Reading, Run, ball};
use crate::setting::Resolved;

pub static READING: Reading = Reading {
    kind: "recesses",
    label: "Recesses",
    help: "Where the surface closes in and water and dirt stay: 0 on flats, ½ in a right-angled corner.",
    measured: true,
    specs: ball::specs,
    fill,
};

fn fill(run: &Run, settings: &Resolved, out: &mut [f32]) {
    ball::fill(run, settings, out);
    for v in out {
        *v = (2.0 * *v - 1.0).clamp(0.0, 1.0);
    }
}

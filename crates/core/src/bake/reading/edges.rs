//! Edges: how much the surface stands out, 2(½ − V) of the ball integral, clamped. A 90° edge reads ½, a cube's corner ¾.

use super::{Origin, Reading, radius_plane, radius_spec};
use crate::setting::Resolved;

pub static READING: Reading = Reading {
    kind: "edges",
    label: "Edges",
    help: "Where the surface stands out and hands and ropes rub: 0 on flats, ½ on a right-angled edge.",
    specs: || vec![radius_spec()],
    weather: &[],
    origin: Origin::Measured { of: "curvature", plane: radius_plane, read },
};

fn read(out: &mut [f32], _: &Resolved) {
    out.iter_mut().for_each(|v| *v = (1.0 - 2.0 * *v).clamp(0.0, 1.0));
}

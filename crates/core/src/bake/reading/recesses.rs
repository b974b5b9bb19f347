//! Recesses: how much the surface closes in, 2(V − ½) of the ball integral, clamped. A 90° inner corner reads ½.

use super::{Origin, Reading, radius_plane, radius_spec};
use crate::setting::Resolved;

pub static READING: Reading = Reading {
    kind: "recesses",
    label: "Recesses",
    help: "Where the surface closes in and water and dirt stay: 0 on flats, ½ in a right-angled corner.",
    specs: || vec![radius_spec()],
    weather: &[],
    origin: Origin::Measured { of: "curvature", plane: radius_plane, read },
};

fn read(out: &mut [f32], _: &Resolved) {
    out.iter_mut().for_each(|v| *v = (2.0 * *v - 1.0).clamp(0.0, 1.0));
}

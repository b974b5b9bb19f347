//! Thickness, as it was measured.

use super::{Origin, Reading};

pub static READING: Reading = Reading {
    kind: "thickness",
    label: "Thickness",
    help: "How much material lies behind the surface: 0 at thin fins and rims, 1 where it is as thick as the distance.",
    specs: Vec::new,
    origin: Origin::Measured { of: "thickness", plane: |_| 0, value: |v| v },
};

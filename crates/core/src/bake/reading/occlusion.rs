//! Occlusion, as it was measured.

use super::{Origin, Reading};

pub static READING: Reading = Reading {
    kind: "occlusion",
    label: "Occlusion",
    help: "How open the surface lies: 1 in the open, 0 deep in a hollow.",
    specs: Vec::new,
    origin: Origin::Measured { of: "occlusion", plane: |_| 0, value: |v| v },
};

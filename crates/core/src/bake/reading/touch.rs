//! Touch, as it was measured.

use super::{Origin, Reading};

pub static READING: Reading = Reading {
    kind: "touch",
    label: "Touch",
    help: "Where fingers, palms or boots come to: what stands out to them and lets them in.",
    specs: Vec::new,
    origin: Origin::Measured { of: "touch", plane: |_| 0, value: |v| v },
};

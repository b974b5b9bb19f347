//! Dust, as it was measured.

use super::{Origin, Reading};

pub static READING: Reading = Reading {
    kind: "dust",
    label: "Dust",
    help: "Where dust settles and stays: on what looks up, in corners and in the lee of the wind.",
    specs: Vec::new,
    origin: Origin::Measured { of: "dust", plane: |_| 0, value: |v| v },
};

//! Damp, as the flow of water leaves it.

use super::{Origin, Reading};

pub static READING: Reading = Reading {
    kind: "damp",
    label: "Damp",
    help: "Where damp holds: where water stays, out of the sun, and up from the ground. Moss, rot and salt lines.",
    specs: Vec::new,
    origin: Origin::Measured { of: "flow", plane: |_| 4, value: |v| v },
};

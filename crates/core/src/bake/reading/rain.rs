//! Rain, as it was measured.

use super::{Origin, Reading};

pub static READING: Reading = Reading {
    kind: "rain",
    label: "Rain",
    help: "How much rain strikes: 1 where it falls square on in the open, 0 in the dry.",
    specs: Vec::new,
    origin: Origin::Measured { of: "rain", plane: |_| 0, value: |v| v },
};

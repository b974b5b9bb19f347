//! Frost and spray, as it was measured.

use super::{Origin, Reading};

pub static READING: Reading = Reading {
    kind: "frost",
    label: "Frost and spray",
    help: "What the wind brings and leaves where it strikes first: rime, salt spray, driven snow.",
    specs: Vec::new,
    origin: Origin::Measured { of: "frost", plane: |_| 0, value: |v| v },
};

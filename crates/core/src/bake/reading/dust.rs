//! Dust: what has settled and stayed over the years.

use super::{Origin, Reading};
use crate::bake::weather::age;

pub static READING: Reading = Reading {
    kind: "dust",
    label: "Dust",
    help: "Where dust settles and stays: on what looks up, in corners and in the lee of the wind.",
    specs: Vec::new,
    weather: &["years"],
    origin: Origin::Measured { of: "dust", plane: |_| 0, read: age },
};

//! Invert: 1 − m.

use super::{Shaper, Work};

pub static SHAPER: Shaper = Shaper {
    kind: "invert",
    label: "Invert",
    help: "Turns the mask round: what was bare is covered, what was covered is bare.",
    specs: Vec::new,
    work: |_| Work::point(|m| m.iter_mut().for_each(|v| *v = 1.0 - *v)),
};

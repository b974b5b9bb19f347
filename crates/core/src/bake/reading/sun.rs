//! Sun: the dose of a year, of the sun alone or with the light of the sky.

use super::{Origin, Reading};
use crate::setting::ParamSpec;

pub static READING: Reading = Reading {
    kind: "sun",
    label: "Sun",
    help: "The year's dose of sunlight: where colours bleach and films crack.",
    specs: || {
        vec![ParamSpec::choice(
            "light",
            "Light",
            &[("both", "Sun and sky"), ("direct", "Sun alone")],
            "Whether the light of the sky counts as well: it reaches where the sun never does.",
        )]
    },
    origin: Origin::Measured { of: "sun", plane: |s| usize::from(s.text("light") != "direct"), value: |v| v },
};

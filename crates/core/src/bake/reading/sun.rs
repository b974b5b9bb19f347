//! Sun: the dose of the years, of the sun alone or with the light of the sky.

use super::{Origin, Reading};
use crate::bake::weather::age;
use crate::setting::ParamSpec;

pub static READING: Reading = Reading {
    kind: "sun",
    label: "Sun",
    help: "The dose of sunlight over the years: where colours bleach and films crack.",
    specs: || {
        vec![ParamSpec::choice(
            "light",
            "Light",
            &[("both", "Sun and sky"), ("direct", "Sun alone")],
            "Whether the light of the sky counts as well: it reaches where the sun never does.",
        )]
    },
    weather: &["years"],
    origin: Origin::Measured { of: "sun", plane: |s| usize::from(s.text("light") != "direct"), read: age },
};

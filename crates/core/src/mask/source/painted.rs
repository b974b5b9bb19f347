//! Painted map: a mask that was painted elsewhere on the sheets of the piece, laid by its UVs.

use super::{Origin, Source};
use crate::setting::ParamSpec;

/// As many sheets as a setting can name.
const SHEETS: f64 = 64.0;

pub static SOURCE: Source = Source {
    kind: "painted",
    label: "Painted map",
    help: "A picture that was painted elsewhere for the UVs of this piece, laid by them. It doesn’t follow the piece to other UVs.",
    specs: || {
        let channels = [("grey", "grey"), ("red", "red"), ("green", "green"), ("blue", "blue"), ("alpha", "alpha")];
        vec![
            ParamSpec::picture("picture", "Picture", "Which of the pictures that were brought in for masks."),
            ParamSpec::choice("channel", "Taken from", &channels, "Which number of it is taken."),
            ParamSpec::switch("negative", "Negative", false, "Turned round: full where the picture is dark."),
            ParamSpec::integer(
                "sheet",
                "Sheet",
                (0.0, SHEETS),
                0.0,
                "Which sheet it was painted for, counted from 1; 0 lays it on all of them.",
            ),
        ]
    },
    origin: Origin::Painted(|s| s.text("picture").to_owned()),
};

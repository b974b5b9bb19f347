//! Rim: a band along the mask's border.

use super::distance::edge;
use super::{Shaper, Work};
use crate::setting::ParamSpec;

pub static SHAPER: Shaper = Shaper {
    kind: "rim",
    label: "Rim",
    help: "Leaves a band along the mask's border (where it is ½): the edge of a chip, a tide mark.",
    specs: || {
        vec![
            ParamSpec::choice(
                "side",
                "Side",
                &[("both", "both sides"), ("inside", "inside"), ("outside", "outside")],
                "On which side of the border the band lies.",
            ),
            ParamSpec::length("width", "Width", (0.05, 500.0), 3.0, "Width of the band."),
            ParamSpec::length(
                "softness",
                "Softness",
                (0.01, 200.0),
                1.0,
                "Length over which its sides fade; never less than a texel.",
            ),
        ]
    },
    work: |s| {
        let (width, softness) = (s.number("width"), s.number("softness"));
        let middle = match s.text("side") {
            "inside" => 0.5 * width,
            "outside" => -0.5 * width,
            _ => 0.0,
        };
        Work::border(width + softness, move |d, texel| {
            let soft = softness.max(texel);
            d.iter_mut().for_each(|d| *d = edge(0.5 * width - (*d - middle).abs(), soft));
        })
    },
};

//! Grow: moves the mask's border outwards or inwards by a length on the surface.

use super::distance::edge;
use super::{Shaper, Work};
use crate::setting::ParamSpec;

pub static SHAPER: Shaper = Shaper {
    kind: "grow",
    label: "Grow",
    help: "Moves the mask's border (where it is ½) outwards, or inwards below 0, by a length on the surface.",
    specs: || {
        vec![
            ParamSpec::number("by", "By", "mm", (-200.0, 200.0), 3.0, "Outwards; below 0 the mask shrinks."),
            ParamSpec::length(
                "softness",
                "Softness",
                (0.01, 200.0),
                0.5,
                "Length over which the new border fades; never less than a texel.",
            ),
        ]
    },
    work: |s| {
        let (by, softness) = (s.number("by"), s.number("softness"));
        Work::border(by.abs() + softness, move |d, texel| {
            let width = softness.max(texel);
            d.iter_mut().for_each(|d| *d = edge(*d + by, width));
        })
    },
};

//! Lift: a rise from the mask's border inwards, for relief.

use super::{Shaper, Work};
use crate::setting::ParamSpec;

pub static SHAPER: Shaper = Shaper {
    kind: "lift",
    label: "Lift",
    help: "A rise from the mask's border (where it is ½) inwards: the thickness of paint, the swell of a blister.",
    specs: || {
        vec![
            ParamSpec::length(
                "width",
                "Width",
                (0.05, 500.0),
                4.0,
                "How far inside the border the full height is reached.",
            ),
            ParamSpec::choice(
                "shape",
                "Shape",
                &[("smooth", "smooth"), ("round", "round"), ("straight", "straight")],
                "How it rises.",
            ),
        ]
    },
    work: |s| {
        let width = s.number("width");
        let shape = match s.text("shape") {
            "round" => 1,
            "straight" => 2,
            _ => 0,
        };
        Work::border(width, move |d, _| {
            for d in d {
                let t = (*d / width).clamp(0.0, 1.0);
                *d = match shape {
                    1 => (t * (2.0 - t)).sqrt(),
                    2 => t,
                    _ => t * t * (3.0 - 2.0 * t),
                };
            }
        })
    },
};

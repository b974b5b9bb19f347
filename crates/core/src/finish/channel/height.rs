//! Height: relief in millimetres above the mesh's own surface, which is 0.

use super::Channel;
use crate::setting::ParamSpec;

pub static CHANNEL: Channel = Channel {
    kind: "height",
    label: "Height",
    help: "Relief in millimetres: 0 is the mesh's own surface, below 0 is eaten away.",
    specs: || {
        vec![
            ParamSpec::number(
                "value",
                "Height",
                "mm",
                (-20.0, 20.0),
                0.1,
                "How thick the coat lies, or how deep it eats.",
            ),
            ParamSpec::choice(
                "relief",
                "Relief",
                &[("adds", "Adds to it"), ("replaces", "Replaces it"), ("maximum", "Takes the higher")],
                "How the coat's relief meets the relief that lies below.",
            ),
        ]
    },
    bare: &[0.0],
    lay: |s, weight, below| {
        let value = s.number("value");
        let run = below[0].iter_mut().zip(weight);
        match s.text("relief") {
            "replaces" => run.for_each(|(b, w)| *b += (value - *b) * w),
            "maximum" => run.for_each(|(b, w)| *b += (b.max(value) - *b) * w),
            _ => run.for_each(|(b, w)| *b += value * w),
        }
    },
};

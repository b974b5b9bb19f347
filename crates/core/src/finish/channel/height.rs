//! Height: relief in millimetres above the mesh's own surface, which is 0.

use super::{Channel, amount_spec};
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
            )
            .ramping(),
            ParamSpec::choice(
                "relief",
                "Relief",
                &[("adds", "Adds to it"), ("replaces", "Replaces it"), ("maximum", "Takes the higher")],
                "How the coat's relief meets the relief that lies below.",
            ),
            ParamSpec::share(
                "bury",
                "Bury",
                0.0,
                "How much of the relief below the coat hides: a thick coat levels it.",
            ),
            ParamSpec::number(
                "neutral",
                "Neutral",
                "mm",
                (-20.0, 20.0),
                0.0,
                "The height that leaves the surface where it is; what is less goes inwards.",
            ),
            amount_spec(),
        ]
    },
    bare: &[0.0],
    seen: (-1.0, 1.0),
    always: true,
    // It is in the normals.
    put: None,
    meet: |s, values, weight, below| {
        let (bury, neutral) = (s.number("bury"), s.number("neutral"));
        let run = below[0].iter_mut().zip(values[0]).zip(weight);
        // What is buried goes before the coat lies on it.
        let left = |b: f32, w: f32| b * (1.0 - bury * w);
        match s.text("relief") {
            "replaces" => run.for_each(|((b, v), w)| *b += (v - neutral - *b) * w),
            "maximum" => run.for_each(|((b, v), w)| {
                let under = left(*b, *w);
                *b = under + (under.max(v - neutral) - under) * w;
            }),
            _ => run.for_each(|((b, v), w)| *b = left(*b, *w) + (v - neutral) * w),
        }
    },
};

//! Levels: black and white points, gamma, output range.

use super::{Shaper, Work};
use crate::setting::ParamSpec;

pub static SHAPER: Shaper = Shaper {
    kind: "levels",
    label: "Levels",
    help: "Stretches the mask between a black and a white point and bends its middle.",
    specs: || {
        vec![
            ParamSpec::share("black", "Black point", 0.0, "Values up to it become 0.").marking(),
            ParamSpec::share("white", "White point", 1.0, "Values from it on become 1.").marking(),
            ParamSpec::number("gamma", "Gamma", "", (0.1, 10.0), 1.0, "Above 1 lifts the middle, below 1 lowers it."),
            ParamSpec::share("out_low", "Output from", 0.0, "What 0 becomes."),
            ParamSpec::share("out_high", "Output to", 1.0, "What 1 becomes."),
        ]
    },
    work: |s| {
        let black = s.number("black");
        let span = s.number("white") - black;
        let inv = 1.0 / if span.abs() < 1e-4 { 1e-4 } else { span };
        let power = 1.0 / s.number("gamma").max(0.01);
        let (low, high) = (s.number("out_low"), s.number("out_high"));
        Work::point(move |m| {
            for v in m {
                let t = ((*v - black) * inv).clamp(0.0, 1.0);
                let t = if power == 1.0 { t } else { libm::powf(t, power) };
                *v = low + (high - low) * t;
            }
        })
    },
};

//! Contrast: pushes values away from a middle, or towards it.

use super::{Shaper, Work};
use crate::setting::ParamSpec;

pub static SHAPER: Shaper = Shaper {
    kind: "contrast",
    label: "Contrast",
    help: "Pushes values away from a middle: above 1 the mask gets harder, below 1 softer.",
    specs: || {
        vec![
            ParamSpec::number("contrast", "Contrast", "×", (0.0, 20.0), 2.0, "How many times steeper the mask gets."),
            ParamSpec::share("middle", "Middle", 0.5, "The value that stays as it is.").marking(),
        ]
    },
    work: |s| {
        let (contrast, middle) = (s.number("contrast"), s.number("middle"));
        Work::point(move |m| m.iter_mut().for_each(|v| *v = (middle + (*v - middle) * contrast).clamp(0.0, 1.0)))
    },
};

//! Clamp: nothing below one value, nothing above another.

use super::{Shaper, Work};
use crate::setting::ParamSpec;

pub static SHAPER: Shaper = Shaper {
    kind: "clamp",
    label: "Clamp",
    help: "Lifts what is below one value to it, and brings what is above another down to that.",
    specs: || {
        vec![
            ParamSpec::share("low", "Least", 0.0, "Nothing is below it.").marking(),
            ParamSpec::share("high", "Greatest", 0.8, "Nothing is above it; the least wins where they cross.")
                .marking(),
        ]
    },
    work: |s| {
        let (low, high) = (s.number("low"), s.number("high"));
        Work::point(move |m| m.iter_mut().for_each(|v| *v = v.min(high).max(low)))
    },
};

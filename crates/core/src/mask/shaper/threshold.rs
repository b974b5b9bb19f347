//! Threshold: cuts the mask at a value, hard or soft.

use super::Shaper;
use crate::setting::ParamSpec;

pub static SHAPER: Shaper = Shaper {
    kind: "threshold",
    label: "Threshold",
    help: "Cuts the mask: what lies above the cut is kept, what lies below is gone.",
    specs: || {
        vec![
            ParamSpec::share("cut", "Cut", 0.5, "Values above it are kept."),
            ParamSpec::share("softness", "Softness", 0.1, "Width of the slope from gone to kept; 0 is a hard edge."),
        ]
    },
    shape: |s| {
        // A slope narrower than a 256th can't be seen and would divide by nothing.
        let width = s.number("softness").max(1.0 / 256.0);
        let (start, inv) = (s.number("cut") - width * 0.5, 1.0 / width);
        Box::new(move |m| {
            for v in m {
                let t = ((*v - start) * inv).clamp(0.0, 1.0);
                *v = t * t * (3.0 - 2.0 * t);
            }
        })
    },
};

//! Posterise: a few even levels in place of all values.

use super::{Shaper, Work};
use crate::setting::ParamSpec;

pub static SHAPER: Shaper = Shaper {
    kind: "posterise",
    label: "Posterise",
    help: "Leaves a few even levels: terraces, coats of paint worn through one after the other.",
    specs: || {
        vec![
            ParamSpec::integer("levels", "Levels", (2.0, 64.0), 4.0, "How many values are left, 0 and 1 among them."),
            ParamSpec::share("softness", "Softness", 0.05, "How much of a level its slope to the next one takes."),
        ]
    },
    work: |s| {
        let (steps, soft) = ((s.integer("levels").max(2) - 1) as f32, s.number("softness").max(1e-3));
        Work::point(move |m| {
            for v in m {
                let whole = (*v * (steps + 1.0)).min(steps + 0.999);
                let (level, into) = (whole.floor(), whole.fract());
                let t = ((into - (1.0 - soft)) / soft).clamp(0.0, 1.0);
                *v = ((level + t * t * (3.0 - 2.0 * t)) / steps).min(1.0);
            }
        })
    },
};

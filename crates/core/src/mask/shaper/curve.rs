//! Curve: a value of its own at 0, ¼, ½, ¾ and 1, joined without overshoot (monotone cubic, Fritsch & Carlson 1980).

use super::{Shaper, Work};
use crate::setting::ParamSpec;

pub static SHAPER: Shaper = Shaper {
    kind: "curve",
    label: "Curve",
    help: "Bends the mask along a curve through five points.",
    specs: || {
        vec![
            ParamSpec::share("at0", "At 0", 0.0, "What 0 becomes."),
            ParamSpec::share("at25", "At ¼", 0.15, "What a quarter becomes."),
            ParamSpec::share("at50", "At ½", 0.5, "What a half becomes."),
            ParamSpec::share("at75", "At ¾", 0.85, "What three quarters become."),
            ParamSpec::share("at100", "At 1", 1.0, "What 1 becomes."),
        ]
    },
    work: |s| {
        let y = ["at0", "at25", "at50", "at75", "at100"].map(|k| s.number(k));
        let slopes = slopes(&y);
        Work::point(move |m| {
            for v in m {
                let x = v.clamp(0.0, 1.0) * 4.0;
                let i = (x as usize).min(3);
                let t = x - i as f32;
                let (t2, t3) = (t * t, t * t * t);
                let (h00, h10) = (2.0 * t3 - 3.0 * t2 + 1.0, t3 - 2.0 * t2 + t);
                let (h01, h11) = (-2.0 * t3 + 3.0 * t2, t3 - t2);
                *v = (h00 * y[i] + h10 * slopes[i] + h01 * y[i + 1] + h11 * slopes[i + 1]).clamp(0.0, 1.0);
            }
        })
    },
};

/// Slopes at the five points that keep every stretch between its ends.
fn slopes(y: &[f32; 5]) -> [f32; 5] {
    let d: [f32; 4] = std::array::from_fn(|i| y[i + 1] - y[i]);
    std::array::from_fn(|i| match i {
        0 => d[0],
        4 => d[3],
        // The harmonic mean of both sides, and level at a turning point.
        i if d[i - 1] * d[i] > 0.0 => 2.0 * d[i - 1] * d[i] / (d[i - 1] + d[i]),
        _ => 0.0,
    })
}

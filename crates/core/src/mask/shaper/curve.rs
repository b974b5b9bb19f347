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
        let c = cubics(&y);
        Work::point(move |m| {
            for v in m {
                let x = v.clamp(0.0, 1.0) * 4.0;
                // Chosen by comparisons rather than looked up, so that the loop becomes vectors.
                let pick = |k: usize| {
                    let low = if x < 1.0 { c[0][k] } else { c[1][k] };
                    let high = if x < 3.0 { c[2][k] } else { c[3][k] };
                    if x < 2.0 { low } else { high }
                };
                let start = if x < 2.0 {
                    if x < 1.0 { 0.0 } else { 1.0 }
                } else if x < 3.0 {
                    2.0
                } else {
                    3.0
                };
                let t = x - start;
                *v = (pick(0) + t * (pick(1) + t * (pick(2) + t * pick(3)))).clamp(0.0, 1.0);
            }
        })
    },
};

/// The four stretches as cubics in the way from their start: constant term first.
fn cubics(y: &[f32; 5]) -> [[f32; 4]; 4] {
    let s = slopes(y);
    std::array::from_fn(|i| {
        let rise = y[i + 1] - y[i];
        [y[i], s[i], 3.0 * rise - 2.0 * s[i] - s[i + 1], s[i] + s[i + 1] - 2.0 * rise]
    })
}

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

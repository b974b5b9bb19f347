//! Threshold: cuts the mask, hard or soft, at a value or so that a given share of the surface is covered.

use super::{Shaper, Work};
use crate::bake::Surface;
use crate::setting::ParamSpec;

pub static SHAPER: Shaper = Shaper {
    kind: "threshold",
    label: "Threshold",
    help: "Cuts the mask: what lies above the cut is kept, what lies below is gone.",
    specs: || {
        vec![
            ParamSpec::choice(
                "by",
                "Cut by",
                &[("value", "value"), ("coverage", "coverage")],
                "Whether the cut is a value of the mask, or is found so that a share of the surface is covered.",
            ),
            ParamSpec::share("cut", "Cut", 0.5, "Values above it are kept.").only_with("by", &["value"]).marking(),
            ParamSpec::share("coverage", "Coverage", 0.3, "The share of the piece's surface that is covered.")
                .only_with("by", &["coverage"]),
            ParamSpec::share("softness", "Softness", 0.1, "Width of the slope from gone to kept; 0 is a hard edge."),
        ]
    },
    work: |s| {
        let (cut, softness, coverage) = (s.number("cut"), s.number("softness"), s.number("coverage"));
        if s.text("by") == "coverage" {
            return Work::whole(move |surface, mask, _| {
                let mut out = mask.to_vec();
                let cut = quantile(surface, mask, coverage);
                slope(&mut out, cut, softness);
                Ok(out)
            });
        }
        Work::point(move |m| slope(m, cut, softness))
    },
};

fn slope(m: &mut [f32], cut: f32, softness: f32) {
    // A slope narrower than a 256th can't be seen and would divide by nothing.
    let width = softness.max(1.0 / 256.0);
    let (start, inv) = (cut - width * 0.5, 1.0 / width);
    for v in m {
        let t = ((*v - start) * inv).clamp(0.0, 1.0);
        *v = t * t * (3.0 - 2.0 * t);
    }
}

/// Bins of the histogram that the cut is found in.
const BINS: usize = 1 << 14;

/// The value above which that share of the surface lies, by the area-weighted histogram; between 0 and 1, but below all values for
/// all of the surface, and above them for none.
fn quantile(surface: &Surface, mask: &[f32], share: f32) -> f32 {
    if share <= 0.0 {
        return 2.0;
    }
    if share >= 1.0 {
        return -1.0;
    }
    let mut bins = vec![0.0f64; BINS];
    for (m, a) in mask.iter().zip(&surface.atlas.area) {
        bins[((m * BINS as f32) as usize).min(BINS - 1)] += f64::from(*a);
    }
    let wanted = f64::from(share) * surface.atlas.total_area;
    let mut above = 0.0;
    for (i, area) in bins.iter().enumerate().rev() {
        if above + area >= wanted {
            let into = if *area > 0.0 { (wanted - above) / area } else { 0.0 };
            return ((i + 1) as f64 - into) as f32 / BINS as f32;
        }
        above += area;
    }
    0.0
}

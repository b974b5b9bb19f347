//! Blur: a Gaussian on the surface, in mm.
//!
//! Worked out where a texel is not much shorter than the blur: down to that size, three rounds (or more, where it can't be gone down any further) of a narrow Gaussian along both sides of the square, whose widths
//! follow each texel's metric, and up again. Before each round what lies across the seams is laid into the gutters.

use rayon::prelude::*;

use super::{Shaper, Work};
use crate::bake::Surface;
use crate::bake::atlas::{NONE, metric};
use crate::bake::levels::{down, up};
use crate::raster::Plane;
use crate::setting::ParamSpec;
use crate::task::{Cancel, Cancelled};

pub static SHAPER: Shaper = Shaper {
    kind: "blur",
    label: "Blur",
    help: "Softens the mask evenly on the surface, over seams and edges.",
    specs: || {
        vec![ParamSpec::length(
            "radius",
            "Radius",
            (0.02, 200.0),
            2.0,
            "Standard deviation of the blur, on the surface.",
        )]
    },
    work: |s| {
        let radius = s.number("radius");
        Work::whole(move |surface, mask, cancel| gaussian(surface, mask, radius, cancel))
    },
};

/// Least number of rounds of a narrow Gaussian that make up the whole: their variances add up.
const ROUNDS: f32 = 3.0;
/// The greatest standard deviation, in texels, that is worked out without going to a coarser size.
const WIDEST: f32 = 2.6;
/// The greatest standard deviation of a round, in texels.
const NARROW: f32 = 1.5;
/// Reach of a round, in texels: no gutter is narrower.
const REACH: usize = 4;

/// A plane blurred with a standard deviation of `sigma` mm.
///
/// # Errors
/// [`Cancelled`] when asked to stop.
pub fn gaussian(surface: &Surface, plane: &[f32], sigma: f32, cancel: &Cancel) -> Result<Plane, Cancelled> {
    let levels = surface.down_to(sigma / WIDEST * 2.0);
    let last = levels[levels.len() - 1];
    let mut plane = down(&levels, plane);
    let owner = owners(last);
    let metrics: Vec<[f32; 2]> = (0..last.atlas.len())
        .into_par_iter()
        .with_min_len(4096)
        .map(|i| {
            let (du, dv) = metric(&last.piece, last.atlas.triangle[i], last.atlas.size);
            [du.length(), dv.length()]
        })
        .collect();
    let rounds = libm::ceilf(libm::powf(sigma / (last.atlas.texel_length * NARROW), 2.0)).clamp(ROUNDS, 1000.0);
    for _ in 0..rounds as usize {
        for side in 0..2 {
            cancel.check()?;
            plane = round(last, &owner, &metrics, &plane, sigma / rounds.sqrt(), side);
        }
    }
    Ok(up(&levels, plane))
}

/// The chart of each texel of the squares, or [`NONE`].
fn owners(surface: &Surface) -> Vec<u32> {
    let chart = &surface.links().chart;
    surface.atlas.lookup.iter().map(|i| if *i == NONE { NONE } else { chart[*i as usize] }).collect()
}

fn round(surface: &Surface, owner: &[u32], metrics: &[[f32; 2]], plane: &[f32], sigma: f32, side: usize) -> Plane {
    let atlas = &surface.atlas;
    let square = surface.seams().square(atlas, plane);
    let places = &surface.links().place;
    let (size, stride) = (atlas.size as usize, if side == 0 { 1 } else { atlas.size as usize });
    let one = |i: usize| {
        let at = atlas.texel[i] as usize;
        let (own, length) = (owner[at], metrics[i][side].max(1e-9));
        // exp(−k²/2s²) = q^(k²), and q^(k²) follows from q^((k−1)²) by q^(2k−1).
        let s = (sigma / length).min(REACH as f32 * 0.6);
        let q = libm::expf(-0.5 / (s * s).max(1e-4));
        let place = usize::from(places[i][side]);
        let (mut sum, mut total) = (plane[i], 1.0f32);
        for forward in [false, true] {
            let room = if forward { size - 1 - place } else { place };
            let (mut weight, mut factor, q2) = (q, q * q * q, q * q);
            let mut to = at;
            for _ in 0..REACH.min(room) {
                to = if forward { to + stride } else { to - stride };
                // Another chart's texel is somewhere else on the piece; beyond an open border there is nothing.
                if (owner[to] != own && owner[to] != NONE) || square[to].is_nan() {
                    break;
                }
                sum += square[to] * weight;
                total += weight;
                weight *= factor;
                factor *= q2;
            }
        }
        sum / total
    };
    (0..atlas.len()).into_par_iter().with_min_len(4096).map(one).collect()
}

//! Blur: a Gaussian on the surface, in mm.
//!
//! Worked out where a texel is not much shorter than the blur: down to that size, three rounds (or more, where it can't be gone down any further) of a narrow Gaussian along both sides of the square, whose widths
//! follow each texel's metric, and up again. Before each round what lies across the seams is laid into the gutters.

use rayon::prelude::*;

use super::{Shaper, Work};
use crate::bake::Surface;
use crate::bake::levels::{down, up};
use crate::bake::spans::{ACROSS, REACH, Straight, owners};
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
        Work::whole(move |surface, mask, given| gaussian(surface, mask, radius, given.cancel))
    },
};

/// Least number of rounds of a narrow Gaussian that make up the whole: their variances add up.
const ROUNDS: f32 = 3.0;
/// The greatest standard deviation, in texels, that is worked out without going to a coarser size.
const WIDEST: f32 = 2.6;
/// The greatest standard deviation of a round, in texels.
const NARROW: f32 = 1.5;
/// A plane blurred with a standard deviation of `sigma` mm.
///
/// # Errors
/// [`Cancelled`] when asked to stop.
pub fn gaussian(surface: &Surface, plane: &[f32], sigma: f32, cancel: &Cancel) -> Result<Plane, Cancelled> {
    let levels = surface.down_to(sigma / WIDEST * 2.0);
    let last = levels[levels.len() - 1];
    let mut plane = down(&levels, plane).into_owned();
    let rounds = libm::ceilf(libm::powf(sigma / (last.atlas.texel_length * NARROW), 2.0)).clamp(ROUNDS, 1000.0);
    let narrow = sigma / rounds.sqrt();
    let sides = [0, 1].map(|side| (last.straight(side), if side == 0 { 1 } else { last.atlas.size as usize }));
    let falls = sides.map(|(straight, _)| {
        let fall = |length: &f32| {
            let s = (narrow / length.max(1e-9)).min(REACH as f32 * 0.6);
            libm::expf(-0.5 / (s * s).max(1e-4))
        };
        straight.length.par_iter().with_min_len(4096).map(fall).collect::<Plane>()
    });
    let owner = owners(last);
    for _ in 0..rounds as usize {
        for (side, fall) in sides.iter().zip(&falls) {
            cancel.check()?;
            plane = round(last, &owner, *side, fall, &plane);
        }
    }
    Ok(up(&levels, plane))
}

/// A narrow Gaussian along a side of the square; `fall` is each texel's q = exp(−1 / 2s²), s the deviation in texels, so that the weight of the kth texel is q^(k²).
fn round(
    surface: &Surface,
    owner: &[u32],
    (straight, stride): (&Straight, usize),
    fall: &[f32],
    plane: &[f32],
) -> Plane {
    let atlas = &surface.atlas;
    let square = surface.seams().square(atlas, plane);
    let mut out = vec![0.0f32; plane.len()];
    straight.spans.parts(&mut out).into_par_iter().with_min_len(16).for_each(|(span, out)| {
        let (first, len) = (span.first as usize, span.len as usize);
        let at = atlas.texel[first] as usize;
        let row = |k: isize| &square[at.wrapping_add_signed(k * stride as isize)..][..len];
        let (before, after) = ([1, 2, 3, 4].map(|k| row(-k)), [1, 2, 3, 4].map(row));
        let (own, fall) = (&plane[first..first + len], &fall[first..first + len]);
        for i in 0..len {
            let q = fall[i];
            let q4 = (q * q) * (q * q);
            let weight = [q, q4, q4 * q4 * q, (q4 * q4) * (q4 * q4)];
            let (mut sum, mut total) = (own[i], 1.0f32);
            for k in 0..REACH {
                sum += (before[k][i] + after[k][i]) * weight[k];
                total += 2.0 * weight[k];
            }
            out[i] = sum / total;
        }
    });
    let (places, size, chart) = (&surface.links().place, atlas.size as usize, &surface.links().chart);
    straight.spans.fill_rest(&mut out, |i| {
        let (at, side) = (atlas.texel[i] as usize, usize::from(stride != 1));
        let (place, q) = (usize::from(places[i][side]), fall[i]);
        let (mut sum, mut total) = (plane[i], 1.0f32);
        for forward in [false, true] {
            let room = if forward { size - 1 - place } else { place };
            // q^(k²) follows from q^((k−1)²) by q^(2k−1).
            let (mut weight, mut factor, q2) = (q, q * q * q, q * q);
            let mut to = at;
            for _ in 0..REACH.min(room) {
                to = if forward { to + stride } else { to - stride };
                // Another chart's texel is somewhere else on the piece; beyond an open border there is nothing.
                if owner[to] != chart[i] && owner[to] != ACROSS {
                    break;
                }
                sum += square[to] * weight;
                total += weight;
                weight *= factor;
                factor *= q2;
            }
        }
        sum / total
    });
    out
}

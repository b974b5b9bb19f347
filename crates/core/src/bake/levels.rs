//! The same surface at coarser sizes: what reaches far is worked out where a texel is about as long as it needs to be, so that it costs little and looks alike
//! at every texture size.
//!
//! What lies where between two sizes is found once ([`Between`]): where all that a texel is mixed from lies in its own chart, as nearly everywhere, values are mixed row by row;
//! along the charts' borders one by one.

use std::borrow::Cow;

use glam::Vec2;
use rayon::prelude::*;

use super::Surface;
use super::atlas::{Atlas, NONE};
use super::spans::{ACROSS, Spans, owners};
use crate::raster::Plane;

/// The least size that is gone down to.
const LEAST: u32 = 64;

impl Surface {
    /// The surface at the coarsest size at which a texel is not longer than that, and the ones on the way there, finest first.
    pub fn down_to(&self, millimetres: f32) -> Vec<&Surface> {
        let mut all = vec![self];
        loop {
            let last = all[all.len() - 1];
            if last.atlas.size / 2 < LEAST || last.atlas.texel_length * 2.0 > millimetres {
                return all;
            }
            all.push(last.coarser());
        }
    }
}

/// How the texels of two sizes lie to each other.
pub struct Between {
    /// Coarse texels with four fine ones of their chart.
    children: Spans,
    /// Fine texels that lie between four coarse ones of their chart, or filled across a seam.
    mixed: Spans,
}

impl Between {
    /// Of a surface and the one at half its size.
    pub(super) fn build(fine: &Surface, coarse: &Surface) -> Between {
        let (from, to) = (&fine.links().chart, &coarse.links().chart);
        let four = |i: usize| children(fine, coarse, i).iter().all(|j| *j != NONE && from[*j as usize] == to[i]);
        let lies = owners(coarse);
        let mixed = |i: usize| {
            let corner = around(fine, coarse, i);
            let fits = |at: usize| lies[at] == ACROSS || lies[at] == from[i];
            (0..4).all(|k| corner.at(coarse.atlas.size, k).is_some_and(fits))
        };
        Between { children: Spans::of(coarse, four), mixed: Spans::of(fine, mixed) }
    }
}

/// The upper left of the four coarse texels around a fine one: sheet, place, and how far to the right and down of its centre the fine one's lies, in coarse texels.
pub(super) struct Corner {
    pub sheet: u32,
    pub x: i32,
    pub y: i32,
    pub part: [f32; 2],
}

impl Corner {
    /// Around a place of a sheet, in texels from the centre of its first one.
    pub(super) fn around(sheet: u32, at: Vec2) -> Self {
        let low = at.floor();
        Self { sheet, x: low.x as i32, y: low.y as i32, part: (at - low).to_array() }
    }

    /// Index into the coarse squares of the `k`th of the four, if it lies in its square.
    fn at(&self, size: u32, k: u32) -> Option<usize> {
        let (x, y) = (self.x + (k % 2) as i32, self.y + (k / 2) as i32);
        let inside = x >= 0 && y >= 0 && x < size as i32 && y < size as i32;
        inside.then(|| ((self.sheet * size + y as u32) * size + x as u32) as usize)
    }

    /// The share of the `k`th.
    fn weight(&self, k: u32) -> f32 {
        let share = |on: bool, part: f32| if on { part } else { 1.0 - part };
        share(k % 2 == 1, self.part[0]) * share(k / 2 == 1, self.part[1])
    }

    /// Mixed from those of the four that are of a chart, or filled across a seam: `value` says what a place of the coarse squares holds, or NaN. None where there are none.
    pub(super) fn mixed(&self, coarse: &Surface, value: &impl Fn(usize) -> f32, chart: u32) -> Option<f32> {
        let (atlas, charts) = (&coarse.atlas, &coarse.links().chart);
        let (mut sum, mut total) = (0.0f32, 0.0f32);
        for k in 0..4 {
            let Some(at) = self.at(atlas.size, k) else { continue };
            let covered = atlas.lookup[at];
            if covered != NONE && charts[covered as usize] != chart {
                continue;
            }
            let value = value(at);
            if !value.is_nan() {
                sum += value * self.weight(k);
                total += self.weight(k);
            }
        }
        (total > 1e-3).then(|| sum / total)
    }
}

fn around(fine: &Surface, coarse: &Surface, i: usize) -> Corner {
    let b = &fine.atlas;
    let sheet = if b.sheets > 1 { b.texel[i] / (b.size * b.size) } else { 0 };
    debug_assert_eq!(coarse.atlas.size * 2, b.size);
    // Fine texel centres lie a quarter of a coarse texel beside coarse centres.
    let low = |v: u16| (i32::from(v) - 1).div_euclid(2);
    let part = |v: u16| if v.is_multiple_of(2) { 0.75 } else { 0.25 };
    let [x, y] = fine.links().place[i];
    Corner { sheet, x: low(x), y: low(y), part: [part(x), part(y)] }
}

/// The four fine texels on a coarse one, [`NONE`] where nothing lies.
fn children(fine: &Surface, coarse: &Surface, i: usize) -> [u32; 4] {
    let (a, b) = (&fine.atlas, &coarse.atlas);
    let sheet = if b.sheets > 1 { b.texel[i] / (b.size * b.size) } else { 0 };
    let [x, y] = coarse.links().place[i].map(u32::from);
    std::array::from_fn(|k| {
        let (x, y) = (2 * x + k as u32 % 2, 2 * y + k as u32 / 2);
        a.lookup[((sheet * a.size + y) * a.size + x) as usize]
    })
}

/// A plane of the finest of some levels on the coarsest.
pub fn down<'a>(levels: &[&Surface], plane: &'a [f32]) -> Cow<'a, [f32]> {
    levels.windows(2).fold(Cow::Borrowed(plane), |plane, pair| Cow::Owned(halve(pair[0], pair[1], &plane)))
}

/// A plane of the coarsest of some levels on the finest.
pub fn up(levels: &[&Surface], plane: Plane) -> Plane {
    levels.windows(2).rev().fold(plane, |plane, pair| double(pair[1], pair[0], &plane))
}

/// The mean of the up to four texels that lie on each coarse one and are of its chart.
fn halve(fine: &Surface, coarse: &Surface, plane: &[f32]) -> Plane {
    let spans = &fine.between().children;
    let mut out = vec![0.0f32; coarse.atlas.len()];
    spans.parts(&mut out).into_par_iter().with_min_len(16).for_each(|(span, out)| {
        // Where four lie side by side, their rows follow each other in the plane as well.
        let [upper, _, lower, _] = children(fine, coarse, span.first as usize);
        let (upper, lower) = (&plane[upper as usize..], &plane[lower as usize..]);
        for ((out, a), b) in out.iter_mut().zip(upper.as_chunks::<2>().0).zip(lower.as_chunks::<2>().0) {
            *out = (a[0] + a[1] + (b[0] + b[1])) * 0.25;
        }
    });
    let (to, from) = (&coarse.links().chart, &fine.links().chart);
    spans.fill_rest(&mut out, |i| {
        let all = children(fine, coarse, i);
        let own = all.into_iter().filter(|j| *j != NONE && from[*j as usize] == to[i]);
        let (sum, count) = own.fold((0.0f32, 0u32), |(sum, n), j| (sum + plane[j as usize], n + 1));
        if count > 0 { sum / count as f32 } else { beside(&coarse.atlas, i, &fine.atlas, plane) }
    });
    out
}

/// The value of another size's texel nearest to a covered texel's place.
pub(super) fn beside(of: &Atlas, i: usize, other: &Atlas, plane: &[f32]) -> f32 {
    let (uv, sheet) = of.uv(i);
    other.at_uv(sheet as u16, uv).map_or(0.0, |j| plane[j as usize])
}

/// Mixed from the four coarse texels around each fine one, or from what lies across the seam where they end.
fn double(coarse: &Surface, fine: &Surface, plane: &[f32]) -> Plane {
    let (a, b) = (&coarse.atlas, &fine.atlas);
    let square = coarse.seams().square(a, plane);
    let spans = &fine.between().mixed;
    let mut out = vec![0.0f32; b.len()];
    spans.parts(&mut out).into_par_iter().with_min_len(16).for_each(|(span, out)| {
        let corner = around(fine, coarse, span.first as usize);
        let upper = corner.at(a.size, 0).expect("those of a span have all four");
        let (upper, lower) = (&square[upper..], &square[upper + a.size as usize..]);
        let (high, low) = (1.0 - corner.part[1], corner.part[1]);
        // An odd texel and the even one after it lie between the same two columns.
        let alone = usize::from(corner.part[0] > 0.5);
        let (first, pairs) = out.split_at_mut(alone);
        let column = |c: usize| upper[c] * high + lower[c] * low;
        if let Some(first) = first.first_mut() {
            *first = column(0) * 0.25 + column(1) * 0.75;
        }
        let (upper, lower) = (&upper[alone..], &lower[alone..]);
        let (both, last) = pairs.as_chunks_mut::<2>();
        let columns = upper.windows(2).zip(lower.windows(2));
        for (pair, (u, l)) in both.iter_mut().zip(columns) {
            let (left, right) = (u[0] * high + l[0] * low, u[1] * high + l[1] * low);
            *pair = [left * 0.75 + right * 0.25, left * 0.25 + right * 0.75];
        }
        if let Some(last) = last.first_mut() {
            let c = both.len() + alone;
            *last = column(c) * 0.75 + column(c + 1) * 0.25;
        }
    });
    let charts = &fine.links().chart;
    spans.fill_rest(&mut out, |i| {
        around(fine, coarse, i).mixed(coarse, &|at| square[at], charts[i]).unwrap_or_else(|| beside(b, i, a, plane))
    });
    out
}

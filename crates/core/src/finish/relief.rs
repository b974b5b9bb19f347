//! From height in millimetres to tangent-space normals, by the metric of each texel.
//!
//! The surface gradient (Mikkelsen 2010, "Bump mapping unparametrized surfaces on the GPU") of the height field is
//! g = (h_u (dP/dv × N) + h_v (N × dP/du)) / (N · (dP/du × dP/dv)); the relief's normal is N − g, normalised, and written in the MikkTSpace frame ([`Lean`](crate::bake::lean::Lean)).
//! Differences are central; beyond a chart's border they read what lies across the seam, and lean on three texels of one side where nothing does. The result is laid over
//! what the piece takes on from a finer mesh or a picture by reoriented normal mapping (Barré-Brisebois & Hill 2012).

use rayon::prelude::*;

use crate::bake::Surface;
use crate::bake::atlas::NONE;
use crate::bake::frame::combine;

/// Lays fine normals over others by reoriented normal mapping: components one after the other, one value per covered texel.
pub fn lay_over(normals: &mut [[f32; 3]], fine: &[f32]) {
    let n = normals.len();
    let over = |(i, normal): (usize, &mut [f32; 3])| {
        let fine = [fine[i], fine[n + i], fine[2 * n + i]];
        if fine != [0.0, 0.0, 1.0] {
            *normal = combine(*normal, fine);
        }
    };
    normals.par_iter_mut().enumerate().with_min_len(1024).for_each(over);
}

/// Tangent-space normals, one per covered texel, unit length, x along the tangent, y up the texture.
/// `height` is in mm, one value per covered texel; of a band, `fringe` says what lies beyond its charts' borders, each with its index into the squares.
pub fn normals(surface: &Surface, height: &[f32], fringe: &[(u32, f32)]) -> Vec<[f32; 3]> {
    let base = surface.base_normals();
    let flat = height.first().is_none_or(|first| height.iter().all(|h| h == first));
    let own = |i: usize| base.map_or([0.0, 0.0, 1.0], |b| b.normals[i]);
    if flat {
        return (0..surface.atlas.len()).map(own).collect();
    }
    let square = if surface.atlas.is_whole() {
        surface.seams().square(&surface.atlas, height)
    } else {
        alone(surface, height, fringe)
    };
    let leans = surface.leans();
    let one = |i: usize| {
        let bent = leans[i].normal(difference(surface, &square, i, false), difference(surface, &square, i, true));
        if base.is_some() { combine(own(i), bent) } else { bent }
    };
    (0..surface.atlas.len()).into_par_iter().with_min_len(1024).map(one).collect()
}

/// The rows of a band, with what lies right across its seams. Border texels hold the value at the border, which is not where they lie: only what lies across stands in for them.
fn alone(surface: &Surface, height: &[f32], fringe: &[(u32, f32)]) -> Vec<f32> {
    let atlas = &surface.atlas;
    let mut out = vec![f32::NAN; atlas.lookup.len()];
    for ((at, h), _) in atlas.texel.iter().zip(height).zip(&atlas.area).filter(|(_, area)| **area > 0.0) {
        out[atlas.place(*at)] = *h;
    }
    for (at, h) in fringe {
        out[atlas.place(*at)] = *h;
    }
    out
}

/// Change of height per texel to the right in the square, or `down`.
fn difference(surface: &Surface, square: &[f32], i: usize, down: bool) -> f32 {
    let atlas = &surface.atlas;
    let (texel, size) = (atlas.texel[i], atlas.size);
    let stride = if down { atlas.columns.len() } else { 1 };
    let at = atlas.place(atlas.texel[i]);
    let chart = surface.piece.chart_of[atlas.triangle[i] as usize];
    let neighbour = |to: usize| {
        // Another chart's texel is somewhere else on the piece; a gutter texel holds what lies across the seam, or NaN.
        let covered = atlas.lookup[to];
        let elsewhere = covered != NONE && surface.piece.chart_of[atlas.triangle[covered as usize] as usize] != chart;
        Some(square[to]).filter(|h| !elsewhere && !h.is_nan())
    };
    let (place, held) = if down { (texel / size % size, 0..size) } else { (texel % size, atlas.columns.clone()) };
    let (from_start, to_end) = ((place - held.start) as usize, (held.end - place) as usize);
    let before = |n: usize| if from_start >= n && at >= n * stride { neighbour(at - n * stride) } else { None };
    let after = |n: usize| {
        if n < to_end && at + n * stride < square.len() { neighbour(at + n * stride) } else { None }
    };
    // Where the surface ends, the slope at the border of the parabola through the three texels next to it: as exact as a central difference.
    let ending = |one: f32, two: Option<f32>| match two {
        Some(two) => 1.5 * square[at] - 2.0 * one + 0.5 * two,
        None => square[at] - one,
    };
    match (before(1), after(1)) {
        (Some(a), Some(b)) => (b - a) * 0.5,
        (Some(a), None) if !square[at].is_nan() => ending(a, before(2)),
        (None, Some(b)) if !square[at].is_nan() => -ending(b, after(2)),
        _ => 0.0,
    }
}

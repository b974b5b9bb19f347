//! From height in millimetres to tangent-space normals, by the metric of each texel.
//!
//! The surface gradient (Mikkelsen 2010, "Bump mapping unparametrized surfaces on the GPU") of the height field is
//! g = (h_u (dP/dv × N) + h_v (N × dP/du)) / (N · (dP/du × dP/dv)); the relief's normal is N − g, normalised, and written in the MikkTSpace frame.
//! Differences are central inside a chart and one-sided at its border, so that a chart's neighbour in the square, which is
//! somewhere else on the piece, is never read.

use glam::Vec3;
use rayon::prelude::*;

use crate::bake::Surface;
use crate::bake::atlas::{NONE, metric};

/// Tangent-space normals, one per covered texel, unit length, x along the tangent, y up the texture.
/// `height` is in mm, one value per covered texel.
pub fn normals(surface: &Surface, height: &[f32]) -> Vec<[f32; 3]> {
    (0..surface.atlas.len()).into_par_iter().with_min_len(1024).map(|i| normal(surface, height, i)).collect()
}

fn normal(surface: &Surface, height: &[f32], i: usize) -> [f32; 3] {
    let (atlas, piece) = (&surface.atlas, &surface.piece);
    let (hu, hv) = (difference(surface, height, i, 1), difference(surface, height, i, atlas.size as usize));
    if hu == 0.0 && hv == 0.0 {
        return [0.0, 0.0, 1.0];
    }
    let (du, dv) = metric(piece, atlas.triangle[i], atlas.size);
    let n = Vec3::new(atlas.nx[i], atlas.ny[i], atlas.nz[i]);
    let det = n.dot(du.cross(dv));
    if det.abs() < 1e-12 {
        return [0.0, 0.0, 1.0];
    }
    let g = (dv.cross(n) * hu + n.cross(du) * hv) / det;
    let bent = (n - g).normalize_or(n);
    let tri = piece.triangles[atlas.triangle[i] as usize];
    let frame = piece.tangents[tri[0] as usize];
    let t = Vec3::new(frame[0], frame[1], frame[2]);
    let t = (t - n * n.dot(t)).normalize_or(n.any_orthonormal_vector());
    let b = n.cross(t) * frame[3];
    [bent.dot(t), bent.dot(b), bent.dot(n)]
}

/// Change of height per texel along a step of `stride` in the square.
fn difference(surface: &Surface, height: &[f32], i: usize, stride: usize) -> f32 {
    let atlas = &surface.atlas;
    let (at, size) = (atlas.texel[i] as usize, atlas.size as usize);
    let chart = surface.piece.chart_of[atlas.triangle[i] as usize];
    let neighbour = |to: Option<usize>| {
        let j = *atlas.lookup.get(to?)?;
        let same = j != NONE && surface.piece.chart_of[atlas.triangle[j as usize] as usize] == chart;
        same.then(|| height[j as usize])
    };
    let row_start = stride != 1 || !at.is_multiple_of(size);
    let row_end = stride != 1 || !(at + 1).is_multiple_of(size);
    let before = neighbour(at.checked_sub(stride).filter(|_| row_start));
    let after = neighbour(Some(at + stride).filter(|_| row_end));
    match (before, after) {
        (Some(a), Some(b)) => (b - a) * 0.5,
        (Some(a), None) => height[i] - a,
        (None, Some(b)) => b - height[i],
        (None, None) => 0.0,
    }
}

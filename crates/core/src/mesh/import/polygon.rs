//! Faces of more than three corners, cut into triangles.

use earcut::Earcut;
use glam::Vec3;

/// The triangles of a face, as places in its row of corners: a fan where it is convex, otherwise ears cut off one after the other, so that none reaches over its border.
/// One that crosses itself has no sides to tell apart and stays a fan.
pub fn cut(corners: &[[f32; 3]]) -> impl Iterator<Item = [usize; 3]> {
    let ears = if corners.len() > 3 { ears(corners) } else { None };
    let fan = if ears.is_none() { corners.len() } else { 0 };
    (2..fan).map(|k| [0, k - 1, k]).chain(ears.into_iter().flatten())
}

/// The ears of a face, cut off one after the other; none where it is convex, or has no sides to tell apart.
fn ears(corners: &[[f32; 3]]) -> Option<Vec<[usize; 3]>> {
    let at = |i: usize| Vec3::from(corners[i % corners.len()]);
    let n = corners.len();
    // Newell's normal: of the face as a whole, whichever of its corners lie in a row.
    let normal: Vec3 = (0..n).map(|i| (at(i) - at(0)).cross(at(i + 1) - at(0))).sum();
    let turns = |i: usize| (at(i + 1) - at(i)).cross(at(i + 2) - at(i + 1)).dot(normal);
    let slack = -1e-6 * normal.length_squared();
    if !normal.is_finite() || (0..n).all(|i| turns(i) >= slack) {
        return None;
    }
    let (x, y) = normal.normalize_or(Vec3::Y).any_orthonormal_pair();
    let flat = (0..n).map(|i| [f64::from((at(i) - at(0)).dot(x)), f64::from((at(i) - at(0)).dot(y))]);
    let mut out: Vec<u32> = vec![];
    Earcut::new().earcut(flat, &[] as &[u32], &mut out);
    let all: Vec<[usize; 3]> = out.chunks_exact(3).map(|t| [t[0], t[1], t[2]].map(|i| i as usize)).collect();
    if all.len() + 2 != n {
        return None;
    }
    // As the face is wound, whichever way round they were cut.
    let looks = |[a, b, c]: [usize; 3]| (at(b) - at(a)).cross(at(c) - at(a)).dot(normal);
    let along = all.iter().map(|t| looks(*t)).sum::<f32>() >= 0.0;
    Some(all.into_iter().map(|[a, b, c]| if along { [a, b, c] } else { [a, c, b] }).collect())
}

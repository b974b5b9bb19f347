//! Tangent frames of texels, and normals laid over normals.

use glam::Vec3;

use super::Surface;

/// A detail normal laid over a base normal, both in tangent space and of unit length: the detail is turned as the base turns (0, 0, 1).
pub fn combine(base: [f32; 3], detail: [f32; 3]) -> [f32; 3] {
    let t = Vec3::new(base[0], base[1], base[2] + 1.0);
    let u = Vec3::new(-detail[0], -detail[1], detail[2]);
    (t * (t.dot(u) / t.z.max(1e-6)) - u).normalize_or(Vec3::Z).to_array()
}

/// Where a point lies when it is drawn `by` mm from its triangle's border towards the middle, but not past half the way. What lies on a border lies exactly on the neighbouring
/// face, and a ray that starts there, or meets it there, doesn't see it.
pub fn drawn_in(p: Vec3, [a, b, c]: [Vec3; 3], by: f32) -> Vec3 {
    let way = (a + b + c) / 3.0 - p;
    p + way * (by / way.length().max(1e-12)).min(0.5)
}

/// The tangent (along u) and bitangent (up the texture) of a covered texel, orthonormal to its normal: the corners' tangents mixed as those who read MikkTSpace do, by the
/// barycentrics of the texel's place.
pub fn frame(surface: &Surface, i: usize) -> (Vec3, Vec3) {
    let (atlas, piece) = (&surface.atlas, &surface.piece);
    let n = Vec3::new(atlas.nx[i], atlas.ny[i], atlas.nz[i]);
    let triangle = atlas.triangle[i];
    let frames = piece.triangles[triangle as usize].map(|v| piece.tangents[v as usize]);
    let p = Vec3::new(atlas.px[i], atlas.py[i], atlas.pz[i]);
    let weights = barycentrics(p, piece.corners(triangle)).unwrap_or(Vec3::X).to_array();
    let t: Vec3 = frames.iter().zip(weights).map(|(f, w)| Vec3::new(f[0], f[1], f[2]) * w).sum();
    let t = (t - n * n.dot(t)).normalize_or(n.any_orthonormal_vector());
    (t, n.cross(t) * frames[0][3])
}

/// Barycentrics of a point of a triangle's plane; none for a triangle without area.
pub fn barycentrics(p: Vec3, [a, b, c]: [Vec3; 3]) -> Option<Vec3> {
    let (e1, e2, d) = (b - a, c - a, p - a);
    let (d11, d12, d22) = (e1.dot(e1), e1.dot(e2), e2.dot(e2));
    let det = d11 * d22 - d12 * d12;
    if det.abs() < 1e-20 {
        return None;
    }
    let (v, w) = ((d22 * d.dot(e1) - d12 * d.dot(e2)) / det, (d11 * d.dot(e2) - d12 * d.dot(e1)) / det);
    Some(Vec3::new(1.0 - v - w, v, w))
}

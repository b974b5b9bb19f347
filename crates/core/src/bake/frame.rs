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

/// The tangent (along u) and bitangent (up the texture) of a covered texel, orthonormal to its normal.
pub fn frame(surface: &Surface, i: usize) -> (Vec3, Vec3) {
    let (atlas, piece) = (&surface.atlas, &surface.piece);
    let n = Vec3::new(atlas.nx[i], atlas.ny[i], atlas.nz[i]);
    let tri = piece.triangles[atlas.triangle[i] as usize];
    let frame = piece.tangents[tri[0] as usize];
    let t = Vec3::new(frame[0], frame[1], frame[2]);
    let t = (t - n * n.dot(t)).normalize_or(n.any_orthonormal_vector());
    (t, n.cross(t) * frame[3])
}

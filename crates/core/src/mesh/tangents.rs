//! Tangent frames by MikkTSpace, the standard that renderers share (Mikkelsen 2008), through `bevy_mikktspace`.

use bevy_mikktspace::{Geometry, TangentSpace, generate_tangents};
use glam::Vec3;

use super::Soup;

struct Corners<'a> {
    soup: &'a Soup,
    out: Vec<[f32; 4]>,
}

impl Geometry for Corners<'_> {
    fn num_faces(&self) -> usize {
        self.soup.parts.len()
    }

    fn num_vertices_of_face(&self, _: usize) -> usize {
        3
    }

    fn position(&self, face: usize, vert: usize) -> [f32; 3] {
        self.soup.positions[face * 3 + vert]
    }

    fn normal(&self, face: usize, vert: usize) -> [f32; 3] {
        self.soup.normals[face * 3 + vert]
    }

    fn tex_coord(&self, face: usize, vert: usize) -> [f32; 2] {
        // v is turned up so that the bitangent points up the texture, as glTF's normal pictures expect.
        let [u, v] = self.soup.uvs[face * 3 + vert];
        [u, 1.0 - v]
    }

    fn set_tangent(&mut self, tangent: Option<TangentSpace>, face: usize, vert: usize) {
        if let Some(t) = tangent {
            self.out[face * 3 + vert] = t.tangent_encoded();
        }
    }
}

/// A tangent and bitangent sign per corner. Where MikkTSpace gives none, any frame around the normal.
pub fn corner_tangents(soup: &Soup) -> Vec<[f32; 4]> {
    let fallback = soup.normals.iter().map(|n| {
        let t = Vec3::from(*n).any_orthonormal_vector();
        [t.x, t.y, t.z, 1.0]
    });
    let mut corners = Corners { soup, out: fallback.collect() };
    // An error leaves the fallback frames standing, which is all that can be done for such a mesh.
    let _ = generate_tangents(&mut corners);
    for t in &mut corners.out {
        if t.iter().any(|v| !v.is_finite()) {
            *t = [1.0, 0.0, 0.0, 1.0];
        }
    }
    corners.out
}

//! Tangent frames by MikkTSpace, the standard that renderers share (Mikkelsen 2008), through `bevy_mikktspace`.

use std::collections::HashSet;

use bevy_mikktspace::{Geometry, TangentSpace, generate_tangents};
use foldhash::{HashMap, HashMapExt};
use glam::{Vec2, Vec3};

use super::Soup;
use super::edges::place;

/// Where more triangles than this meet at a place, each has a frame of its own: MikkTSpace goes around such a place triangle by triangle, calling itself, and then
/// compares all with all, so that a polygon of 90,000 corners would end the process.
const FAN: u32 = 4096;

struct Corners<'a> {
    soup: &'a Soup,
    /// The triangles that it is asked for.
    faces: Vec<usize>,
    out: Vec<[f32; 4]>,
}

impl Geometry for Corners<'_> {
    fn num_faces(&self) -> usize {
        self.faces.len()
    }

    fn num_vertices_of_face(&self, _: usize) -> usize {
        3
    }

    fn position(&self, face: usize, vert: usize) -> [f32; 3] {
        self.soup.positions[self.faces[face] * 3 + vert]
    }

    fn normal(&self, face: usize, vert: usize) -> [f32; 3] {
        self.soup.normals[self.faces[face] * 3 + vert]
    }

    fn tex_coord(&self, face: usize, vert: usize) -> [f32; 2] {
        // v is turned up so that the bitangent points up the texture, as glTF's normal pictures expect.
        let [u, v] = self.soup.uvs[self.faces[face] * 3 + vert];
        [u, 1.0 - v]
    }

    fn set_tangent(&mut self, tangent: Option<TangentSpace>, face: usize, vert: usize) {
        if let Some(t) = tangent {
            self.out[self.faces[face] * 3 + vert] = t.tangent_encoded();
        }
    }
}

/// A tangent and bitangent sign per corner. Where MikkTSpace gives none, any frame around the normal.
pub fn corner_tangents(soup: &Soup) -> Vec<[f32; 4]> {
    let fallback = soup.normals.iter().map(|n| {
        let t = Vec3::from(*n).any_orthonormal_vector();
        [t.x, t.y, t.z, 1.0]
    });
    let (faces, crowded) = by_crowd(soup);
    let mut corners = Corners { soup, faces, out: fallback.collect() };
    // An error leaves the fallback frames standing, which is all that can be done for such a mesh.
    let _ = generate_tangents(&mut corners);
    for face in crowded {
        own_frame(soup, face, &mut corners.out);
    }
    for t in &mut corners.out {
        if t.iter().any(|v| !v.is_finite()) {
            *t = [1.0, 0.0, 0.0, 1.0];
        }
    }
    corners.out
}

/// The triangles, without and with a corner at which more than [`FAN`] of them meet.
fn by_crowd(soup: &Soup) -> (Vec<usize>, Vec<usize>) {
    let all = 0..soup.len();
    if soup.len() <= FAN as usize {
        return (all.collect(), vec![]);
    }
    let mut meeting: HashMap<[u32; 3], u32> = HashMap::with_capacity(soup.len());
    for p in &soup.positions {
        *meeting.entry(place(*p)).or_default() += 1;
    }
    let many: HashSet<[u32; 3]> = meeting.into_iter().filter(|(_, n)| *n > FAN).map(|(p, _)| p).collect();
    if many.is_empty() {
        return (all.collect(), vec![]);
    }
    all.partition(|t| soup.positions[3 * t..3 * t + 3].iter().all(|p| !many.contains(&place(*p))))
}

/// The frame of a triangle by itself, from how its UVs lie; its fallback stays where they have no area.
fn own_frame(soup: &Soup, face: usize, out: &mut [[f32; 4]]) {
    let at = |k: usize| {
        (Vec3::from(soup.positions[3 * face + k]), Vec2::from(soup.uvs[3 * face + k]) * Vec2::new(1.0, -1.0))
    };
    let ((p, a), (q, b), (r, c)) = (at(0), at(1), at(2));
    let (along, across) = (b - a, c - a);
    let area = along.perp_dot(across);
    let tangent = ((q - p) * across.y - (r - p) * along.y) * area.signum();
    for k in 3 * face..3 * face + 3 {
        let n = Vec3::from(soup.normals[k]);
        if let Some(t) = (tangent - n * n.dot(tangent)).try_normalize().filter(|_| area != 0.0) {
            out[k] = [t.x, t.y, t.z, area.signum()];
        }
    }
}

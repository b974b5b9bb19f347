//! Tangent frames by MikkTSpace, the standard that renderers share (Mikkelsen 2008), through `bevy_mikktspace`.

use std::collections::HashSet;

use bevy_mikktspace::{Geometry, TangentSpace, generate_tangents};
use foldhash::{HashMap, HashMapExt};
use glam::{Vec2, Vec3};
use rayon::prelude::*;

use super::edges::place;
use super::{Soup, connect};

/// Where more triangles than this meet at a place, each has a frame of its own: MikkTSpace goes around such a place triangle by triangle, calling itself, and then
/// compares all with all, so that a polygon of 90,000 corners would end the process.
const FAN: u32 = 4096;

struct Corners<'a> {
    soup: &'a Soup,
    /// The triangles that it is asked for.
    faces: &'a [usize],
    /// By corner, three a triangle; none where MikkTSpace gives none.
    out: Vec<Option<[f32; 4]>>,
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
        self.out[face * 3 + vert] = tangent.map(|t| t.tangent_encoded());
    }
}

/// A tangent and bitangent sign per corner. Where MikkTSpace gives none, any frame around the normal.
pub fn corner_tangents(soup: &Soup) -> Vec<[f32; 4]> {
    let fallback = soup.normals.iter().map(|n| {
        let t = Vec3::from(*n).any_orthonormal_vector();
        [t.x, t.y, t.z, 1.0]
    });
    let mut out: Vec<[f32; 4]> = fallback.collect();
    let (faces, crowded) = by_crowd(soup);
    let runs = apart(soup, faces);
    let found: Vec<_> = runs.par_iter().map(|faces| frames(soup, faces)).collect();
    for (face, frames) in runs.iter().zip(&found).flat_map(|(run, found)| run.iter().zip(found.as_chunks::<3>().0)) {
        for (k, frame) in frames.iter().enumerate() {
            out[face * 3 + k] = frame.unwrap_or(out[face * 3 + k]);
        }
    }
    for face in crowded {
        own_frame(soup, face, &mut out);
    }
    for t in &mut out {
        if t.iter().any(|v| !v.is_finite()) {
            *t = [1.0, 0.0, 0.0, 1.0];
        }
    }
    out
}

/// What MikkTSpace says of some triangles, by corner.
fn frames(soup: &Soup, faces: &[usize]) -> Vec<Option<[f32; 4]>> {
    let mut corners = Corners { soup, faces, out: vec![None; faces.len() * 3] };
    // An error leaves the fallback frames standing, which is all that can be done for such a mesh.
    let _ = generate_tangents(&mut corners);
    corners.out
}

/// Triangles that are worked on in one go, where no place holds more of them together.
const RUN: usize = 1 << 15;

/// The triangles in runs, each in its order, none of which shares a place with another run: a frame follows only from triangles that meet.
fn apart(soup: &Soup, faces: Vec<usize>) -> Vec<Vec<usize>> {
    if faces.len() <= RUN {
        return vec![faces];
    }
    let triangles: Vec<[u32; 3]> = faces.iter().map(|f| [0, 1, 2].map(|k| (f * 3 + k) as u32)).collect();
    let shell_of = connect::components(&triangles, |v| place(soup.positions[v as usize]));
    let mut sizes = vec![0usize; connect::count(&shell_of) as usize];
    shell_of.iter().for_each(|s| sizes[*s as usize] += 1);
    // Shells one after the other, until a run is long enough.
    let (mut run_of, mut runs, mut room) = (Vec::with_capacity(sizes.len()), vec![], 0);
    for size in sizes {
        if room == 0 {
            runs.push(vec![]);
            room = RUN;
        }
        room = room.saturating_sub(size);
        run_of.push(runs.len() - 1);
    }
    for (face, shell) in faces.into_iter().zip(shell_of) {
        runs[run_of[shell as usize]].push(face);
    }
    runs
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

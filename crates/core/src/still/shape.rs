//! What rays meet: a piece as its mesh has it, or cut finer and moved by its relief.

use std::sync::Arc;

use glam::{Vec2, Vec3};

use crate::bake::Surface;
use crate::bake::bvh::Bvh;
use crate::evaluate::Evaluation;
use crate::mesh::split::{outward, places, split, vertices};

/// The most triangles that a piece is cut into to be moved.
const FINEST: usize = 1_000_000;

/// A piece's triangles, ready for rays.
#[derive(Clone)]
pub struct Shape<'a> {
    surface: &'a Surface,
    moved: Option<Arc<Moved>>,
}

struct Moved {
    bvh: Bvh,
    positions: Vec<Vec3>,
    uvs: Vec<Vec2>,
    triangles: Vec<[u32; 3]>,
    /// Into how many triangles each of the piece's was cut; they lie one after the other.
    cut: usize,
}

impl<'a> Shape<'a> {
    /// As the mesh has it.
    pub fn of(surface: &'a Surface) -> Self {
        Self { surface, moved: None }
    }

    /// Moved by the height of an evaluation, along the mean of the normals that meet at a place: where charts meet, and at hard edges, by the mean of the
    /// heights there, so that nothing gapes.
    pub fn moved(surface: &'a Surface, e: &Evaluation) -> Self {
        let (piece, height) = (&surface.piece, &e.channels["height"]);
        let (vertices, triangles) = split(vertices(piece), piece.triangles.clone(), FINEST);
        let cut = (triangles.len() / piece.triangles.len().max(1)).max(1);
        let mut sheet = vec![0; vertices.len()];
        for (t, corners) in triangles.iter().enumerate() {
            corners.iter().for_each(|v| sheet[*v as usize] = piece.sheet_of[t / cut]);
        }
        let uvs: Vec<Vec2> = vertices.iter().map(|v| Vec2::new(v[10], v[11])).collect();
        let (place, count) = places(&vertices);
        // Of each place: the sum of its heights, of how many, and where it is.
        let mut found = vec![(0.0f32, 0.0f32, Vec3::ZERO); count];
        for (i, at) in place.iter().enumerate() {
            let own = surface.atlas.between(height, sheet[i], uvs[i].to_array());
            let (sum, n, point) = &mut found[*at as usize];
            if *n == 0.0 {
                *point = Vec3::from_slice(&vertices[i][..3]);
            }
            (*sum, *n) = (*sum + own.unwrap_or(0.0), *n + 1.0);
        }
        let to = |(at, way): (&u32, [f32; 3])| {
            let (sum, n, point) = found[*at as usize];
            point + Vec3::from(way) * (sum / n)
        };
        let positions: Vec<Vec3> = place.iter().zip(outward(&vertices)).map(to).collect();
        let corners: Vec<[Vec3; 3]> = triangles.iter().map(|t| t.map(|v| positions[v as usize])).collect();
        let moved = Moved { bvh: Bvh::build(&corners), positions, uvs, triangles, cut };
        Self { surface, moved: Some(Arc::new(moved)) }
    }

    /// The ray caster.
    pub fn bvh(&self) -> &Bvh {
        self.moved.as_ref().map_or_else(|| self.surface.bvh(), |m| &m.bvh)
    }

    /// The corners of a triangle, in mm.
    pub fn corners(&self, t: u32) -> [Vec3; 3] {
        match &self.moved {
            Some(m) => m.triangles[t as usize].map(|v| m.positions[v as usize]),
            None => self.surface.piece.corners(t),
        }
    }

    /// Where they lie in its sheet.
    pub fn uvs(&self, t: u32) -> [Vec2; 3] {
        match &self.moved {
            Some(m) => m.triangles[t as usize].map(|v| m.uvs[v as usize]),
            None => self.surface.piece.triangles[t as usize].map(|v| self.surface.piece.uvs[v as usize].into()),
        }
    }

    /// The sheet of a triangle.
    pub fn sheet(&self, t: u32) -> u16 {
        self.surface.piece.sheet_of[t as usize / self.moved.as_ref().map_or(1, |m| m.cut)]
    }
}

//! Relief that the piece takes on: from a finer mesh of the same thing, and from a tangent-space normal picture.
//!
//! From each texel a ray runs inwards along its normal, from the cage distance outside to as far inside; where it first meets the finer mesh, that one's normal is
//! taken over, expressed in the texel's own tangent frame. Texels that meet nothing keep the piece's normal and are counted.

use glam::Vec3;
use rayon::prelude::*;

use super::Surface;
use super::bvh::Bvh;
use super::frame::{combine, drawn_in, frame};
use crate::mesh::mend::Taking;
use crate::mesh::parts::StandIn;
use crate::mesh::{MeshError, Soup, import};

/// A finer mesh, ready to be looked at.
pub struct Finer {
    soup: Soup,
    bvh: Bvh,
}

/// What the piece takes on: a tangent-space normal per covered texel, of unit length.
#[derive(Debug, Clone, PartialEq)]
pub struct BaseNormals {
    /// x along the tangent, y up the texture.
    pub normals: Vec<[f32; 3]>,
    /// Share of the texels that met no finer mesh within the cage; none without one.
    pub missed: Option<f32>,
}

impl Finer {
    /// Reads a finer mesh from a file of that name.
    ///
    /// # Errors
    /// As [`import::import`].
    pub fn read(file: &str, bytes: &[u8], taking: impl Into<Taking>) -> Result<Finer, MeshError> {
        let soup = import::bare(file, bytes, taking, import::MeshLimits::default())?;
        let corners = |c: &[[f32; 3]]| [Vec3::from(c[0]), Vec3::from(c[1]), Vec3::from(c[2])];
        let bvh = Bvh::build(&soup.positions.chunks_exact(3).map(corners).collect::<Vec<_>>());
        Ok(Finer { soup, bvh })
    }

    /// About how many bytes it takes in memory.
    pub fn bytes(&self) -> usize {
        self.soup.positions.len() * 90
    }

    /// The normal where a ray along `-n` first meets it within `cage` mm of `p`.
    fn normal_at(&self, p: Vec3, n: Vec3, cage: f32) -> Option<Vec3> {
        let (distance, t, [v, w]) = self.bvh.first_hit(p + n * cage, -n)?;
        if distance > 2.0 * cage {
            return None;
        }
        let [a, b, c] = [0, 1, 2].map(|k| Vec3::from(self.soup.normals[3 * t as usize + k]));
        (a * (1.0 - v - w) + b * v + c * w).try_normalize()
    }
}

/// What a surface takes on, if its intake gives it anything.
pub fn base_normals(surface: &Surface) -> Option<BaseNormals> {
    let picture = surface.piece.stand_ins.get("normal").map(|s| &s.1);
    if surface.finer.is_none() && picture.is_none() {
        return None;
    }
    let mut out = BaseNormals { normals: vec![[0.0, 0.0, 1.0]; surface.atlas.len()], missed: None };
    if let Some((finer, cage)) = &surface.finer {
        let found: Vec<Option<[f32; 3]>> = project(surface, finer, *cage);
        let missed = found.iter().filter(|f| f.is_none()).count();
        out.missed = Some(missed as f32 / found.len().max(1) as f32);
        out.normals = found.into_iter().map(|f| f.unwrap_or([0.0, 0.0, 1.0])).collect();
    }
    if let Some(picture) = picture {
        lay(surface, picture, &mut out.normals);
    }
    Some(out)
}

fn project(surface: &Surface, finer: &Finer, cage: f32) -> Vec<Option<[f32; 3]>> {
    let atlas = &surface.atlas;
    let inset = surface.piece.diagonal() * 1e-4;
    let one = |i: usize| {
        let p = Vec3::new(atlas.px[i], atlas.py[i], atlas.pz[i]);
        let n = Vec3::new(atlas.nx[i], atlas.ny[i], atlas.nz[i]);
        let from = drawn_in(p, surface.piece.corners(atlas.triangle[i]), inset);
        let met = finer.normal_at(from, n, cage)?;
        let (t, b) = frame(surface, i);
        let local = [met.dot(t), met.dot(b), met.dot(n)];
        // A surface that looks the other way is the far side of something else.
        (local[2] > 0.05).then_some(local)
    };
    (0..atlas.len()).into_par_iter().with_min_len(512).map(one).collect()
}

fn lay(surface: &Surface, picture: &StandIn, normals: &mut [[f32; 3]]) {
    let StandIn::Normal(grids) = picture else { return };
    normals.par_iter_mut().enumerate().for_each(|(i, n)| {
        let (uv, sheet) = surface.atlas.uv(i);
        *n = combine(*n, grids[sheet].smooth(uv).normalize_or(Vec3::Z).to_array());
    });
}

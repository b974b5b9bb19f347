//! Places of a surface that are no centres of its texels: between them, where a texel is looked at more finely, or beyond a chart's border, where a slope is taken across a seam.
//!
//! What looks around a texel, and what is measured, is known on the surface ([`Places::read`]); all else is worked out at the places themselves, as on any surface.

use glam::{Vec2, Vec3};
use rayon::prelude::*;

use super::Surface;
use super::atlas::{Atlas, Lies, NONE};
use super::flat::Flat;
use super::levels::{Corner, beside};
use crate::mesh::{Pair, Piece, pairs};
use crate::raster::Plane;

/// A place on the piece: a triangle, and barycentrics in it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Spot {
    /// The triangle.
    pub triangle: u32,
    /// The shares of its corners, none below 0.
    pub weights: Vec3,
}

/// Which triangle lies beyond each side of each triangle in its chart.
pub struct Beside(Vec<[u32; 3]>);

impl Beside {
    /// Of a piece.
    pub fn build(piece: &Piece) -> Beside {
        let mut out = vec![[NONE; 3]; piece.triangles.len()];
        let together = |p: &Pair| p.together && piece.chart_of[p.one.0 as usize] == piece.chart_of[p.other.0 as usize];
        for Pair { one, other, .. } in pairs(piece).into_iter().filter(together) {
            out[one.0 as usize][one.1] = other.0;
            out[other.0 as usize][other.1] = one.0;
        }
        Beside(out)
    }

    /// The spot at `p`, in texels of a sheet at `size`, walked to from a triangle near it; the nearest of the last triangle's where the chart ends before.
    pub fn spot(&self, piece: &Piece, size: u32, from: u32, p: Vec2) -> Spot {
        const MOST: u32 = 24;
        let mut t = from;
        for _ in 0..MOST {
            let flat = Flat::of(piece, t, size);
            if flat.is_line() {
                break;
            }
            let w = flat.shares(p);
            if w.min_element() >= 0.0 {
                return Spot { triangle: t, weights: w };
            }
            // Over the side that lies opposite the corner whose share is least.
            let side = (w.to_array().iter().enumerate().min_by(|a, b| a.1.total_cmp(b.1)).map_or(0, |m| m.0) + 1) % 3;
            match self.0[t as usize][side] {
                NONE => return Spot { triangle: t, weights: flat.nearest(p).0 },
                next => t = next,
            }
        }
        Spot { triangle: from, weights: Flat::of(piece, from, size).nearest(p).0 }
    }
}

/// Some spots of a surface, to be evaluated at.
pub struct Places<'a> {
    /// The spots as texels without a square around them.
    pub surface: Surface,
    base: &'a Surface,
    /// Of each spot, where in the squares of the base it lies: in texels, over all sheets.
    lies: Vec<(u32, Vec2)>,
}

impl<'a> Places<'a> {
    /// Spots of `base` for textures of `of`'s size. `length` is the length of what each stands for, in texels of `of`.
    pub fn new(base: &'a Surface, of: &Surface, spots: &[Spot], length: f32) -> Self {
        let (piece, size) = (&base.piece, base.atlas.size as f32);
        let mut atlas = Atlas {
            size: of.atlas.size,
            columns: 0..of.atlas.size,
            sheets: of.atlas.sheets,
            total_area: of.atlas.total_area,
            texel_length: of.atlas.texel_length * length,
            side: of.atlas.side,
            ..Atlas::default()
        };
        let one = |spot: &Spot| {
            let tri = piece.triangles[spot.triangle as usize];
            let shares = spot.weights.to_array();
            let uv: Vec2 = tri.into_iter().zip(shares).map(|(v, w)| Vec2::from(piece.uvs[v as usize]) * w).sum();
            (u32::from(piece.sheet_of[spot.triangle as usize]), uv, Lies::at(piece, spot.triangle, spot.weights))
        };
        let all: Vec<_> = spots.par_iter().with_min_len(4096).map(one).collect();
        let mut lies = Vec::with_capacity(all.len());
        for (sheet, uv, place) in all {
            lies.push((sheet, uv * size - 0.5));
            atlas.exact.push(uv.to_array());
            let [x, y] = uv.to_array().map(|c| ((c * of.atlas.size as f32) as u32).min(of.atlas.size - 1));
            // Nothing is summed up over places.
            atlas.add((sheet * of.atlas.size + y) * of.atlas.size + x, &place, 0.0);
        }
        let surface = base.laid_out(atlas).with_finer(base.finer.clone());
        Self { surface, base, lies }
    }

    /// What a plane of the base, or several one after the other, holds at the places: mixed from the four texels around each, across seams.
    pub fn read(&self, planes: &[f32]) -> Plane {
        planes.chunks(self.base.atlas.len().max(1)).flat_map(|plane| self.read_one(plane)).collect()
    }

    fn read_one(&self, plane: &[f32]) -> Plane {
        let (atlas, piece) = (&self.base.atlas, &self.base.piece);
        let value = |at: usize| self.base.seams().value(atlas, plane, at);
        let one = |i: usize| {
            let ((sheet, at), chart) = (self.lies[i], piece.chart_of[self.surface.atlas.triangle[i] as usize]);
            let corner = Corner::around(sheet, at);
            corner.mixed(self.base, &value, chart).unwrap_or_else(|| beside(&self.surface.atlas, i, atlas, plane))
        };
        (0..self.lies.len()).into_par_iter().with_min_len(4096).map(one).collect()
    }
}

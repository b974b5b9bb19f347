//! Places of a surface that are no centres of its texels: between them, where a texel is looked at more finely, or beyond a chart's border, where a slope is taken across a seam.
//!
//! What looks around a texel, and what is measured, is known on the surface ([`Places::read`]); all else is worked out at the places themselves, as on any surface.

use glam::{Vec2, Vec3};
use rayon::prelude::*;

use super::Surface;
use super::atlas::{Atlas, NONE, nearest, texel_corners};
use crate::mesh::{Piece, meetings, places, sides};
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
        let all = places(&piece.positions);
        let mut out = vec![[NONE; 3]; piece.triangles.len()];
        for meeting in meetings(&sides(&piece.triangles, &all)) {
            if let [a, b] = meeting
                && piece.chart_of[a.triangle as usize] == piece.chart_of[b.triangle as usize]
                && side_uvs(piece, &all, a.triangle, a.k) == side_uvs(piece, &all, b.triangle, b.k)
            {
                out[a.triangle as usize][usize::from(a.k)] = b.triangle;
                out[b.triangle as usize][usize::from(b.k)] = a.triangle;
            }
        }
        Beside(out)
    }

    /// The spot at `p`, in texels of a sheet at `size`, walked to from a triangle near it; the nearest of the last triangle's where the chart ends before.
    pub fn spot(&self, piece: &Piece, size: u32, from: u32, p: Vec2) -> Spot {
        const MOST: u32 = 24;
        let mut t = from;
        for _ in 0..MOST {
            let c = texel_corners(piece, t, size);
            let double = (c[1] - c[0]).perp_dot(c[2] - c[0]);
            if double.abs() < 1e-12 {
                break;
            }
            let w = Vec3::new(
                (c[1] - p).perp_dot(c[2] - p) / double,
                (c[2] - p).perp_dot(c[0] - p) / double,
                (c[0] - p).perp_dot(c[1] - p) / double,
            );
            if w.min_element() >= 0.0 {
                return Spot { triangle: t, weights: w };
            }
            // Over the side that lies opposite the corner whose share is least.
            let side = (w.to_array().iter().enumerate().min_by(|a, b| a.1.total_cmp(b.1)).map_or(0, |m| m.0) + 1) % 3;
            match self.0[t as usize][side] {
                NONE => return Spot { triangle: t, weights: nearest(p, c).0 },
                next => t = next,
            }
        }
        Spot { triangle: from, weights: nearest(p, texel_corners(piece, from, size)).0 }
    }
}

/// The two ends of a triangle's side in space and in its sheet, in any order.
fn side_uvs(piece: &Piece, places: &[u32], t: u32, k: u8) -> ([(u32, [u32; 2]); 2], u16) {
    let corner = |v: u32| (places[v as usize], piece.uvs[v as usize].map(f32::to_bits));
    let tri = piece.triangles[t as usize];
    let mut both = [corner(tri[usize::from(k)]), corner(tri[(usize::from(k) + 1) % 3])];
    both.sort_unstable();
    (both, piece.sheet_of[t as usize])
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
    /// Spots of `base`, each of which stands for a texel of `of` (its index and the spot), where textures have `of`'s size. `length` is the length of what each stands for, in
    /// texels of `of`.
    pub fn new(base: &'a Surface, of: &Surface, spots: &[(u32, Spot)], length: f32) -> Self {
        let (piece, size) = (&base.piece, base.atlas.size as f32);
        let mut atlas = Atlas {
            size: of.atlas.size,
            sheets: of.atlas.sheets,
            total_area: of.atlas.total_area,
            texel_length: of.atlas.texel_length * length,
            side: of.atlas.side,
            ..Atlas::default()
        };
        let one = |(i, spot): &(u32, Spot)| {
            let uv: Vec2 = mixed(piece, spot, |v| Vec2::from(piece.uvs[v as usize]));
            let p: Vec3 = mixed(piece, spot, |v| Vec3::from(piece.positions[v as usize]));
            let n: Vec3 = mixed(piece, spot, |v| Vec3::from(piece.normals[v as usize]));
            (*i as usize, *spot, uv, p, n.normalize_or(Vec3::Y), piece.part_at(spot.triangle, spot.weights))
        };
        let all: Vec<_> = spots.par_iter().with_min_len(4096).map(one).collect();
        let mut lies = Vec::with_capacity(all.len());
        for (i, spot, uv, p, n, part) in all {
            lies.push((u32::from(piece.sheet_of[spot.triangle as usize]), uv * size - 0.5));
            atlas.exact.push(uv.to_array());
            atlas.texel.push(of.atlas.texel[i]);
            atlas.px.push(p.x);
            atlas.py.push(p.y);
            atlas.pz.push(p.z);
            atlas.nx.push(n.x);
            atlas.ny.push(n.y);
            atlas.nz.push(n.z);
            atlas.triangle.push(spot.triangle);
            atlas.part.push(part);
            atlas.area.push(of.atlas.area[i]);
        }
        let surface = Surface::of_atlas(piece.clone(), atlas).with_finer(base.finer.clone());
        Self { surface, base, lies }
    }

    /// What a plane of the base, or several one after the other, holds at the places: mixed from the four texels around each, across seams.
    pub fn read(&self, planes: &[f32]) -> Plane {
        planes.chunks(self.base.atlas.len().max(1)).flat_map(|plane| self.read_one(plane)).collect()
    }

    fn read_one(&self, plane: &[f32]) -> Plane {
        let (atlas, piece) = (&self.base.atlas, &self.base.piece);
        let charts = &self.base.links().chart;
        let across = &self.base.seams().across;
        let size = atlas.size as i32;
        let one = |i: usize| {
            let ((sheet, at), chart) = (self.lies[i], piece.chart_of[self.surface.atlas.triangle[i] as usize]);
            let (low, part) = (at.floor(), at - at.floor());
            let (mut sum, mut total) = (0.0f32, 0.0f32);
            for k in 0..4 {
                let (dx, dy) = (k & 1, k >> 1);
                let (x, y) = (low.x as i32 + dx, low.y as i32 + dy);
                if x < 0 || y < 0 || x >= size || y >= size {
                    continue;
                }
                let place = (sheet * atlas.size + y as u32) * atlas.size + x as u32;
                let covered = atlas.lookup[place as usize];
                let own = covered != NONE && charts[covered as usize] == chart;
                let value = if own && atlas.area[covered as usize] > 0.0 {
                    plane[covered as usize]
                } else if covered != NONE && !own {
                    continue;
                } else if let Ok(found) = across.binary_search_by_key(&place, |a| a.at) {
                    let a = &across[found];
                    (0..4).map(|k| plane[a.from[k] as usize] * a.weight[k]).sum()
                } else if own {
                    plane[covered as usize]
                } else {
                    continue;
                };
                let share = |on: i32, part: f32| if on == 1 { part } else { 1.0 - part };
                let weight = share(dx, part.x) * share(dy, part.y);
                sum += value * weight;
                total += weight;
            }
            if total > 1e-3 {
                return sum / total;
            }
            let uv = [(at.x + 0.5) / size as f32, (at.y + 0.5) / size as f32];
            atlas.at_uv(sheet as u16, uv).map_or(0.0, |j| plane[j as usize])
        };
        (0..self.lies.len()).into_par_iter().with_min_len(4096).map(one).collect()
    }
}

fn mixed<T: std::ops::Mul<f32, Output = T> + std::iter::Sum>(piece: &Piece, spot: &Spot, of: impl Fn(u32) -> T) -> T {
    let tri = piece.triangles[spot.triangle as usize];
    tri.into_iter().zip(spot.weights.to_array()).map(|(v, w)| of(v) * w).sum()
}

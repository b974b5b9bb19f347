//! The seam map: for each gutter and border texel of a chart, the place across the seam that lies there on the surface.
//!
//! Border edges of charts are matched by their endpoints in space. A gutter texel is carried into the plane of the triangle at the border by that
//! triangle's metric, its distance from the edge is laid off on the other side of the seam, and the values are mixed from the four texels around that place.
//! Steps that look beyond a chart's border read the gutter filled in this way, and so cross the seam. Open borders have nothing across them and stay empty.

use std::collections::BTreeMap;

use foldhash::{HashMap, HashMapExt};
use glam::{Vec2, Vec3};
use rayon::prelude::*;
use rstar::primitives::Line;
use rstar::{PointDistance, RTree};

use super::Surface;
use super::atlas::{Atlas, NONE};
use super::flat::Flat;
use super::frame::barycentrics;
use super::places::Spot;
use crate::mesh::{Piece, meetings, pairs, places, sides};

/// One gutter or border texel and the covered texels that it is mixed from; the weights add up to 1.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Across {
    /// Index into the square.
    pub at: u32,
    /// Covered texels.
    pub from: [u32; 4],
    /// Their shares.
    pub weight: [f32; 4],
}

impl Across {
    /// What a plane holds there.
    #[inline]
    pub fn value(&self, plane: &[f32]) -> f32 {
        (0..4).map(|k| plane[self.from[k] as usize] * self.weight[k]).sum()
    }
}

/// How far beyond its border each texel lies, and what is there.
type Nearest = HashMap<u32, (f32, Across)>;
/// Cuts that are gone along in one go.
const CUTS: usize = 512;

/// The seam map of a surface at its size.
#[derive(Debug, Default, PartialEq)]
pub struct Seams {
    /// Gutter and border texels, in the order of the square.
    pub across: Vec<Across>,
}

/// A side of a seam: a triangle and which of its edges.
pub type Side = (u32, usize);

impl Seams {
    /// Finds what lies across every seam, up to `padding` texels beyond the charts' borders. The same on every machine.
    pub fn build(piece: &Piece, atlas: &Atlas, cuts: &[Cut], padding: u32) -> Seams {
        let nearest = |cuts: &[Cut]| {
            let mut best: Nearest = HashMap::new();
            for cut in cuts {
                // Border texels hold the value at the border itself; a filter wants what lies where they are.
                carry(
                    piece,
                    atlas,
                    *cut,
                    padding as f32,
                    |at| atlas.is_inner(at),
                    |carried| {
                        if best.get(&carried.at).is_none_or(|b| b.0 > carried.beyond)
                            && let Some(across) = gather(piece, atlas, &carried)
                        {
                            best.insert(carried.at, (carried.beyond, across));
                        }
                    },
                );
            }
            best
        };
        let parts: Vec<Nearest> = cuts.par_chunks(CUTS).map(nearest).collect();
        // Where two are as near the earlier cut counts, as if one had gone through them all.
        let mut best: Nearest = HashMap::new();
        for (at, found) in parts.into_iter().flatten() {
            if best.get(&at).is_none_or(|b| b.0 > found.0) {
                best.insert(at, found);
            }
        }
        let mut across: Vec<Across> = best.into_values().map(|b| b.1).collect();
        across.sort_by_key(|a| a.at);
        Seams { across }
    }

    /// What a plane holds at a texel of a whole square, as [`Seams::square`] would say: for a few of them.
    pub fn value(&self, atlas: &Atlas, plane: &[f32], at: usize) -> f32 {
        if atlas.is_inner(at as u32) {
            return plane[atlas.lookup[at] as usize];
        }
        match (self.across.binary_search_by_key(&(at as u32), |a| a.at), atlas.lookup[at]) {
            (Ok(found), _) => self.across[found].value(plane),
            (_, NONE) => f32::NAN,
            (_, covered) => plane[covered as usize],
        }
    }

    /// A plane as a square with its gutter and border texels filled from across the seams; NaN where nothing lies.
    pub fn square(&self, atlas: &Atlas, plane: &[f32]) -> Vec<f32> {
        let mut out = vec![f32::NAN; atlas.lookup.len()];
        for (at, v) in atlas.texel.iter().zip(plane) {
            out[*at as usize] = *v;
        }
        for a in &self.across {
            out[a.at as usize] = a.value(plane);
        }
        out
    }
}

/// Two sides of a seam, the one that is looked from first.
pub type Cut = (Side, Side);

/// Both directions of every edge where two triangles meet in space but not in the square. Where more than two meet, none is "the other side".
pub fn cuts(piece: &Piece) -> Vec<Cut> {
    let apart = pairs(piece).into_iter().filter(|p| !p.together);
    apart.flat_map(|p| [(p.one, p.other), (p.other, p.one)]).collect()
}

/// Where the charts end, in space: cuts and open borders.
pub struct Borders(RTree<Line<[f32; 3]>>);

impl Borders {
    /// Of a piece.
    pub fn build(piece: &Piece, cuts: &[Cut]) -> Borders {
        let places = places(&piece.positions);
        let open = sides(&piece.triangles, &places);
        let open = meetings(&open).filter(|m| m.len() == 1).map(|m| (m[0].triangle, usize::from(m[0].k)));
        let all = cuts.iter().map(|c| c.0).chain(open);
        let line = |(t, k): Side| {
            let tri = piece.triangles[t as usize];
            Line::new(piece.positions[tri[k] as usize], piece.positions[tri[(k + 1) % 3] as usize])
        };
        Borders(RTree::bulk_load(all.map(line).collect()))
    }

    /// Distance in mm from a point to the nearest border; infinite where there is none.
    pub fn distance(&self, p: [f32; 3]) -> f32 {
        self.0.nearest_neighbor(&p).map_or(f32::INFINITY, |line| line.distance_2(&p).sqrt())
    }
}

/// A texel just beyond a border, and the place that lies there.
struct Carried {
    /// Index into the squares.
    at: u32,
    /// How far beyond the border it lies, in texels.
    beyond: f32,
    /// The triangle across the seam, and the place in its plane: in texels of its sheet.
    far: (u32, Vec2),
}

/// Carries the texels that an atlas holds, up to `padding` beyond a border and not `inner`, across a seam.
fn carry(
    piece: &Piece,
    atlas: &Atlas,
    (near, far): Cut,
    padding: f32,
    inner: impl Fn(u32) -> bool,
    mut put: impl FnMut(Carried),
) {
    let (size, rows, columns) = (atlas.size, atlas.held(), &atlas.columns);
    let sheet = u32::from(piece.sheet_of[near.0 as usize]) * size;
    let (space, flat) = (piece.corners(near.0), Flat::of(piece, near.0, size));
    let (far_space, far_flat) = (piece.corners(far.0), Flat::of(piece, far.0, size));
    let (a, b) = (flat.corners[near.1], flat.corners[(near.1 + 1) % 3]);
    let (low, high) = (a.min(b) - padding, a.max(b) + padding);
    let within = |v: f32| (v.max(0.0) as u32).min(size - 1);
    // Rows of the sheet.
    let first = rows.start.saturating_sub(sheet).max(within(low.y));
    let end = rows.end.saturating_sub(sheet).min(within(high.y) + 1);
    let (edge, length) = (b - a, (b - a).length());
    if length < 1e-6 || flat.is_line() || first >= end {
        return;
    }
    let outwards = {
        let side = edge.perp() / length;
        if side.dot(flat.corners[(near.1 + 2) % 3] - a) > 0.0 { -side } else { side }
    };
    let (start, stop) = (space[near.1], space[(near.1 + 1) % 3]);
    let along = (stop - start).normalize_or(Vec3::X);
    let apex = far_space[(far.1 + 2) % 3] - start;
    let inwards = (apex - along * along.dot(apex)).normalize_or(Vec3::Y);
    // Half a texel past the edge's ends still belongs to it, so that the corners between two edges don't stay empty.
    let slack = 0.5 / length;
    for y in first..end {
        for x in within(low.x).max(columns.start)..(within(high.x) + 1).min(columns.end) {
            let at = (sheet + y) * size + x;
            let p = Vec2::new(x as f32 + 0.5, y as f32 + 0.5);
            let (beyond, share) = ((p - a).dot(outwards), (p - a).dot(edge) / (length * length));
            if beyond < 0.0 || beyond > padding || share < -slack || share > 1.0 + slack || inner(at) {
                continue;
            }
            let w = flat.shares(p);
            let there = space[0] * w.x + space[1] * w.y + space[2] * w.z - start;
            let lengthwise = along.dot(there);
            let distance = (there - along * lengthwise).length();
            let target = start + along * lengthwise + inwards * distance;
            if let Some(shares) = barycentrics(target, far_space) {
                put(Carried { at, beyond, far: (far.0, far_flat.at(shares)) });
            }
        }
    }
}

/// What lies right beyond the borders of charts, in some rows of `base`'s piece that are laid out without the rest: index into the squares, and the place on the piece; in the order
/// of the squares. `padding` is how far beyond, in texels.
pub fn fringe(base: &Surface, atlas: &Atlas, padding: f32) -> Vec<(u32, Spot)> {
    let (piece, beside) = (&base.piece, base.beside());
    let mut best: BTreeMap<u32, Carried> = BTreeMap::new();
    for cut in base.cuts() {
        carry(
            piece,
            atlas,
            *cut,
            padding,
            |at| atlas.is_inner(at),
            |carried| {
                if best.get(&carried.at).is_none_or(|b| b.beyond > carried.beyond) {
                    best.insert(carried.at, carried);
                }
            },
        );
    }
    best.into_iter().map(|(at, c)| (at, beside.spot(piece, atlas.size, c.far.0, c.far.1))).collect()
}

/// The texels around a place in a triangle's plane, as far as they are covered.
fn gather(piece: &Piece, atlas: &Atlas, Carried { at, far, .. }: &Carried) -> Option<Across> {
    let uv = far.1 - 0.5;
    let (low, part) = (uv.floor(), uv - uv.floor());
    let size = atlas.size as i32;
    let (chart, sheet) = (piece.chart_of[far.0 as usize], u32::from(piece.sheet_of[far.0 as usize]));
    let mut out = Across { at: *at, from: [0; 4], weight: [0.0; 4] };
    let mut total = 0.0;
    for k in 0..4 {
        let (dx, dy) = (k & 1, k >> 1);
        let (x, y) = (low.x as i32 + dx, low.y as i32 + dy);
        if x < 0 || y < 0 || x >= size || y >= size {
            continue;
        }
        let j = atlas.lookup[(sheet * atlas.size * atlas.size) as usize + (y * size + x) as usize];
        if j == NONE || piece.chart_of[atlas.triangle[j as usize] as usize] != chart {
            continue;
        }
        let weight = (if dx == 1 { part.x } else { 1.0 - part.x }) * (if dy == 1 { part.y } else { 1.0 - part.y });
        (out.from[k as usize], out.weight[k as usize]) = (j, weight);
        total += weight;
    }
    if total < 1e-3 {
        return None;
    }
    out.weight.iter_mut().for_each(|w| *w /= total);
    Some(out)
}

//! The seam map: for each gutter and border texel of a chart, the place across the seam that lies there on the surface.
//!
//! Border edges of charts are matched by their endpoints in space. A gutter texel is carried into the plane of the triangle at the border by that
//! triangle's metric, its distance from the edge is laid off on the other side of the seam, and the values are mixed from the four texels around that place.
//! Steps that look beyond a chart's border read the gutter filled in this way, and so cross the seam. Open borders have nothing across them and stay empty.

use std::collections::HashMap;

use glam::{Vec2, Vec3};
use rstar::primitives::Line;
use rstar::{PointDistance, RTree};

use super::atlas::{Atlas, NONE};
use super::frame::barycentrics;
use crate::mesh::{Piece, meetings, places, sides};

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

/// The seam map of a surface at its size.
#[derive(Debug, Default, PartialEq)]
pub struct Seams {
    /// Gutter and border texels, in the order of the square.
    pub across: Vec<Across>,
}

/// A side of a seam: a triangle and which of its edges.
type Side = (u32, usize);

impl Seams {
    /// Finds what lies across every seam, up to `padding` texels beyond the charts' borders. The same on every machine.
    pub fn build(piece: &Piece, atlas: &Atlas, padding: u32) -> Seams {
        let mut best: HashMap<u32, (f32, Across)> = HashMap::new();
        for (near, far) in cuts(piece) {
            carry(piece, atlas, near, far, padding as f32, &mut best);
        }
        let mut across: Vec<Across> = best.into_values().map(|b| b.1).collect();
        across.sort_by_key(|a| a.at);
        Seams { across }
    }

    /// A plane as a square with its gutter and border texels filled from across the seams; NaN where nothing lies.
    pub fn square(&self, atlas: &Atlas, plane: &[f32]) -> Vec<f32> {
        let mut out = vec![f32::NAN; atlas.lookup.len()];
        for (at, v) in atlas.texel.iter().zip(plane) {
            out[*at as usize] = *v;
        }
        for a in &self.across {
            out[a.at as usize] = (0..4).map(|k| plane[a.from[k] as usize] * a.weight[k]).sum();
        }
        out
    }
}

/// Both directions of every edge where two triangles meet in space but not in the square. Where more than two meet, none is "the other side".
fn cuts(piece: &Piece) -> Vec<(Side, Side)> {
    let places = places(&piece.positions);
    let corner = |v: u32| (places[v as usize], piece.uvs[v as usize].map(f32::to_bits));
    let uvs = |t: u32, k: u8| {
        let tri = piece.triangles[t as usize];
        let mut both = [corner(tri[usize::from(k)]), corner(tri[(usize::from(k) + 1) % 3])];
        both.sort_unstable();
        (both, piece.sheet_of[t as usize])
    };
    let mut out = vec![];
    for meeting in meetings(&sides(&piece.triangles, &places)) {
        if let [a, b] = meeting
            && uvs(a.triangle, a.k) != uvs(b.triangle, b.k)
        {
            let (a, b) = ((a.triangle, usize::from(a.k)), (b.triangle, usize::from(b.k)));
            out.extend([(a, b), (b, a)]);
        }
    }
    out
}

/// Where the charts end, in space: cuts and open borders.
pub struct Borders(RTree<Line<[f32; 3]>>);

impl Borders {
    /// Of a piece.
    pub fn build(piece: &Piece) -> Borders {
        let places = places(&piece.positions);
        let open = sides(&piece.triangles, &places);
        let open = meetings(&open).filter(|m| m.len() == 1).map(|m| (m[0].triangle, usize::from(m[0].k)));
        let all = cuts(piece).into_iter().map(|c| c.0).chain(open);
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

/// A triangle's corners in space and in texels of its sheet.
fn laid(piece: &Piece, size: f32, t: u32) -> ([Vec3; 3], [Vec2; 3]) {
    (piece.corners(t), piece.triangles[t as usize].map(|v| Vec2::from(piece.uvs[v as usize]) * size))
}

/// Barycentrics of a point in a triangle's plane.
fn weights(p: Vec2, c: [Vec2; 3]) -> Vec3 {
    let double = (c[1] - c[0]).perp_dot(c[2] - c[0]);
    Vec3::new((c[1] - p).perp_dot(c[2] - p), (c[2] - p).perp_dot(c[0] - p), (c[0] - p).perp_dot(c[1] - p)) / double
}

fn carry(piece: &Piece, atlas: &Atlas, near: Side, far: Side, padding: f32, best: &mut HashMap<u32, (f32, Across)>) {
    let size = atlas.size as i32;
    let (space, flat) = laid(piece, size as f32, near.0);
    let (far_space, far_flat) = laid(piece, size as f32, far.0);
    let (a, b) = (flat[near.1], flat[(near.1 + 1) % 3]);
    let (edge, length) = (b - a, (b - a).length());
    let outwards = {
        let side = edge.perp() / length.max(1e-12);
        if side.dot(flat[(near.1 + 2) % 3] - a) > 0.0 { -side } else { side }
    };
    let (start, end) = (space[near.1], space[(near.1 + 1) % 3]);
    let along = (end - start).normalize_or(Vec3::X);
    let apex = far_space[(far.1 + 2) % 3] - start;
    let inwards = (apex - along * along.dot(apex)).normalize_or(Vec3::Y);
    if length < 1e-6 {
        return;
    }
    let (low, high) = (a.min(b) - padding, a.max(b) + padding);
    let sheet = u32::from(piece.sheet_of[near.0 as usize]) * atlas.size * atlas.size;
    // Border texels hold the value at the border itself; a filter wants what lies where they are.
    let inner = |at: u32| {
        let i = atlas.lookup[at as usize];
        i != NONE && atlas.area[i as usize] > 0.0
    };
    let within = |v: f32| (v.floor() as i32).clamp(0, size - 1);
    for y in within(low.y)..=within(high.y) {
        for x in within(low.x)..=within(high.x) {
            let at = sheet + (y * size + x) as u32;
            let p = Vec2::new(x as f32 + 0.5, y as f32 + 0.5);
            let (beyond, share) = ((p - a).dot(outwards), (p - a).dot(edge) / (length * length));
            // Half a texel past the edge's ends still belongs to it, so that the corners between two edges don't stay empty.
            let slack = 0.5 / length;
            if inner(at) || beyond < 0.0 || beyond > padding || share < -slack || share > 1.0 + slack {
                continue;
            }
            if best.get(&at).is_some_and(|b| b.0 <= beyond) {
                continue;
            }
            let w = weights(p, flat);
            let there = space[0] * w.x + space[1] * w.y + space[2] * w.z - start;
            let lengthwise = along.dot(there);
            let distance = (there - along * lengthwise).length();
            let target = start + along * lengthwise + inwards * distance;
            if let Some(across) = gather(piece, atlas, far, at, target, far_space, far_flat) {
                best.insert(at, (beyond, across));
            }
        }
    }
}

/// The texels around a point of the far triangle's plane, as far as they are covered.
fn gather(
    piece: &Piece,
    atlas: &Atlas,
    far: Side,
    at: u32,
    target: Vec3,
    space: [Vec3; 3],
    flat: [Vec2; 3],
) -> Option<Across> {
    let w = barycentrics(target, space)?;
    let uv = flat[0] * w.x + flat[1] * w.y + flat[2] * w.z - 0.5;
    let (low, part) = (uv.floor(), uv - uv.floor());
    let size = atlas.size as i32;
    let (chart, sheet) = (piece.chart_of[far.0 as usize], u32::from(piece.sheet_of[far.0 as usize]));
    let mut out = Across { at, from: [0; 4], weight: [0.0; 4] };
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

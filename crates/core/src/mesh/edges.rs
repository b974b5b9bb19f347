//! Which triangles meet at which edges in space, however their corners are indexed.

use super::Piece;
use foldhash::{HashMap, HashMapExt};
use rayon::prelude::*;

/// One side of an edge: a triangle, and which of its edges: from corner `k` to the next.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct Side {
    /// The edge: the two places, the lower number in the upper half.
    edge: u64,
    /// The triangle.
    pub triangle: u32,
    /// 0, 1 or 2.
    pub k: u8,
    /// Whether the triangle runs from the lower place to the higher.
    pub forward: bool,
}

/// The bits of a position; −0 and 0 are one place.
pub fn place(p: [f32; 3]) -> [u32; 3] {
    p.map(|v| (v + 0.0).to_bits())
}

/// A number for each position; equal positions have the same.
pub fn places(positions: &[[f32; 3]]) -> Vec<u32> {
    let mut first: HashMap<[u32; 3], u32> = HashMap::with_capacity(positions.len());
    positions.iter().enumerate().map(|(i, p)| *first.entry(place(*p)).or_insert(i as u32)).collect()
}

/// All sides of all edges, those of one edge together; see [`meetings`]. Edges between equal places are left out.
pub fn sides(triangles: &[[u32; 3]], places: &[u32]) -> Vec<Side> {
    let sides = |(t, tri): (usize, &[u32; 3])| {
        let corners = tri.map(|v| places[v as usize]);
        let side = move |k: u8| {
            let (a, b) = (corners[usize::from(k)], corners[(usize::from(k) + 1) % 3]);
            let edge = u64::from(a.min(b)) << 32 | u64::from(a.max(b));
            (a != b).then_some(Side { edge, triangle: t as u32, k, forward: a < b })
        };
        (0..3).filter_map(side)
    };
    let mut out: Vec<Side> = triangles.par_iter().enumerate().flat_map_iter(sides).collect();
    // No two are equal, so that the order is one, whoever sorts.
    out.par_sort_unstable();
    out
}

/// The sides, edge by edge.
pub fn meetings(sides: &[Side]) -> impl Iterator<Item = &[Side]> {
    sides.chunk_by(|a, b| a.edge == b.edge)
}

/// Two sides that meet in space, where no others do.
#[derive(Debug, Clone, Copy)]
pub struct Pair {
    /// The one: a triangle, and which of its edges.
    pub one: (u32, usize),
    /// The other.
    pub other: (u32, usize),
    /// Whether they lie together in the sheet too: then no seam runs between them.
    pub together: bool,
}

/// All pairs of sides of a piece; where more than two meet, none is the other side.
pub fn pairs(piece: &Piece) -> Vec<Pair> {
    let places = places(&piece.positions);
    let corner = |v: u32| (places[v as usize], piece.uvs[v as usize].map(f32::to_bits));
    let lies = |t: u32, k: usize| {
        let tri = piece.triangles[t as usize];
        let mut both = [corner(tri[k]), corner(tri[(k + 1) % 3])];
        both.sort_unstable();
        (both, piece.sheet_of[t as usize])
    };
    let all = sides(&piece.triangles, &places);
    let pair = |meeting: &[Side]| {
        let [a, b] = meeting else { return None };
        let (one, other) = ((a.triangle, usize::from(a.k)), (b.triangle, usize::from(b.k)));
        Some(Pair { one, other, together: lies(one.0, one.1) == lies(other.0, other.1) })
    };
    all.par_chunk_by(|a, b| a.edge == b.edge).filter_map(pair).collect()
}

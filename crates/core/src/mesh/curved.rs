//! Curved faces: what a coarse mesh with smooth normals is meant to be, cut into little flat faces for rays.
//!
//! Each triangle becomes a cubic patch through its corners, square to their normals there (PN triangles: Vlachos, Peters, Boyd & Mitchell 2001), cut so finely
//! that none turns by more than [`STEPS`] at once. Edges belong to both faces beside them: where those have one normal at an end the edge leaves it as a PN
//! triangle's does, where they have two it leaves along the crease between them, so that a hard rim is round along itself and stays hard, a straight one stays
//! straight, and what was closed stays closed. A corner whose normal leans away from its face by more than [`LEAN`] says nothing of a round surface: a box that
//! is shaded smooth stays a box.

use glam::Vec3;

use super::Piece;
use super::edges::{self, Side};

/// The most by which a surface turns from one little face to the next, in degrees: the first of them that makes few enough faces.
const STEPS: [f32; 8] = [1.0, 1.5, 2.0, 3.0, 4.5, 7.0, 11.0, 16.0];
/// The most little faces.
pub const MOST: usize = 600_000;
/// The most pieces that an edge is cut into.
const CUTS: usize = 32;
/// Cosine of the angle up to which a corner's normal is taken for that of a round surface through its face: 50°.
const LEAN: f32 = 0.642_8;
/// Cosine of the angle up to which the normals of two faces at a corner are one: 1°.
const ONE: f32 = 0.999_85;
/// An edge that turns by less, in degrees, is straight.
const STRAIGHT: f32 = 0.25;
/// An edge that turns by more, in degrees, can be seen to be one of a few.
const COARSE: f32 = 5.0;
/// Share of the surface that coarse round faces must have for a piece to be taken as round.
const SHARE: f64 = 0.05;

/// A piece of more triangles is not made of few, whatever its normals say.
const MANY: usize = 200_000;

/// The little faces of a piece.
#[derive(Debug, Clone, PartialEq)]
pub struct Curved {
    /// The corners of each, those of one triangle together: row by row from its first edge, along the row from its first corner.
    pub faces: Vec<[Vec3; 3]>,
    /// Where those of each triangle begin, and the end.
    first: Vec<u32>,
    /// Into how many pieces the edges of each triangle are cut.
    cuts: Vec<u8>,
}

/// An edge as the two faces beside it have it, from one of its ends.
#[derive(Debug, Clone, Copy)]
struct Edge {
    /// Bézier points: its ends and the two between.
    points: [Vec3; 4],
    /// By how much it, or the surface along it, turns in all, in degrees.
    turn: f32,
}

impl Edge {
    fn reversed(self) -> Edge {
        let [a, b, c, d] = self.points;
        Edge { points: [d, c, b, a], ..self }
    }

    fn pieces(&self, step: f32) -> usize {
        if self.turn < STRAIGHT { 1 } else { ((self.turn / step).ceil() as usize).clamp(1, CUTS) }
    }

    fn at(&self, t: f32) -> Vec3 {
        let [a, b, c, d] = self.points;
        let s = 1.0 - t;
        a * (s * s * s) + b * (3.0 * s * s * t) + c * (3.0 * s * t * t) + d * (t * t * t)
    }

    /// The `i`-th of `of` points along it when it is cut into `pieces`: where that is fewer they lie on those.
    fn cut(&self, i: usize, of: usize, pieces: usize) -> Vec3 {
        let (whole, rest) = (i * pieces / of, i * pieces % of);
        let (here, next) = (whole as f32 / pieces as f32, (whole + 1) as f32 / pieces as f32);
        if rest == 0 { self.at(here) } else { self.at(here).lerp(self.at(next), rest as f32 / of as f32) }
    }
}

/// The patch of a triangle.
struct Patch {
    corners: [Vec3; 3],
    /// From each corner to the next.
    edges: [Edge; 3],
    middle: Vec3,
    /// Whether each edge is numbered from its triangle's own corner; the other side goes over the same points then, to the bit.
    forward: [bool; 3],
}

impl Patch {
    fn new(corners: [Vec3; 3], edges: [Edge; 3], forward: [bool; 3]) -> Self {
        let between: Vec3 = edges.iter().map(|e| e.points[1] + e.points[2]).sum::<Vec3>() / 6.0;
        let middle = between + (between - corners.iter().sum::<Vec3>() / 3.0) * 0.5;
        Self { corners, edges, middle, forward }
    }

    fn at(&self, [a, b, c]: [f32; 3]) -> Vec3 {
        let [ab, bc, ca] = self.edges.map(|e| e.points);
        self.corners[0] * (a * a * a)
            + self.corners[1] * (b * b * b)
            + self.corners[2] * (c * c * c)
            + (ab[1] * (a * a * b) + ab[2] * (a * b * b) + bc[1] * (b * b * c) + bc[2] * (b * c * c)) * 3.0
            + (ca[1] * (c * c * a) + ca[2] * (c * a * a)) * 3.0
            + self.middle * (6.0 * a * b * c)
    }

    /// A point of its grid: `i` of `n` towards the second corner, `j` towards the third.
    fn grid(&self, i: usize, j: usize, n: usize, step: f32) -> Vec3 {
        let along = |k: usize, from: usize| {
            let (edge, at) = if self.forward[k] { (self.edges[k], from) } else { (self.edges[k].reversed(), n - from) };
            edge.cut(at, n, edge.pieces(step))
        };
        match (i, j, n - i - j) {
            (0, 0, _) => self.corners[0],
            (_, 0, 0) => self.corners[1],
            (0, _, 0) => self.corners[2],
            (i, 0, _) => along(0, i),
            (_, j, 0) => along(1, j),
            (0, j, _) => along(2, n - j),
            (i, j, rest) => self.at([rest, i, j].map(|k| k as f32 / n as f32)),
        }
    }
}

impl Curved {
    /// The little faces of a piece; none where no edge turns, so that it is what its triangles are.
    pub fn of(piece: &Piece) -> Option<Curved> {
        let edges = curved_edges(piece, &edges::sides(&piece.triangles, &edges::places(&piece.positions)));
        let pieces = |t: usize, step: f32| edges[t].0.iter().map(|e| e.pieces(step)).max().unwrap_or(1);
        let count = |step: f32| (0..edges.len()).map(|t| pieces(t, step).pow(2)).sum::<usize>();
        let step = STEPS.into_iter().find(|s| count(*s) <= MOST.max(2 * edges.len()))?;
        if count(step) == edges.len() {
            return None;
        }
        let mut out = Curved { faces: Vec::with_capacity(count(step)), first: vec![0], cuts: vec![] };
        for (t, (around, forward)) in edges.iter().enumerate() {
            let n = pieces(t, step);
            let patch = Patch::new(piece.corners(t as u32), *around, *forward);
            let point = |i: usize, j: usize| patch.grid(i, j, n, step);
            for j in 0..n {
                for i in 0..n - j {
                    out.faces.push([point(i, j), point(i + 1, j), point(i, j + 1)]);
                    if i + j + 1 < n {
                        out.faces.push([point(i + 1, j + 1), point(i, j + 1), point(i + 1, j)]);
                    }
                }
            }
            out.cuts.push(n as u8);
            out.first.push(out.faces.len() as u32);
        }
        Some(out)
    }

    /// The little face over a spot of a triangle, given by its barycentrics, and the spot on it.
    pub fn spot(&self, triangle: u32, weights: Vec3) -> ([Vec3; 3], Vec3) {
        let t = triangle as usize;
        let n = usize::from(self.cuts[t]);
        let most = (n as f32).next_down();
        let (x, y) = ((weights.y * n as f32).clamp(0.0, most), (weights.z * n as f32).clamp(0.0, most));
        let j = y as usize;
        let i = (x as usize).min(n - 1 - j);
        let (right, up) = ((x - i as f32).min(1.0), y - j as f32);
        let turned = right + up > 1.0 && i + j + 1 < n;
        let face = self.faces[self.first[t] as usize + j * (2 * n - j) + 2 * i + usize::from(turned)];
        let (u, v) = if turned { (1.0 - right, 1.0 - up) } else { (right, up) };
        let over = (u + v).max(1.0);
        let [a, b, c] = face;
        (face, a + (b - a) * (u / over) + (c - a) * (v / over))
    }

    /// What each little face has of something that each triangle has.
    pub fn spread<T: Copy>(&self, of: &[T]) -> Vec<T> {
        let many = |t: usize| std::iter::repeat_n(of[t], (self.first[t + 1] - self.first[t]) as usize);
        (0..of.len()).flat_map(many).collect()
    }
}

/// Whether a piece's normals say that coarse faces of it are round: so is then what its makers meant.
pub(super) fn is_coarse(piece: &Piece, sides: &[Side]) -> bool {
    if piece.triangles.len() > MANY {
        return false;
    }
    let (mut coarse, mut all) = (0.0, 0.0);
    for (t, (around, _)) in curved_edges(piece, sides).iter().enumerate() {
        let [a, b, c] = piece.corners(t as u32);
        let area = f64::from((b - a).cross(c - a).length());
        all += area;
        coarse += if around.iter().any(|e| e.turn > COARSE) { area } else { 0.0 };
    }
    coarse > SHARE * all
}

/// The three edges of each triangle from corner to corner, and whether each is numbered from its first.
fn curved_edges(piece: &Piece, sides: &[Side]) -> Vec<([Edge; 3], [bool; 3])> {
    let straight = |a: Vec3, b: Vec3| Edge { points: [a, a.lerp(b, 1.0 / 3.0), b.lerp(a, 1.0 / 3.0), b], turn: 0.0 };
    let mut out: Vec<_> = (0..piece.triangles.len() as u32)
        .map(|t| {
            let [a, b, c] = piece.corners(t);
            ([straight(a, b), straight(b, c), straight(c, a)], [true; 3])
        })
        .collect();
    for meeting in edges::meetings(sides) {
        let curved = match meeting {
            [one] => curve(piece, one, one),
            [one, other] => curve(piece, one, other),
            // Where more than two meet there is no saying which way it turns.
            _ => continue,
        };
        for side in meeting {
            let (around, forward) = &mut out[side.triangle as usize];
            around[usize::from(side.k)] = if side.forward { curved } else { curved.reversed() };
            forward[usize::from(side.k)] = side.forward;
        }
    }
    out
}

/// The edge between two sides, from its lower place to its higher.
fn curve(piece: &Piece, one: &Side, other: &Side) -> Edge {
    let end = |side: &Side, high: bool| {
        let k = if side.forward == high { (usize::from(side.k) + 1) % 3 } else { usize::from(side.k) };
        let v = piece.triangles[side.triangle as usize][k] as usize;
        let (n, flat) = (Vec3::from(piece.normals[v]), piece.face_normal(side.triangle));
        (Vec3::from(piece.positions[v]), if n.dot(flat) < LEAN { flat } else { n })
    };
    let ((a, na), (b, nb)) = (end(one, false), end(one, true));
    let (ma, mb) = (end(other, false).1, end(other, true).1);
    let (ca, cb) = (leave(a, b, na, ma), leave(b, a, nb, mb));
    // One that runs aslant over a round surface hardly bends, and yet lies on it only if it is cut as often as that turns.
    let turn = (angle(ca - a, b - a) + angle(cb - b, a - b)).max(angle(na, nb)).max(angle(ma, mb));
    Edge { points: [a, ca, cb, b], turn }
}

/// The Bézier point beside an edge's end, where the faces beside it have those normals.
fn leave(from: Vec3, to: Vec3, one: Vec3, other: Vec3) -> Vec3 {
    let way = to - from;
    let third = way / 3.0;
    let point = if one.dot(other) > ONE {
        third - one * third.dot(one)
    } else {
        let Some(crease) = one.cross(other).try_normalize() else { return from + third };
        crease * third.dot(crease)
    };
    // Normals that send an edge off sideways say nothing of how it runs.
    if point.dot(way) < LEAN * point.length() * way.length() { from + third } else { from + point }
}

fn angle(a: Vec3, b: Vec3) -> f32 {
    libm::atan2f(a.cross(b).length(), a.dot(b)).to_degrees()
}

//! Fills: strokes that cover all of the shell or of the part that they lie on, or go on from there up to the sharp edges around it.

use glam::Vec3;
use rayon::prelude::*;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

use super::Point;
use crate::bake::Atlas;
use crate::mesh::Piece;
use crate::mesh::pairs;

/// What a stroke covers.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Covers {
    /// What the brush goes over.
    #[default]
    Way,
    /// The shell that it begins on.
    Shell,
    /// The part that it begins on.
    Part,
    /// What it begins on, as far as sharp edges.
    Edges,
}

impl Covers {
    /// Whether it is what one begins with.
    pub fn is_way(&self) -> bool {
        *self == Covers::Way
    }
}

/// How far off the place where a fill begins the surface may lie, in mm.
pub const REACH: f32 = 10.0;

/// Which texels of a piece a fill covers.
pub enum Fill {
    Shell(u32),
    Part(u16),
    /// For each triangle.
    Triangles(Vec<bool>),
}

impl Fill {
    /// A fill that begins at a point and stops at edges whose faces are turned more than `crease` degrees; none where no surface is within [`REACH`].
    pub fn new(piece: &Piece, covers: Covers, crease: f64, from: &Point) -> Option<Fill> {
        let near = Near::of(piece, from.at, from.normal).filter(|n| n.far <= REACH)?;
        Some(match covers {
            Covers::Way | Covers::Shell => Fill::Shell(piece.shell_of[near.triangle as usize]),
            Covers::Part => Fill::Part(piece.part_at(near.triangle, near.weights)),
            Covers::Edges => Fill::Triangles(up_to_edges(piece, near.triangle, crease)),
        })
    }

    /// Whether a covered texel is part of it.
    pub fn covers(&self, piece: &Piece, atlas: &Atlas, texel: usize) -> bool {
        self.takes(piece, atlas.triangle[texel], atlas.part[texel])
    }

    /// Whether a place is part of it that lies on a triangle and on a part.
    pub fn takes(&self, piece: &Piece, triangle: u32, part: u16) -> bool {
        match self {
            Fill::Shell(shell) => piece.shell_of[triangle as usize] == *shell,
            Fill::Part(wanted) => part == *wanted,
            Fill::Triangles(all) => all[triangle as usize],
        }
    }
}

/// What of a piece is nearest to a place.
pub struct Near {
    pub triangle: u32,
    /// Shares of its corners.
    pub weights: Vec3,
    /// In mm.
    pub far: f32,
}

impl Near {
    /// The nearest triangle that faces the way of a normal; whichever is nearest if none does. None on a piece without triangles.
    pub fn of(piece: &Piece, at: Vec3, normal: Vec3) -> Option<Near> {
        let found = |t: u32| {
            let corners = corners(piece, t);
            let weights = nearest(at, corners);
            let far = (corners[0] * weights.x + corners[1] * weights.y + corners[2] * weights.z).distance(at);
            (face(corners).dot(normal) < 0.1, far, t, weights)
        };
        let before = |a: &(bool, f32, u32, Vec3), b: &(bool, f32, u32, Vec3)| {
            a.0.cmp(&b.0).then(a.1.total_cmp(&b.1)).then(a.2.cmp(&b.2))
        };
        let best = (0..piece.triangles.len() as u32).into_par_iter().map(found).min_by(before)?;
        Some(Near { triangle: best.2, weights: best.3, far: best.1 })
    }
}

fn corners(piece: &Piece, triangle: u32) -> [Vec3; 3] {
    piece.triangles[triangle as usize].map(|v| piece.positions[v as usize].into())
}

/// A triangle's own normal; nothing for one without area.
fn face([a, b, c]: [Vec3; 3]) -> Vec3 {
    (b - a).cross(c - a).normalize_or_zero()
}

/// The triangles that hang together with one over edges that are turned no more than `crease` degrees. Seams of the UVs are no edges.
fn up_to_edges(piece: &Piece, from: u32, crease: f64) -> Vec<bool> {
    let least = libm::cos(crease.to_radians()) as f32 - 1e-5;
    // Triangles without area say nothing of how they lie, and are gone over.
    let bends = |a: u32, b: u32| {
        let [a, b] = [a, b].map(|t| face(corners(piece, t)));
        a != Vec3::ZERO && b != Vec3::ZERO && a.dot(b) < least
    };
    let mut beside: Vec<[u32; 3]> = vec![[u32::MAX; 3]; piece.triangles.len()];
    for pair in pairs(piece) {
        let ((a, i), (b, j)) = (pair.one, pair.other);
        if !bends(a, b) {
            beside[a as usize][i] = b;
            beside[b as usize][j] = a;
        }
    }
    let mut taken = vec![false; beside.len()];
    let mut open = vec![from];
    while let Some(t) = open.pop() {
        if !std::mem::replace(&mut taken[t as usize], true) {
            open.extend(beside[t as usize].iter().filter(|n| **n != u32::MAX && !taken[**n as usize]));
        }
    }
    taken
}

/// The shares of the corners in the place of a triangle that lies nearest to `p` (Ericson, Real-Time Collision Detection, 2005, 5.1.5).
fn nearest(p: Vec3, [a, b, c]: [Vec3; 3]) -> Vec3 {
    let (ab, ac) = (b - a, c - a);
    let (d1, d2) = (ab.dot(p - a), ac.dot(p - a));
    if d1 <= 0.0 && d2 <= 0.0 {
        return Vec3::X;
    }
    let (d3, d4) = (ab.dot(p - b), ac.dot(p - b));
    if d3 >= 0.0 && d4 <= d3 {
        return Vec3::Y;
    }
    let (d5, d6) = (ab.dot(p - c), ac.dot(p - c));
    if d6 >= 0.0 && d5 <= d6 {
        return Vec3::Z;
    }
    let vc = d1 * d4 - d3 * d2;
    if vc <= 0.0 && d1 >= 0.0 && d3 <= 0.0 {
        let v = d1 / (d1 - d3);
        return Vec3::new(1.0 - v, v, 0.0);
    }
    let vb = d5 * d2 - d1 * d6;
    if vb <= 0.0 && d2 >= 0.0 && d6 <= 0.0 {
        let w = d2 / (d2 - d6);
        return Vec3::new(1.0 - w, 0.0, w);
    }
    let va = d3 * d6 - d5 * d4;
    if va <= 0.0 && d4 - d3 >= 0.0 && d5 - d6 >= 0.0 {
        let w = (d4 - d3) / ((d4 - d3) + (d5 - d6));
        return Vec3::new(0.0, 1.0 - w, w);
    }
    let sum = va + vb + vc;
    if sum > 0.0 { Vec3::new(va, vb, vc) / sum } else { Vec3::X }
}

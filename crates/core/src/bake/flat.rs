//! A triangle as it lies in its sheet.

use std::ops::Range;

use glam::{Vec2, Vec3};

use crate::mesh::Piece;

/// Below this, in square texels, a triangle is a line in its sheet.
const LINE: f32 = 1e-12;

/// A triangle's corners, in texels.
pub(super) struct Flat {
    /// The corners.
    pub corners: [Vec2; 3],
    /// Twice its area, below 0 where it is mirrored.
    double: f32,
}

impl Flat {
    /// Of a triangle where its sheet has `size` texels a side.
    pub fn of(piece: &Piece, triangle: u32, size: u32) -> Self {
        let corners = piece.triangles[triangle as usize].map(|v| Vec2::from(piece.uvs[v as usize]) * size as f32);
        Self { corners, double: (corners[1] - corners[0]).perp_dot(corners[2] - corners[0]) }
    }

    /// Whether no point lies within it.
    pub fn is_line(&self) -> bool {
        self.double.abs() < LINE
    }

    /// The columns and rows, of those given, of the texels that lie within `border` of its box.
    pub fn reach(&self, border: f32, columns: &Range<u32>, rows: &Range<u32>) -> (Range<u32>, Range<u32>) {
        let c = &self.corners;
        let (low, high) = (c[0].min(c[1]).min(c[2]) - border, c[0].max(c[1]).max(c[2]) + border);
        let along = |low: f32, high: f32, of: &Range<u32>| {
            (low.max(0.0) as u32).max(of.start)..(high.max(0.0) as u32).saturating_add(1).min(of.end)
        };
        (along(low.x, high.x, columns), along(low.y, high.y, rows))
    }

    /// The shares of its corners in a point, which add up to 1: all of them at least 0 within it.
    #[inline]
    pub fn shares(&self, p: Vec2) -> Vec3 {
        let c = &self.corners;
        let opposite = |a: usize, b: usize| (c[a] - p).perp_dot(c[b] - p) / self.double;
        Vec3::new(opposite(1, 2), opposite(2, 0), opposite(0, 1))
    }

    /// The point of such shares.
    pub fn at(&self, shares: Vec3) -> Vec2 {
        self.corners[0] * shares.x + self.corners[1] * shares.y + self.corners[2] * shares.z
    }

    /// The point of its outline nearest to `p`: the shares of its corners, and the distance.
    pub fn nearest(&self, p: Vec2) -> (Vec3, f32) {
        let mut best = (Vec3::X, f32::MAX);
        for i in 0..3 {
            let (a, b) = (self.corners[i], self.corners[(i + 1) % 3]);
            let along = b - a;
            let t = ((p - a).dot(along) / along.length_squared().max(1e-20)).clamp(0.0, 1.0);
            let distance = (a + along * t).distance(p);
            if distance < best.1 {
                let mut shares = [0.0; 3];
                shares[i] = 1.0 - t;
                shares[(i + 1) % 3] = t;
                best = (Vec3::from(shares), distance);
            }
        }
        best
    }
}

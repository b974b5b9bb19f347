//! Sections that a profile is swept around: closed outlines whose size grows with the profile's radius.

use std::f32::consts::TAU;

use glam::Vec2;

/// An outline in the plane, counter-clockwise seen from above.
#[derive(Debug, Clone, Copy)]
pub enum Section {
    /// A circle of that many sides.
    Circle(u32),
    /// A hexagon whose corners are broken; the radius is half its width across flats.
    Hex,
    /// A rectangle of half sizes with rounded corners; the radius is added all round, so negative radii inset it.
    Rect {
        /// Half sizes.
        half: Vec2,
        /// Radius of the corners.
        corner: f32,
    },
}

impl Section {
    /// Number of points.
    pub fn points(&self) -> usize {
        match self {
            Section::Circle(n) => *n as usize,
            Section::Hex => 30,
            Section::Rect { .. } => 48,
        }
    }

    /// Point `i` at radius `r`, as (x, z).
    pub fn point(&self, i: usize, r: f32) -> Vec2 {
        let turn = |t: f32| Vec2::new(libm::cosf(t * TAU), libm::sinf(t * TAU));
        match self {
            Section::Circle(n) => turn(i as f32 / *n as f32) * r,
            Section::Hex => {
                // Four points round off each corner, one stands in the middle of each flat.
                let (side, k) = (i / 5, i % 5);
                let middle = side as f32 / 6.0;
                let across = [0.0, 0.42, 0.485, 0.515, 0.58][k];
                let angle = (across - if k > 2 { 1.0 } else { 0.0 }) * TAU / 6.0;
                let flat = r / libm::cosf(angle);
                let t = middle + across / 6.0;
                turn(t) * flat.min(r * 1.11)
            }
            Section::Rect { half, corner } => {
                let (quarter, k) = (i / 12, i % 12);
                let sign = [Vec2::new(1.0, 1.0), Vec2::new(-1.0, 1.0), Vec2::new(-1.0, -1.0), Vec2::new(1.0, -1.0)];
                // Corners keep a hair of a radius until the offset has eaten the rectangle up.
                let c = (corner + r).max(0.02).min((*half + r).min_element().max(0.0));
                let centre = sign[quarter] * (*half + r - c);
                let arc = (k.min(9)) as f32 / 9.0;
                let on_arc = centre + turn((quarter as f32 + arc) / 4.0) * c;
                if k <= 9 {
                    return on_arc;
                }
                // Two more points divide the straight side that follows.
                let next = self.point((quarter * 12 + 12) % 48, r);
                let last = centre + turn((quarter as f32 + 1.0) / 4.0) * c;
                last.lerp(next, (k - 9) as f32 / 3.0)
            }
        }
    }
}

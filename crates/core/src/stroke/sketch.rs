//! A stroke in small, as a line of a picture: as it is seen from where most of it faces.

use glam::Vec3;

use super::{Point, Stroke};

/// As many points of a line as are drawn.
const MOST: usize = 80;

/// A line of a picture in mm, x to the right and y down.
#[derive(Debug, Clone, PartialEq)]
pub struct Sketch {
    /// From point to point.
    pub line: Vec<[f32; 2]>,
    /// Least x and y, width and height of all that it covers.
    pub bounds: [f32; 4],
}

impl Sketch {
    /// Of a stroke's way; none when its points are not at hand.
    pub fn of(stroke: &Stroke) -> Option<Sketch> {
        let way = stroke.way()?;
        let [right, up] = seen_from(&way);
        let step = way.len().div_ceil(MOST);
        let last = way.len() - 1;
        let kept = way.iter().enumerate().filter(|(i, _)| i % step == 0 || *i == last);
        let line: Vec<[f32; 2]> = kept.map(|(_, p)| [p.at.dot(right), -p.at.dot(up)]).collect();
        let radius = stroke.radius as f32;
        let end = |axis: usize, sign: f32| line.iter().map(|p| p[axis] * sign).fold(f32::NEG_INFINITY, f32::max);
        let low = [0, 1].map(|axis| -end(axis, -1.0) - radius);
        let high = [0, 1].map(|axis| end(axis, 1.0) + radius);
        Some(Sketch { line, bounds: [low[0], low[1], high[0] - low[0], high[1] - low[1]] })
    }
}

/// Right and up of a picture that looks at a way as most of it faces, upright where it can be.
fn seen_from(way: &[Point]) -> [Vec3; 2] {
    let normal = way.iter().map(|p| p.normal).sum::<Vec3>().normalize_or(way[0].normal);
    let upright = if normal.y.abs() < 0.9 { Vec3::Y } else { Vec3::NEG_Z };
    let up = upright.reject_from(normal).normalize_or(normal.any_orthonormal_vector());
    [up.cross(normal), up]
}

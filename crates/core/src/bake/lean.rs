//! How a texel's normal leans when the height changes around it.

use glam::{Vec2, Vec3};
use rayon::prelude::*;

use super::Surface;
use super::atlas::metric;
use super::frame::frame;

/// In the texel's frame, tangent and bitangent: what a millimetre's change of height per texel to the right, and down, adds to the slope there.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Lean {
    right: Vec2,
    down: Vec2,
}

impl Lean {
    /// Of all covered texels.
    pub(super) fn of_all(surface: &Surface) -> Vec<Lean> {
        (0..surface.atlas.len()).into_par_iter().with_min_len(1024).map(|i| Self::of(surface, i)).collect()
    }

    fn of(surface: &Surface, i: usize) -> Lean {
        let atlas = &surface.atlas;
        let (du, dv) = metric(&surface.piece, atlas.triangle[i], atlas.size);
        let n = Vec3::new(atlas.nx[i], atlas.ny[i], atlas.nz[i]);
        let det = n.dot(du.cross(dv));
        if det.abs() < 1e-12 {
            return Lean::default();
        }
        let (t, b) = frame(surface, i);
        let (right, down) = (dv.cross(n) / det, n.cross(du) / det);
        Lean { right: Vec2::new(t.dot(right), b.dot(right)), down: Vec2::new(t.dot(down), b.dot(down)) }
    }

    /// The unit normal, x along the tangent, y up the texture, where height changes by so many millimetres per texel to the right and down.
    #[inline]
    pub fn normal(&self, right: f32, down: f32) -> [f32; 3] {
        let slope = self.right * right + self.down * down;
        Vec3::new(-slope.x, -slope.y, 1.0).normalize().to_array()
    }
}

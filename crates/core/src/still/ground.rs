//! What a piece stands on: a matt grey disc below its lowest point, which fades out with the distance.

use glam::Vec3;
use rayon::prelude::*;

use super::material::Material;
use crate::bake::Surface;
use crate::bake::bvh::{Packet, WIDTH};
use crate::bake::rays::{Directions, cosine_hemisphere};
use crate::mesh::Piece;

/// The disc.
#[derive(Debug, Clone, Copy)]
pub struct Ground {
    /// Its middle.
    pub middle: Vec3,
    /// Where it begins to fade, and where it is gone, in mm from the middle.
    pub fades: [f32; 2],
}

/// Linear grey.
pub const GREY: f32 = 0.14;
/// Where it fades, in radii of the piece seen from above.
const FADES: [f32; 2] = [1.3, 3.2];
/// Texels along each side of the picture of what the piece keeps from it.
pub const SHADE: u32 = 128;

impl Ground {
    /// Under a piece.
    pub fn of(piece: &Piece) -> Self {
        let points = || piece.positions.iter().map(|p| Vec3::from(*p));
        let (low, high) = points().fold((Vec3::MAX, Vec3::MIN), |(l, h), p| (l.min(p), h.max(p)));
        if low.x > high.x {
            return Self { middle: Vec3::ZERO, fades: FADES };
        }
        let middle = ((low + high) * 0.5).with_y(low.y);
        let radius = points().map(|p| (p - middle).with_y(0.0).length()).fold(1e-3, f32::max);
        // Something tall casts far.
        let radius = radius.max((high.y - low.y) * 0.4);
        Self { middle, fades: FADES.map(|f| f * radius) }
    }

    /// How far along a ray it is met, from above.
    pub fn met(&self, origin: Vec3, towards: Vec3) -> Option<f32> {
        let t = (self.middle.y - origin.y) / towards.y;
        (towards.y < 0.0 && t > 1e-4 && self.cover(origin + towards * t) > 0.0).then_some(t)
    }

    /// How much of it is there: 1 in the middle, 0 where it has faded.
    pub fn cover(&self, at: Vec3) -> f32 {
        let [from, to] = self.fades;
        let t = 1.0 - ((at - self.middle).with_y(0.0).length() - from) / (to - from);
        let t = t.clamp(0.0, 1.0);
        t * t * (3.0 - 2.0 * t)
    }

    /// The share of light from a direction that it doesn't keep off.
    pub fn lets_past(&self, origin: Vec3, towards: Vec3) -> f32 {
        self.met(origin, towards).map_or(1.0, |t| 1.0 - self.cover(origin + towards * t))
    }

    /// What it is made of at a place.
    pub fn material(&self, at: Vec3) -> Material {
        Material {
            base: Vec3::splat(GREY),
            roughness: 1.0,
            specular: 0.0,
            opacity: self.cover(at),
            ..Material::default()
        }
    }

    /// How open the disc is to the sky beside the piece, 0…1 per texel of a square around it, row by row from the far side (−z): for views that trace no light.
    pub fn open(&self, surface: &Surface) -> Vec<f32> {
        let side = self.fades[1] * 2.0;
        let plan = Directions::new(64);
        let one = |i: u32| {
            let (x, z) = (i % SHADE, i / SHADE);
            let at = |k: u32| ((k as f32 + 0.5) / SHADE as f32 - 0.5) * side;
            let origin = self.middle + Vec3::new(at(x), side * 1e-4, at(z));
            let mut square = vec![];
            plan.square(i, 3, &mut square);
            let mut open = 0.0;
            for eight in square.chunks(WIDTH) {
                let mut packet = Packet::default();
                for (lane, p) in eight.iter().enumerate() {
                    let d = cosine_hemisphere(*p);
                    packet.set(lane, origin.to_array(), [d.x, d.z, d.y], 0.0, f32::MAX);
                }
                let stopped = surface.bvh().occluded(&mut packet);
                open += stopped.iter().take(eight.len()).filter(|s| !**s).count() as f32;
            }
            open / square.len() as f32
        };
        (0..SHADE * SHADE).into_par_iter().with_min_len(SHADE as usize).map(one).collect()
    }
}

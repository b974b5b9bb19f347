//! What the samples of a pixel have brought so far.

use glam::Vec3;

use super::denoise::{Guide, light_of};
use crate::bake::bvh::WIDTH;

/// Sums over samples, of which as many are added in a round as a packet has lanes.
#[derive(Debug, Clone, Default)]
pub struct Sums {
    light: Vec3,
    covered: f32,
    guide: Guide,
    /// Of the light without the colour it fell on, and of its square.
    lit: [f32; 2],
}

impl Sums {
    /// One more sample: its light, whether something was met, and what was seen first: colour, normal and distance.
    pub fn add(&mut self, light: Vec3, covered: bool, first: Option<(Vec3, Vec3, f32)>) {
        self.light += light;
        self.covered += f32::from(u8::from(covered));
        // Of the light alone: that colours differ within the pixel is no noise.
        let lit = light_of(light, first.map_or(Vec3::ZERO, |f| f.0));
        self.lit = [self.lit[0] + lit, self.lit[1] + lit * lit];
        if let Some((color, normal, distance)) = first {
            self.guide.color += color;
            self.guide.normal += normal;
            self.guide.distance += distance;
            self.guide.seen += 1.0;
        }
    }

    /// Radiance times coverage, and coverage, after so many rounds.
    pub fn pixel(&self, rounds: u32) -> [f32; 4] {
        let n = (rounds * WIDTH as u32) as f32;
        let mean = self.light / n;
        [mean.x, mean.y, mean.z, self.covered / n]
    }

    /// What noise is told from detail by, after so many rounds.
    pub fn guide(&self, rounds: u32) -> Guide {
        let (n, [sum, squares]) = ((rounds * WIDTH as u32) as f32, self.lit);
        Guide {
            color: self.guide.color / n,
            normal: self.guide.normal / n,
            distance: self.guide.distance / n,
            seen: self.guide.seen / n,
            variance: (squares / n - (sum / n) * (sum / n)).max(0.0) / n,
        }
    }
}

//! Readings that are means over rays: neighbouring texels send their n-th rays together, as one packet.

use glam::Vec3;

use super::Run;
use crate::bake::bvh::{Packet, WIDTH};
use crate::bake::rays::{Directions, frame};

/// How a reading looks around.
pub(super) struct Rays {
    /// Rays per texel.
    pub count: u32,
    /// Tells the directions of one reading from those of another.
    pub seed: u32,
    /// Distance from which on something is met, in mm.
    pub near: f32,
    /// Distance up to which something is met, in mm.
    pub far: f32,
    /// A direction around z from a point of the unit square.
    pub direction: fn([f32; 2]) -> Vec3,
}

impl Rays {
    /// Fills a run with the mean over each texel's rays of what `see` tells of a packet. `start` gives a covered texel's origin and axis; `see` also gets
    /// the cosine of each lane's ray to its axis.
    pub fn mean(
        &self,
        run: &Run,
        out: &mut [f32],
        start: impl Fn(usize) -> (Vec3, Vec3),
        see: impl Fn(&mut Packet, &[f32; WIDTH]) -> [f32; WIDTH],
    ) {
        let plan = Directions::new(self.count);
        let mut squares = vec![Vec::new(); WIDTH];
        for (block, values) in out.chunks_mut(WIDTH).enumerate() {
            let first = run.start + block * WIDTH;
            let mut frames = [(Vec3::ZERO, Vec3::ZERO, Vec3::ZERO, Vec3::Z); WIDTH];
            for l in 0..values.len() {
                let (origin, axis) = start(first + l);
                let (t, b) = frame(axis);
                frames[l] = (origin, t, b, axis);
                plan.square(run.surface.atlas.texel[first + l], self.seed, &mut squares[l]);
            }
            let mut sum = [0.0f32; WIDTH];
            for ray in 0..plan.len() {
                let mut packet = Packet::default();
                let mut cosine = [0.0f32; WIDTH];
                for l in 0..values.len() {
                    let (origin, t, b, axis) = frames[l];
                    let d = (self.direction)(squares[l][ray]);
                    let towards = t * d.x + b * d.y + axis * d.z;
                    packet.set(l, origin.to_array(), towards.to_array(), self.near, self.far);
                    cosine[l] = d.z;
                }
                let seen = see(&mut packet, &cosine);
                for l in 0..WIDTH {
                    sum[l] += seen[l];
                }
            }
            for (v, s) in values.iter_mut().zip(sum) {
                *v = s / plan.len() as f32;
            }
        }
    }
}

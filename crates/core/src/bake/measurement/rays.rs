//! Measurements that are means over rays: neighbouring texels send their n-th rays together, as one packet.

use glam::Vec3;

use super::Run;
use crate::bake::bvh::{Packet, WIDTH};
use crate::bake::rays::{Directions, frame, mix};

/// How a measurement looks around.
pub(super) struct Rays<'a> {
    /// Rays per texel.
    pub count: u32,
    /// Tells the directions of one measurement from those of another.
    pub seed: u32,
    /// Distance from which on something is met, in mm.
    pub near: f32,
    /// Distance up to which something is met, in mm.
    pub far: f32,
    /// Whether all texels look in the same directions. Where what is met counts by its distance this leaves no noise, and textures of all sizes read the same; where it only counts
    /// whether something is met, neighbours would step together.
    pub alike: bool,
    /// A direction around z from a point of the unit square.
    pub direction: &'a dyn Fn([f32; 2]) -> Vec3,
}

impl Rays<'_> {
    /// Fills a run of `N` planes with the means over each texel's rays of what `see` tells of a packet. `start` gives a texel's origin and axis by its place in
    /// the run; `see` gets the place of the first lane, the packet, and the cosine of each lane's ray to its axis. Leaves off when asked to stop.
    pub fn mean<const N: usize>(
        &self,
        run: &Run,
        out: &mut [&mut [f32]],
        start: impl Fn(usize) -> (Vec3, Vec3),
        see: impl Fn(usize, &mut Packet, &[f32; WIDTH]) -> [[f32; WIDTH]; N],
    ) {
        let plan = Directions::new(self.count);
        let mut squares = vec![Vec::new(); WIDTH];
        // Each place in the texel has directions of its own.
        let seed = self.seed ^ run.offset.iter().fold(0, |h, o| mix(h ^ o.to_bits()));
        for first in (0..run.texels.len()).step_by(WIDTH) {
            if run.cancel.check().is_err() {
                return;
            }
            let lanes = WIDTH.min(run.texels.len() - first);
            let mut frames = [(Vec3::ZERO, Vec3::ZERO, Vec3::ZERO, Vec3::Z); WIDTH];
            for l in 0..lanes {
                let (origin, axis) = start(first + l);
                let (t, b) = frame(axis);
                frames[l] = (origin, t, b, axis);
                let texel = if self.alike { 0 } else { run.surface.atlas.texel[run.texels[first + l] as usize] };
                plan.square(texel, seed, &mut squares[l]);
            }
            let mut sum = [[0.0f32; WIDTH]; N];
            for ray in 0..plan.len() {
                let mut packet = Packet::default();
                let mut cosine = [0.0f32; WIDTH];
                for l in 0..lanes {
                    let (origin, t, b, axis) = frames[l];
                    let d = (self.direction)(squares[l][ray]);
                    let towards = t * d.x + b * d.y + axis * d.z;
                    packet.set(l, origin.to_array(), towards.to_array(), self.near, self.far);
                    cosine[l] = d.z;
                }
                for (sum, seen) in sum.iter_mut().zip(see(first, &mut packet, &cosine)) {
                    for l in 0..WIDTH {
                        sum[l] += seen[l];
                    }
                }
            }
            for (plane, sum) in out.iter_mut().zip(sum) {
                for l in 0..lanes {
                    plane[first + l] = sum[l] / plan.len() as f32;
                }
            }
        }
    }
}

//! Measurements that are means over rays: neighbouring texels send their n-th rays together, as one packet.

use glam::Vec3;

use super::Run;
use crate::bake::bvh::{Packet, WIDTH};
use crate::bake::rays::{Directions, cosine_hemisphere, frame, sin_cos_turn};
use crate::lattice::mix;
use crate::setting::ParamSpec;

/// The setting that says how many rays are sent.
pub(super) fn rays_spec(default: f64) -> ParamSpec {
    ParamSpec::integer("rays", "Rays", (1.0, 1024.0), default, "Rays per texel: more are smoother and slower.")
}

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

/// Rays by which it is found how far a surface falls away around a spot, at least: as many in a moment as when it is measured well, since what is made of it is no mean.
const FALLING: u32 = 16;

impl Run<'_> {
    /// Where rays into the open start from the `i`-th texel, and their axis: its normal.
    pub(super) fn lifted(&self, i: usize) -> (Vec3, Vec3) {
        let (n, lift) = (self.normal(i), self.surface.piece.diagonal() * 1e-5);
        (self.spot(i, lift * 4.0).0 + n * lift, n)
    }

    /// Rays that end only where the piece does.
    pub(super) fn far_rays(&self) -> Rays<'static> {
        let diagonal = self.surface.piece.diagonal();
        Rays {
            count: 1,
            seed: 0,
            near: diagonal * 1e-5,
            far: diagonal * 2.0,
            alike: false,
            direction: &cosine_hemisphere,
        }
    }

    /// The share of directions in space in which nothing bars the view, of each texel.
    pub(super) fn unbarred(&self, count: u32, seed: u32, towards: &dyn Fn([f32; 2]) -> Vec3) -> Vec<f32> {
        let mut open = vec![0.0; self.texels.len()];
        let rays = Rays { count, seed, direction: towards, ..self.far_rays() };
        let bvh = &self.solid.bvh;
        // Directions are told in space: their axis is z.
        let start = |i: usize| (self.lifted(i).0, Vec3::Z);
        rays.mean(self, &mut [&mut open], start, |_, packet, _| {
            [bvh.occluded(packet).map(|hit| if hit { 0.0 } else { 1.0 })]
        });
        open
    }

    /// Fills a plane with how much each texel is struck from directions in space: the mean of their length times the cosine, of those that nothing bars.
    pub(super) fn struck(&self, count: u32, seed: u32, towards: &dyn Fn([f32; 2]) -> Vec3, planes: &mut [&mut [f32]]) {
        let rays = Rays { count, seed, direction: towards, ..self.far_rays() };
        let far = rays.far;
        let bvh = &self.solid.bvh;
        rays.mean(
            self,
            planes,
            |i| (self.lifted(i).0, Vec3::Z),
            |first, packet, _| {
                let mut strikes = [0.0f32; WIDTH];
                for l in 0..WIDTH.min(self.texels.len() - first) {
                    let way = Vec3::new(packet.direction[0][l], packet.direction[1][l], packet.direction[2][l]);
                    let (n, length) = (self.normal(first + l), way.length());
                    strikes[l] = way.dot(n).max(0.0);
                    // What comes from behind needs no ray.
                    packet.far[l] = if strikes[l] > 0.0 { far / length } else { -1.0 };
                    packet.near[l] /= length.max(1e-9);
                }
                let hit = bvh.occluded(packet);
                [std::array::from_fn(|l| if hit[l] { 0.0 } else { strikes[l] })]
            },
        );
    }

    /// How far the surface falls away around each spot within `radius` mm: 0 on planes and in hollows, half beside a sharp edge, more on a corner; on what is round the more
    /// the smaller its radius is.
    ///
    /// The mean over ways that come down on a plane within the radius, of how much further than that each gets; one that goes twice as far counts whole.
    pub(super) fn stands_out(&self, radius: f32, count: u32) -> Vec<f32> {
        // From so high above the spot, so that a plane is met at between half of the radius and a little less than all of it.
        let lift = radius * 0.25;
        let around = |[u, v]: [f32; 2]| {
            let (sin, cos) = sin_cos_turn(u);
            let reach = radius * (0.5 + 0.4 * v);
            Vec3::new(cos * reach, sin * reach, -lift).normalize()
        };
        let mut out = vec![0.0; self.texels.len()];
        let rays = Rays {
            count: count.max(FALLING),
            seed: 13,
            near: 0.0,
            far: radius * 2.0,
            direction: &around,
            ..self.far_rays()
        };
        let bvh = &self.solid.bvh;
        let start = |i: usize| {
            let (at, n) = self.spot(i, radius * 0.01);
            (at + n * lift, n)
        };
        rays.mean(self, &mut [&mut out], start, |_, packet, down| {
            let ways = bvh.nearest(packet);
            // A plane is met after lift over the cosine.
            [std::array::from_fn(|l| (ways[l] * -down[l] / lift - 1.0).clamp(0.0, 1.0))]
        });
        out
    }
}

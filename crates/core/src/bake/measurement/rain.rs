//! Rain: how much of what falls meets each texel. 1 = as much as on a plane that faces it in the open.
//!
//! The share of the rain's directions that come from the open sky, times the cosine at which they strike; and what splashes up from the ground, less and less up to where
//! it reaches.

use glam::Vec3;

use super::rays::Rays;
use super::{Extent, Measurement, Run, Work, smooth_spec};
use crate::bake::bvh::WIDTH;
use crate::bake::rays::cosine_hemisphere;
use crate::bake::weather::Falling;
use crate::setting::{ParamSpec, Resolved};

pub static MEASUREMENT: Measurement = Measurement {
    kind: "rain",
    label: "Rain",
    help: "How much rain strikes: 1 where it falls square on in the open, 0 in the dry. What splashes from the ground counts as well.",
    specs,
    weather: &["wind", "turns", "slant", "facing", "ground"],
    planes: &[("falls", "Falls")],
    work: Work::Texels(fill),
};

/// How much of what falls is thrown up again from the ground.
const SPLASH: f32 = 0.6;

fn specs(_: Extent) -> Vec<ParamSpec> {
    vec![rays_spec(64.0), smooth_spec()]
}

/// The setting that says how many rays are sent.
pub(super) fn rays_spec(default: f64) -> ParamSpec {
    ParamSpec::integer("rays", "Rays", (1.0, 1024.0), default, "Rays per texel: more are smoother and slower.")
}

fn fill(run: &Run, settings: &Resolved, planes: &mut [&mut [f32]]) {
    let falling = Falling::new(settings);
    let count = settings.integer("rays");
    let towards = |p| falling.rain(p);
    run.struck(count, 11, &towards, planes);
    let (ground, base) = (settings.number("ground"), run.surface.piece.min[1]);
    let height = |i: usize| run.surface.atlas.py[run.texels[i] as usize] - base;
    if ground <= 0.0 || (0..run.texels.len()).all(|i| height(i) >= ground) {
        return;
    }
    let mut splashed = vec![0.0f32; run.texels.len()];
    let rays = Rays { count: (count / 2).max(8), seed: 12, direction: &cosine_hemisphere, ..run.far_rays() };
    let bvh = &run.solid.bvh;
    rays.mean(
        run,
        &mut [&mut splashed],
        |i| run.lifted(i),
        |_, packet, _| {
            let hit = bvh.occluded(packet);
            // A wall sees the ground with half of its sky.
            [std::array::from_fn(|l| if hit[l] || packet.direction[1][l] >= 0.0 { 0.0 } else { 2.0 })]
        },
    );
    for (i, (v, seen)) in planes[0].iter_mut().zip(splashed).enumerate() {
        let near = (1.0 - height(i) / ground).clamp(0.0, 1.0);
        *v = (*v + SPLASH * near * near * seen.min(1.0)).min(1.0);
    }
}

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

    /// Fills a plane with how much each texel is struck from directions in space: the mean of their length times the cosine, of those that nothing bars.
    pub(super) fn struck(&self, count: u32, seed: u32, towards: &dyn Fn([f32; 2]) -> Vec3, planes: &mut [&mut [f32]]) {
        let rays = Rays { count, seed, direction: towards, ..self.far_rays() };
        let far = rays.far;
        let bvh = &self.solid.bvh;
        // Directions are told in space: their axis is z.
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

    /// How far the surface falls away around each spot: the share of ways that come down on a plane within `radius` mm, and here don't. 0 on planes and in hollows,
    /// half beside an edge, more on a corner.
    pub(super) fn stands_out(&self, radius: f32, count: u32) -> Vec<f32> {
        // From so high above the spot, so that a plane is met at between half of the radius and a little less than all of it.
        let lift = radius * 0.25;
        let around = |[u, v]: [f32; 2]| {
            let (sin, cos) = crate::bake::rays::sin_cos_turn(u);
            let reach = radius * (0.5 + 0.4 * v);
            Vec3::new(cos * reach, sin * reach, -lift).normalize()
        };
        let mut out = vec![0.0; self.texels.len()];
        let rays = Rays { count, seed: 13, near: 0.0, far: radius * 1.1, direction: &around, ..self.far_rays() };
        let bvh = &self.solid.bvh;
        let start = |i: usize| {
            let (at, n) = self.spot(i, radius * 0.01);
            (at + n * lift, n)
        };
        rays.mean(self, &mut [&mut out], start, |_, packet, _| {
            [bvh.occluded(packet).map(|hit| if hit { 0.0 } else { 1.0 })]
        });
        out
    }
}

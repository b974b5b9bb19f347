//! Rain: how much of what falls meets each texel. 1 = as much as on a plane that faces it in the open.
//!
//! The share of the rain's directions that come from the open sky, times the cosine at which they strike; and what splashes up from the ground, less and less up to where
//! it reaches.

use super::rays::{Rays, rays_spec};
use super::{Extent, Measurement, Run, Work, smooth_spec};
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
    by_size: false,
    work: Work::Texels(fill),
};

/// How much of what falls is thrown up again from the ground.
const SPLASH: f32 = 0.6;

fn specs(_: Extent) -> Vec<ParamSpec> {
    vec![rays_spec(64.0), smooth_spec()]
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

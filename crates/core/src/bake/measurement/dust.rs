//! Dust: what settles and stays in ten years. It falls nearly straight down, stays on what isn't too steep, gathers in corners and in the lee of the wind, and is blown off what stands
//! out into it.

use glam::Vec3;

use super::rays::{Rays, rays_spec};
use super::{Extent, Measurement, Run, Work, smooth_spec};
use crate::bake::weather::Falling;
use crate::setting::{ParamSpec, Resolved};

pub static MEASUREMENT: Measurement = Measurement {
    kind: "dust",
    label: "Dust",
    help: "Where dust settles and stays: on what looks up, in corners and in the lee of the wind.",
    specs,
    weather: &["wind", "turns", "facing"],
    planes: &[("lies", "Lies")],
    by_size: false,
    work: Work::Texels(fill),
};

fn specs(extent: Extent) -> Vec<ParamSpec> {
    vec![
        ParamSpec::number(
            "holds",
            "Stays up to",
            "°",
            (5.0, 90.0),
            50.0,
            "The steepest slope on which dust stays; rough surfaces hold it on steeper ones.",
        ),
        ParamSpec::share("blown", "Blown off", 0.45, "How much of it the wind takes from what lies open to it."),
        ParamSpec::length(
            "lee",
            "Lee",
            (0.1, 10_000.0),
            extent.share(0.12),
            "How far behind what stands in the wind the air is still.",
        ),
        ParamSpec::length(
            "corner",
            "Corners",
            (0.1, 1000.0),
            extent.share(0.03),
            "How near a wall must be for dust to gather at its foot.",
        ),
        rays_spec(32.0),
        smooth_spec(),
    ]
}

fn fill(run: &Run, settings: &Resolved, planes: &mut [&mut [f32]]) {
    let (falling, count) = (Falling::new(settings), settings.integer("rays"));
    let (lee, corner) = (settings.number("lee"), settings.number("corner"));
    let (holds, blown) = (settings.number("holds"), settings.number("blown"));
    let bvh = &run.solid.bvh;
    // Within some degrees of the vertical; the air is never quite still.
    let above = |[u, v]: [f32; 2]| falling.wind(u) * (0.55 * v - 0.15) + Vec3::Y;
    let falls = run.unbarred((count / 2).max(4), 16, &|p| above(p).normalize());
    let upwind = |[u, v]: [f32; 2]| (falling.wind(u) + Vec3::Y * (0.4 * v)).normalize();
    let mut calm = vec![0.0; run.texels.len()];
    let rays = Rays { count: (count / 2).max(4), seed: 17, far: lee * 3.0, direction: &upwind, ..run.far_rays() };
    let start = |i: usize| {
        let (at, n) = run.lifted(i);
        (at + n * lee * 0.01, Vec3::Z)
    };
    rays.mean(run, &mut [&mut calm], start, |_, packet, _| {
        let ways = bvh.nearest(packet);
        [std::array::from_fn(|l| if ways[l] < lee * 3.0 { libm::expf(-ways[l] / lee) } else { 0.0 })]
    });
    let mut open = vec![0.0; run.texels.len()];
    let rays = Rays { count: (count / 2).max(4), seed: 18, far: corner, ..run.far_rays() };
    rays.mean(
        run,
        &mut [&mut open],
        |i| run.lifted(i),
        |_, packet, _| [bvh.nearest(packet).map(|way| (way / corner).min(1.0))],
    );
    let out = run.stands_out(corner, count / 4);
    let (steep, gentle) = (holds + 12.0, (holds - 12.0).max(0.0));
    for (i, v) in planes[0].iter_mut().enumerate() {
        let slope = libm::acosf(run.normal(i).y.clamp(-1.0, 1.0)).to_degrees();
        let stays = smoothstep((steep - slope) / (steep - gentle));
        // A quarter of the sky barred is a wall beside it.
        let sheltered = 1.0 - (1.0 - calm[i]) * (1.0 - ((1.0 - open[i]) * 2.0).min(1.0));
        let kept = 1.0 - blown * (1.0 - sheltered);
        *v = falls[i] * stays * kept * (1.0 - blown * out[i].min(1.0));
    }
}

/// Hermite's step from 0 to 1.
pub(super) fn smoothstep(t: f32) -> f32 {
    let t = t.clamp(0.0, 1.0);
    t * t * (3.0 - 2.0 * t)
}

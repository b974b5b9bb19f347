//! Sun: the dose of light over ten years. 1 = that of the plane that gets most, in the open.
//!
//! The year's days and the hours of each day are sampled evenly; the sun of each stands where latitude, declination and hour angle put it, counts by what the air lets
//! through, and is shaded by the piece. Skylight comes evenly from above the horizon.

use super::rays::{Rays, rays_spec};
use super::{Extent, Measurement, Run, Work, smooth_spec};
use crate::bake::rays::cosine_hemisphere;
use crate::bake::weather::Year;
use crate::setting::{ParamSpec, Resolved};

pub static MEASUREMENT: Measurement = Measurement {
    kind: "sun",
    label: "Sun",
    help: "The dose of sunlight, with the shadow that the piece throws on itself: 1 where ten years of it fall in the open.",
    specs,
    weather: &["facing", "latitude"],
    planes: &[("direct", "Sun alone"), ("both", "Sun and sky")],
    by_size: false,
    work: Work::Texels(fill),
};

/// How much of a year's light on an open plane comes from the sky, and not straight from the sun.
const SKY: f32 = 0.35;

fn specs(_: Extent) -> Vec<ParamSpec> {
    vec![rays_spec(64.0), smooth_spec()]
}

fn fill(run: &Run, settings: &Resolved, planes: &mut [&mut [f32]]) {
    let year = Year::new(settings);
    let count = settings.integer("rays");
    let most = year.most();
    let (direct, both) = planes.split_at_mut(1);
    run.struck(count, 14, &|p| year.sun(p), direct);
    direct[0].iter_mut().for_each(|v| *v = (*v / most).min(1.0));
    let rays = Rays { count: (count / 2).max(4), seed: 15, direction: &cosine_hemisphere, ..run.far_rays() };
    let bvh = &run.solid.bvh;
    rays.mean(
        run,
        both,
        |i| run.lifted(i),
        |_, packet, _| {
            let hit = bvh.occluded(packet);
            [std::array::from_fn(|l| if hit[l] || packet.direction[1][l] <= 0.0 { 0.0 } else { 1.0 })]
        },
    );
    both[0].iter_mut().zip(&*direct[0]).for_each(|(sky, sun)| *sky = *sky * SKY + sun * (1.0 - SKY));
}

//! Thickness: the mean way through the solid behind each texel, as a share of the greatest that is told apart. 0 = thin as a sheet.

use super::rays::{Rays, rays_spec};
use super::{Extent, Measurement, Run, Work, smooth_spec};
use crate::bake::bvh::WIDTH;
use crate::setting::{ParamSpec, Resolved};

pub static MEASUREMENT: Measurement = Measurement {
    kind: "thickness",
    label: "Thickness",
    help: "How much material lies behind the surface: 0 at thin fins and rims, 1 where it is as thick as the distance.",
    specs,
    weather: &[],
    planes: &[("way", "Way through")],
    by_size: false,
    work: Work::Texels(fill),
};

fn specs(extent: Extent) -> Vec<ParamSpec> {
    vec![
        ParamSpec::length(
            "distance",
            "Distance",
            (0.1, 100_000.0),
            extent.share(0.07),
            "The thickness that reads as 1.",
        ),
        rays_spec(64.0),
        smooth_spec(),
    ]
}

/// Mean inward distance of cosine-weighted rays to where they leave the solid, over the greatest distance.
fn fill(run: &Run, settings: &Resolved, planes: &mut [&mut [f32]]) {
    let (bvh, distance) = (&run.solid.bvh, settings.number("distance"));
    let lift = run.surface.piece.diagonal() * 1e-5;
    let rays = Rays { count: settings.integer("rays"), seed: 3, far: distance, ..run.far_rays() };
    let start = |i: usize| {
        // Inwards of the flat face: a smooth normal would send rays out of coarse facets.
        let (place, normal) = run.spot(i, lift * 4.0);
        (place - normal * lift, -normal)
    };
    if run.solid.sunken {
        // The way goes on through all that is solid, whatever faces lie within it.
        let depths = run.depths();
        return rays.mean(run, planes, start, |first, packet, _| {
            let mut way = [distance; WIDTH];
            let begin = depths[first / WIDTH].map(|d| d + 1.0);
            bvh.within(packet, &begin, |l, from, to| way[l] = if from == 0.0 { to } else { way[l] });
            [way.map(|way| (way / distance).clamp(0.0, 1.0))]
        });
    }
    rays.mean(run, planes, start, |_, packet, _| [bvh.nearest(packet).map(|way| (way / distance).clamp(0.0, 1.0))]);
}

//! Occlusion: the cosine-weighted share of the sky above each texel that is left open. 1 = open.

use super::rays::{Rays, rays_spec};
use super::{Extent, Measurement, Run, Work, smooth_spec};
use crate::bake::bvh::{Packet, WIDTH};
use crate::setting::{ParamSpec, Resolved};

pub static MEASUREMENT: Measurement = Measurement {
    kind: "occlusion",
    label: "Occlusion",
    help: "How open the surface lies: 1 in the open, 0 deep in a hollow.",
    specs,
    weather: &[],
    planes: &[("open", "Open")],
    by_size: false,
    work: Work::Texels(fill),
};

fn specs(extent: Extent) -> Vec<ParamSpec> {
    vec![
        ParamSpec::length(
            "distance",
            "Distance",
            (0.1, 100_000.0),
            extent.share(0.2),
            "How far away something still shades.",
        ),
        rays_spec(64.0),
        ParamSpec::choice(
            "by",
            "Shaded by",
            &[("piece", "all shells"), ("shell", "its own")],
            "Whether other shells shade, or only the bit of mesh that a spot belongs to.",
        ),
        ParamSpec::choice(
            "ground",
            "Ground",
            &[("none", "none"), ("plane", "a plane")],
            "Whether a ground under the lowest point of the piece shades as well.",
        ),
        smooth_spec(),
    ]
}

fn fill(run: &Run, settings: &Resolved, planes: &mut [&mut [f32]]) {
    let (surface, distance) = (run.surface, settings.number("distance"));
    let (atlas, piece, bvh) = (&surface.atlas, &surface.piece, &run.solid.bvh);
    let rays = Rays { count: settings.integer("rays"), seed: 1, far: distance, ..run.far_rays() };
    let own_shell = settings.text("by") == "shell";
    let shell_of = run.solid.shell_of(piece);
    let floor = (settings.text("ground") == "plane").then(|| piece.min[1]);
    let start = |i: usize| run.lifted(i);
    rays.mean(run, planes, start, |first, packet, _| {
        let ground = floor.map_or([false; WIDTH], |y| meets_floor(packet, y));
        let hit = if own_shell {
            let shell =
                |l: usize| run.texels.get(first + l).map(|t| piece.shell_of[atlas.triangle[*t as usize] as usize]);
            bvh.occluded_by(packet, &std::array::from_fn(|l| shell(l).unwrap_or(u32::MAX)), shell_of)
        } else {
            bvh.occluded(packet)
        };
        [std::array::from_fn(|l| if hit[l] || ground[l] { 0.0 } else { 1.0 })]
    });
}

/// Which lanes reach the plane y = `floor` from above within their distance.
fn meets_floor(packet: &Packet, floor: f32) -> [bool; WIDTH] {
    std::array::from_fn(|l| {
        let (y, down) = (packet.origin[1][l] - floor, -packet.direction[1][l]);
        down > 1e-6 && y <= down * packet.far[l]
    })
}

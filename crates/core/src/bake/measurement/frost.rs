//! Frost and spray: what comes with the wind and stays where it strikes first. It grows most on edges, since the air that carries it turns aside before what is broad.

use glam::Vec3;

use super::rays::rays_spec;
use super::{Extent, Measurement, Run, Work, smooth_spec};
use crate::bake::weather::Falling;
use crate::setting::{ParamSpec, Resolved};

pub static MEASUREMENT: Measurement = Measurement {
    kind: "frost",
    label: "Frost and spray",
    help: "What the wind brings and leaves where it strikes first: rime, salt spray, driven snow. Thickest at edges.",
    specs,
    weather: &["wind", "turns", "facing"],
    planes: &[("strikes", "Strikes")],
    by_size: false,
    work: Work::Texels(fill),
};

fn specs(extent: Extent) -> Vec<ParamSpec> {
    vec![
        ParamSpec::number("falls", "Falls by", "°", (0.0, 80.0), 10.0, "How far below the horizontal it comes down."),
        ParamSpec::share("steady", "Steadiness", 0.7, "How little the wind turns while it lasts: 1 is straight on."),
        ParamSpec::length(
            "edge",
            "Edges",
            (0.1, 1000.0),
            extent.share(0.02),
            "How far around a spot the surface must fall away for it to grow thick there.",
        ),
        rays_spec(48.0),
        smooth_spec(),
    ]
}

fn fill(run: &Run, settings: &Resolved, planes: &mut [&mut [f32]]) {
    let (falling, count) = (Falling::new(settings), settings.integer("rays"));
    let (sin, cos) = libm::sincosf(settings.number("falls").to_radians());
    let unsteady = 1.0 - settings.number("steady");
    let towards = |[u, v]: [f32; 2]| {
        let level = falling.wind(0.5 + (u - 0.5) * unsteady);
        (level * cos + Vec3::Y * (sin + (v - 0.5) * 0.3)).normalize()
    };
    run.struck(count, 20, &towards, planes);
    let out = run.stands_out(settings.number("edge"), count / 4);
    for (v, out) in planes[0].iter_mut().zip(out) {
        *v = (*v * (0.75 + 0.55 * (out * 2.0).min(1.0))).min(1.0);
    }
}

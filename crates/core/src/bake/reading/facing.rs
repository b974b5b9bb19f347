//! Facing: how far the surface looks in a direction, with a spread.

use glam::Vec3;

use super::{Origin, Reading, Run};
use crate::setting::{ParamSpec, Resolved};

pub static READING: Reading = Reading {
    kind: "facing",
    label: "Facing",
    help: "Where the surface looks a given way: tops for dust and salt, undersides for soot.",
    specs,
    weather: &[],
    origin: Origin::Computed(fill),
};

const DIRECTIONS: [(&str, &str); 6] = [
    ("up", "Up"),
    ("down", "Down"),
    ("left", "Left (−X)"),
    ("right", "Right (+X)"),
    ("front", "Front (+Z)"),
    ("back", "Back (−Z)"),
];

fn specs() -> Vec<ParamSpec> {
    vec![
        ParamSpec::choice("direction", "Direction", &DIRECTIONS, "Which way is 1."),
        ParamSpec::number(
            "spread",
            "Spread",
            "°",
            (1.0, 180.0),
            90.0,
            "The angle from the direction at which it has fallen to 0.",
        ),
    ]
}

/// `(cos angle − cos spread) / (1 − cos spread)`, clamped.
fn fill(run: &Run, settings: &Resolved, out: &mut [f32]) {
    let atlas = &run.surface.atlas;
    let d = match settings.text("direction") {
        "down" => -Vec3::Y,
        "left" => -Vec3::X,
        "right" => Vec3::X,
        "front" => Vec3::Z,
        "back" => -Vec3::Z,
        _ => Vec3::Y,
    };
    let floor = libm::cosf(settings.number("spread").to_radians());
    let scale = 1.0 / (1.0 - floor);
    for (i, v) in (run.start..).zip(out) {
        let dot = atlas.nx[i] * d.x + atlas.ny[i] * d.y + atlas.nz[i] * d.z;
        *v = ((dot - floor) * scale).clamp(0.0, 1.0);
    }
}

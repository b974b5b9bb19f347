//! Touch: where a ball the size of a finger, a palm or a boot can rest, how much the surface stands out to it there, and whether one comes to it.
//!
//! The largest ball that touches a spot from outside and nothing else (tangent-sphere accessibility, Miller 1994): it begins as large as is asked for, and while something
//! lies within it, it shrinks to the ball through that place that still touches the spot.

use glam::Vec3;

use super::dust::smoothstep;
use super::rays::rays_spec;
use super::{Extent, Measurement, Run, Work, smooth_spec};
use crate::bake::bvh::Bvh;
use crate::bake::rays::uniform_sphere;
use crate::setting::{ParamSpec, Resolved};

pub static MEASUREMENT: Measurement = Measurement {
    kind: "touch",
    label: "Touch",
    help: "Where fingers, palms or boots come to: 1 on what stands out to them, 0 where a ball of that size doesn't fit.",
    specs,
    weather: &[],
    planes: &[("touched", "Touched")],
    work: Work::Texels(fill),
};

fn specs(_: Extent) -> Vec<ParamSpec> {
    vec![
        ParamSpec::length(
            "ball",
            "Ball",
            (1.0, 500.0),
            20.0,
            "Radius of what touches: a fingertip has 8 mm, a palm 30, the toe of a boot 50.",
        ),
        ParamSpec::share("edges", "At edges", 0.85, "How much more what stands out is touched than what is flat."),
        ParamSpec::choice(
            "from",
            "Reached from",
            &[
                ("round", "all round"),
                ("above", "above"),
                ("front", "the front"),
                ("back", "the back"),
                ("left", "−X"),
                ("right", "+X"),
            ],
            "Where whoever touches it comes from.",
        ),
        ParamSpec::number(
            "height",
            "At a height of",
            "mm",
            (0.0, 10_000.0),
            0.0,
            "Above the lowest point, where it is touched most; 0 is at any height.",
        ),
        ParamSpec::length(
            "band",
            "Up and down by",
            (1.0, 10_000.0),
            150.0,
            "How far from that height hands still come; without effect where any height will do.",
        ),
        rays_spec(16.0),
        smooth_spec(),
    ]
}

/// A ball that is left this share of its size counts as one that fits.
const FITS: (f32, f32) = (0.35, 0.95);
/// From how far on the surface falls away it counts as what stands out, and from how far on wholly. What is round and broader than a shaft of four balls, or turns by a few
/// degrees between two faces, isn't reached for; the rim of a wheel and a sharp edge are.
const STANDS: (f32, f32) = (0.12, 0.42);

fn fill(run: &Run, settings: &Resolved, planes: &mut [&mut [f32]]) {
    let (ball, edges, count) = (settings.number("ball"), settings.number("edges"), settings.integer("rays"));
    let side = match settings.text("from") {
        "above" => Some(Vec3::Y),
        "front" => Some(Vec3::Z),
        "back" => Some(Vec3::NEG_Z),
        "left" => Some(Vec3::NEG_X),
        "right" => Some(Vec3::X),
        _ => None,
    };
    let (height, band) = (settings.number("height"), settings.number("band"));
    let bvh = &run.solid.bvh;
    let out = run.stands_out(ball * 0.5, count);
    let reached = side.map(|side| {
        // Within a half turn about that side, mostly from straight ahead.
        run.unbarred(count.max(8), 19, &|p| (uniform_sphere(p) * 0.9 + side).normalize())
    });
    for (i, v) in planes[0].iter_mut().enumerate() {
        if run.cancel.check().is_err() {
            return;
        }
        let (at, n) = run.spot(i, ball * 0.01);
        let fits = smoothstep((largest(bvh, at, n, ball) / ball - FITS.0) / (FITS.1 - FITS.0));
        let stands = (1.0 - edges) + edges * smoothstep((out[i] - STANDS.0) / (STANDS.1 - STANDS.0));
        let away = run.surface.atlas.py[run.texels[i] as usize] - run.surface.piece.min[1] - height;
        let near = if height > 0.0 { libm::expf(-(away / band) * (away / band)) } else { 1.0 };
        *v = fits * stands * near * reached.as_ref().map_or(1.0, |r| r[i]);
    }
}

/// Radius of the largest ball up to `most` that touches `at` from the side of `n` and has nothing within it.
fn largest(bvh: &Bvh, at: Vec3, n: Vec3, most: f32) -> f32 {
    // What lies as near as this is the spot's own face.
    let own = most * 0.02;
    let mut radius = most;
    for _ in 0..8 {
        let Some(place) = bvh.nearest_place(at + n * radius, radius * 0.999 - own * 0.5) else { return radius };
        let way = place - at;
        let ahead = way.dot(n);
        // The ball through both that touches the spot: |w|² / 2 w·n.
        let next = if ahead > 1e-6 { way.length_squared() / (2.0 * ahead) } else { radius * 0.5 };
        radius = next.min(radius * 0.98);
        if radius < most * 0.05 {
            return 0.0;
        }
    }
    radius
}

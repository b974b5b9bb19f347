//! Touch: where a ball the size of a finger, a palm or a boot can rest, how much the surface stands out to it there, and whether one comes to it; or where a rope lies that is
//! wound around the piece.
//!
//! The largest ball that touches a spot from outside and nothing else (tangent-sphere accessibility, Miller 1994): it begins as large as is asked for, and while something
//! lies within it, it shrinks to the ball through that place that still touches the spot.

use glam::Vec3;

use super::dust::smoothstep;
use super::rays::rays_spec;
use super::{Extent, Measurement, Run, Work, smooth_spec};
use crate::bake::bvh::Bvh;
use crate::bake::rays::{frame, sin_cos_turn, uniform_sphere};
use crate::setting::{ParamSpec, Resolved};

pub static MEASUREMENT: Measurement = Measurement {
    kind: "touch",
    label: "Touch",
    help: "Where fingers, palms or boots come to, or a rope rubs: 1 on what stands out to them, 0 where a ball of that size doesn't fit.",
    specs,
    weather: &[],
    planes: &[("touched", "Touched")],
    by_size: false,
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
        ParamSpec::share("edges", "At edges", 0.85, "How much more hands touch what stands out than what is flat.")
            .only_with("by", &["hands"]),
        ParamSpec::choice(
            "by",
            "Touched by",
            &[
                ("hands", "hands or feet"),
                ("rope_y", "a rope around Y"),
                ("rope_x", "a rope around X"),
                ("rope_z", "a rope around Z"),
            ],
            "Hands come to it; a rope or strap that is wound around an axis rubs on what it lies against, and bridges hollows. The ball is then as thick as the rope.",
        ),
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
        )
        .only_with("by", &["hands"]),
        ParamSpec::number(
            "height",
            "At a height of",
            "mm",
            (0.0, 10_000.0),
            0.0,
            "Above the lowest point, where it is touched most; 0 is at any height. For a rope around X or Z it is counted along that axis.",
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

/// A rope touches where it is free to lie on a plane: half of the directions across its axis. What is told between a little less and half.
const LIES: (f32, f32) = (0.41, 0.49);
/// How far a face must look away from a rope's axis for the rope to lie against it, as a sine.
const FACES: (f32, f32) = (0.3, 0.8);

/// How much a rope around an axis lies against each spot: wholly where a plane along the axis touches the piece's cut across it there and nothing else, so on its hull.
fn hull(run: &Run, axis: Vec3, count: u32) -> Vec<f32> {
    let (a, b) = frame(axis);
    let across = |[u, _]: [f32; 2]| {
        let (sin, cos) = sin_cos_turn(u);
        a * cos + b * sin
    };
    let mut free = run.unbarred(count.max(64), 20, &across);
    for (i, v) in free.iter_mut().enumerate() {
        let n = run.normal(i);
        let faces = (n - axis * n.dot(axis)).length();
        *v = smoothstep((*v - LIES.0) / (LIES.1 - LIES.0)) * smoothstep((faces - FACES.0) / (FACES.1 - FACES.0));
    }
    free
}

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
    let rope = match settings.text("by") {
        "rope_y" => Some(Vec3::Y),
        "rope_x" => Some(Vec3::X),
        "rope_z" => Some(Vec3::Z),
        _ => None,
    };
    let (height, band) = (settings.number("height"), settings.number("band"));
    let (along, lowest) = (rope.unwrap_or(Vec3::Y), Vec3::from(run.surface.piece.min));
    let bvh = &run.solid.bvh;
    // How much each spot is touched, if a ball fits there: a rope rubs alike on all that it lies against.
    let touched = match rope {
        Some(axis) => hull(run, axis, count),
        None => {
            let mut touched = run.stands_out(ball * 0.5, count);
            for v in &mut touched {
                *v = (1.0 - edges) + edges * smoothstep((*v - STANDS.0) / (STANDS.1 - STANDS.0));
            }
            if let Some(side) = side {
                // Within a half turn about that side, mostly from straight ahead.
                let free = run.unbarred(count.max(8), 19, &|p| (uniform_sphere(p) * 0.9 + side).normalize());
                touched.iter_mut().zip(free).for_each(|(v, free)| *v *= free);
            }
            touched
        }
    };
    for (i, v) in planes[0].iter_mut().enumerate() {
        if run.cancel.check().is_err() {
            return;
        }
        let (at, n) = run.spot(i, ball * 0.01);
        let fits = smoothstep((largest(bvh, at, n, ball) / ball - FITS.0) / (FITS.1 - FITS.0));
        let away = (run.spot(i, 0.0).0 - lowest).dot(along) - height;
        let near = if height > 0.0 { libm::expf(-(away / band) * (away / band)) } else { 1.0 };
        *v = fits * near * touched[i];
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

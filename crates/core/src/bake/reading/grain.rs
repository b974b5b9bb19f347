//! Grain: which way something runs around or along an axis, as an angle from the UVs' own direction. It turns a brushed finish the right way on every chart.

use glam::Vec3;

use super::{Origin, Reading, Run};
use crate::bake::frame::frame;
use crate::setting::{ParamSpec, Resolved};

pub static READING: Reading = Reading {
    kind: "grain",
    label: "Grain",
    help: "Which way a grain runs around or along an axis, as an angle from the UVs across: 0 is half a turn back, ½ is along them, 1 half a turn on. For the rotation of anisotropy.",
    specs,
    weather: &[],
    origin: Origin::Computed(fill),
};

fn specs() -> Vec<ParamSpec> {
    vec![
        ParamSpec::choice(
            "runs",
            "Runs",
            &[("around", "around the axis"), ("across", "across what runs around it"), ("along", "along the axis")],
            "As lines from a lathe, as highlights on them, or as from a rolling mill.",
        ),
        ParamSpec::choice(
            "axis",
            "Axis",
            &[("y", "up (Y)"), ("x", "across (X)"), ("z", "to the front (Z)")],
            "Which axis.",
        ),
        ParamSpec::choice(
            "middle",
            "Axis goes through",
            &[("piece", "the middle of the piece"), ("shell", "the middle of each shell")],
            "A disc of its own is turned about its own middle.",
        ),
    ]
}

fn fill(run: &Run, settings: &Resolved, out: &mut [f32]) {
    let (atlas, piece) = (&run.surface.atlas, &run.surface.piece);
    let axis = match settings.text("axis") {
        "x" => Vec3::X,
        "z" => Vec3::Z,
        _ => Vec3::Y,
    };
    let way = settings.text("runs");
    let middles = if settings.text("middle") == "shell" { Some(run.surface.shell_middles()) } else { None };
    let whole = (Vec3::from(piece.min) + Vec3::from(piece.max)) * 0.5;
    for (i, v) in (run.start..).zip(out) {
        let at = Vec3::new(atlas.px[i], atlas.py[i], atlas.pz[i]);
        let middle = middles.map_or(whole, |m| m[piece.shell_of[atlas.triangle[i] as usize] as usize]);
        let around = axis.cross(at - middle);
        let runs = match way {
            "along" => axis,
            "across" => Vec3::new(atlas.nx[i], atlas.ny[i], atlas.nz[i]).cross(around),
            _ => around,
        };
        let (t, b) = frame(run.surface, i);
        let (x, y) = (runs.dot(t), runs.dot(b));
        // On the axis itself no way is better than another.
        let turn = if x * x + y * y > 1e-12 { libm::atan2f(y, x) / std::f32::consts::TAU } else { 0.0 };
        *v = turn + 0.5;
    }
}

//! Normal: fine relief as tangent-space normals, from a picture, laid over that of the height.

use glam::Vec3;

use super::{Channel, amount_spec};
use crate::bake::frame::combine;
use crate::setting::{ParamSpec, Resolved};

pub static CHANNEL: Channel = Channel {
    kind: "normal",
    label: "Fine normals",
    help: "Fine relief from a picture of normals: cast skin, leather, weave.",
    specs,
    bare: &[0.0, 0.0, 1.0],
    seen: (-1.0, 1.0),
    always: false,
    // It is in the normals.
    put: None,
    meet,
};

/// The settings of a channel that is given by a picture of normals.
pub(super) fn specs() -> Vec<ParamSpec> {
    vec![
        ParamSpec::color("color", "Normals", "#8080ff", "A picture of normals; #8080ff is flat.").ramping(),
        ParamSpec::number("strength", "Strength", "", (0.0, 4.0), 1.0, "How steep it is."),
        ParamSpec::choice(
            "green",
            "Green points",
            &[("up", "up the picture"), ("down", "down the picture")],
            "Which way green points in the picture.",
        ),
        ParamSpec::choice(
            "how",
            "Meets what lies below",
            &[("adds", "adds to it"), ("replaces", "replaces it")],
            "Adds by reoriented normal mapping (Barré-Brisebois & Hill 2012).",
        ),
        amount_spec(),
    ]
}

/// Lays normals over those below, or in their place. Values are directions, y up the picture.
pub(super) fn meet(s: &Resolved, values: &[&[f32]], weight: &[f32], below: &mut [&mut [f32]]) {
    let strength = s.number("strength");
    let adds = s.text("how") != "replaces";
    for (i, w) in weight.iter().enumerate().filter(|(_, w)| **w > 0.0) {
        let [x, y, z] = [0, 1, 2].map(|c: usize| values[c][i]);
        let wanted = Vec3::new(x * strength, y * strength, z.max(1e-3)).normalize_or(Vec3::Z);
        let lower = Vec3::new(below[0][i], below[1][i], below[2][i]);
        let met = if adds {
            let detail = Vec3::Z.lerp(wanted, *w).normalize_or(Vec3::Z);
            Vec3::from(combine(lower.to_array(), detail.to_array()))
        } else {
            lower.lerp(wanted, *w).normalize_or(Vec3::Z)
        };
        (0..3).for_each(|c| below[c][i] = met[c]);
    }
}

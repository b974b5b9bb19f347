//! Anisotropy rotation: the direction in which highlights are drawn out, turned from the tangent of the UVs (KHR_materials_anisotropy).

use super::{Channel, mix_in, mixed};
use crate::setting::ParamSpec;

pub static CHANNEL: Channel = Channel {
    kind: "anisotropy_rotation",
    label: "Anisotropy rotation",
    help: "Which way highlights are drawn out.",
    specs: || {
        mixed(ParamSpec::number(
            "value",
            "Angle",
            "°",
            (-180.0, 180.0),
            90.0,
            "From the direction of the UVs across, counter-clockwise.",
        ))
    },
    bare: &[0.0],
    seen: (-180.0, 180.0),
    always: false,
    put: Some(|m, p, i, _| m.grain = p[i].to_radians()),
    meet: mix_in,
};

//! Attenuation distance: how far light goes through the body until it has the colour of the attenuation, in mm (KHR_materials_volume).

use super::{Channel, mix_in, mixed};
use crate::setting::ParamSpec;

/// In mm, where no coat says another.
pub const DISTANCE: f32 = 10.0;

pub static CHANNEL: Channel = Channel {
    kind: "attenuation_distance",
    label: "Attenuation distance",
    help: "How far light goes through the body until it has that colour.",
    specs: || {
        let help = "The way after which white light has the colour of the attenuation.";
        mixed(ParamSpec::length("value", "Distance", (0.1, 1000.0), 10.0, help))
    },
    bare: &[DISTANCE],
    seen: (0.0, 100.0),
    always: false,
    put: Some(|m, p, i, _| m.distance = p[i]),
    meet: mix_in,
};

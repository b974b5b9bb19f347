//! Specular colour: the tint of a dielectric's reflection seen head-on (KHR_materials_specular).

use super::{Channel, blend_in, blended, color};
use crate::setting::ParamSpec;

pub static CHANNEL: Channel = Channel {
    kind: "specular_color",
    label: "Specular color",
    help: "Tints the reflection of what is not metal.",
    specs: || blended(ParamSpec::color("color", "Color", "#ffffff", "The tint.")),
    bare: &[1.0, 1.0, 1.0],
    seen: (0.0, 1.0),
    always: false,
    put: Some(|m, p, i, n| m.specular_color = color(p, i, n)),
    meet: blend_in,
};

//! Attenuation: the colour that white light has after its way through the body (KHR_materials_volume). glTF has one for a material: the topmost coat's.

use super::{Channel, color, mix_in, mixed};
use crate::setting::ParamSpec;

pub static CHANNEL: Channel = Channel {
    kind: "attenuation_color",
    label: "Attenuation",
    help: "The colour that white light has after its way through the body: bottle glass, slush, resin.",
    specs: || mixed(ParamSpec::color("color", "Color", "#8fb8a0", "What is left of white light after the distance.")),
    bare: &[1.0, 1.0, 1.0],
    seen: (0.0, 1.0),
    always: false,
    put: Some(|m, p, i, n| m.attenuation = color(p, i, n)),
    meet: mix_in,
};

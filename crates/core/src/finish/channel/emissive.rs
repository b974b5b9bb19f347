//! Emissive: the colour of the light that the surface gives off by itself (glTF 2.0), times its strength.

use super::{Channel, blend_in, blended, color};
use crate::setting::ParamSpec;

pub static CHANNEL: Channel = Channel {
    kind: "emissive",
    label: "Emissive",
    help: "The colour of the light that it gives off by itself.",
    specs: || blended(ParamSpec::color("color", "Color", "#ff8a3c", "The colour of the light.")),
    bare: &[0.0, 0.0, 0.0],
    seen: (0.0, 1.0),
    always: false,
    put: Some(|m, p, i, n| m.emissive = color(p, i, n)),
    meet: blend_in,
};

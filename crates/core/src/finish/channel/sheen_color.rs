//! Sheen colour: light that fine fibres standing on the surface scatter towards grazing eyes (KHR_materials_sheen).

use super::{Channel, blend_in, blended, color};
use crate::setting::ParamSpec;

pub static CHANNEL: Channel = Channel {
    kind: "sheen_color",
    label: "Sheen",
    help: "Light that the pile of cloth, felt or dust throws back at grazing angles.",
    specs: || blended(ParamSpec::color("color", "Color", "#9a8f80", "The colour of the sheen.")),
    bare: &[0.0, 0.0, 0.0],
    seen: (0.0, 1.0),
    always: false,
    put: Some(|m, p, i, n| m.sheen_color = color(p, i, n)),
    meet: blend_in,
};

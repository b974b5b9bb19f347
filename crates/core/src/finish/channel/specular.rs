//! Specular: how much of the reflection that its IOR gives it a dielectric has (KHR_materials_specular).

use super::{Channel, blend_in, blended};
use crate::setting::ParamSpec;

pub static CHANNEL: Channel = Channel {
    kind: "specular",
    label: "Specular",
    help: "Weakens the reflection of what is not metal.",
    specs: || blended(ParamSpec::share("value", "Value", 0.5, "1 is the reflection that its IOR gives it.")),
    bare: &[1.0],
    seen: (0.0, 1.0),
    always: false,
    put: Some(|m, p, i, _| m.specular = p[i]),
    meet: blend_in,
};

//! Metallic: 1 for bare metal, 0 for everything else (glTF 2.0).

use super::{Channel, blend_in, blended};
use crate::setting::ParamSpec;

pub static CHANNEL: Channel = Channel {
    kind: "metallic",
    label: "Metallic",
    help: "1 for bare metal, 0 for paint, rust, dirt and everything else.",
    specs: || blended(ParamSpec::share("value", "Value", 0.0, "How metallic it is.")),
    bare: &[0.0],
    seen: (0.0, 1.0),
    always: true,
    put: Some(|m, p, i, _| m.metallic = p[i]),
    meet: blend_in,
};

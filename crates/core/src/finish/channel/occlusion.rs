//! Occlusion: how much of the light around it a hollow of the coat itself is given, on top of the piece's own occlusion (glTF 2.0).

use super::{Channel, blend_in, blended};
use crate::setting::ParamSpec;

pub static CHANNEL: Channel = Channel {
    kind: "occlusion",
    label: "Occlusion",
    help: "Darkens the coat's own hollows, on top of those of the piece.",
    specs: || blended(ParamSpec::share("value", "Value", 0.5, "1 is open, 0 is closed.")),
    bare: &[1.0],
    seen: (0.0, 1.0),
    always: false,
    // It is for who traces no light.
    put: None,
    meet: blend_in,
};

//! Roughness: perceptual roughness, 0 like a mirror, 1 like chalk (glTF 2.0).

use super::{Channel, blend_in, blended};
use crate::setting::ParamSpec;

pub static CHANNEL: Channel = Channel {
    kind: "roughness",
    label: "Roughness",
    help: "0 like a mirror, 1 like chalk.",
    specs: || blended(ParamSpec::share("value", "Value", 0.5, "How rough it is.")),
    bare: &[0.6],
    seen: (0.0, 1.0),
    always: true,
    put: Some(|m, p, i, _| m.roughness = p[i]),
    meet: blend_in,
};

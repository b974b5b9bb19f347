//! Anisotropy: how much longer highlights are across the grain than along it (KHR_materials_anisotropy).

use super::{Channel, blend_in, blended};
use crate::setting::ParamSpec;

pub static CHANNEL: Channel = Channel {
    kind: "anisotropy",
    label: "Anisotropy",
    help: "Draws highlights out, as on brushed metal.",
    specs: || blended(ParamSpec::share("value", "Value", 0.6, "How much highlights are drawn out.")),
    bare: &[0.0],
    seen: (0.0, 1.0),
    always: false,
    put: Some(|m, p, i, _| m.anisotropy = p[i]),
    meet: blend_in,
};

//! Sheen roughness: how far the fibres stray from standing upright (KHR_materials_sheen).

use super::{Channel, blend_in, blended};
use crate::setting::ParamSpec;

pub static CHANNEL: Channel = Channel {
    kind: "sheen_roughness",
    label: "Sheen roughness",
    help: "Low for velvet, high for felt.",
    specs: || blended(ParamSpec::share("value", "Value", 0.5, "How far the sheen spreads.")),
    bare: &[0.5],
    seen: (0.0, 1.0),
    always: false,
    put: Some(|m, p, i, _| m.sheen_roughness = p[i]),
    meet: blend_in,
};

//! Clearcoat roughness: how rough the clear layer is (KHR_materials_clearcoat).

use super::{Channel, blend_in, blended};
use crate::setting::ParamSpec;

pub static CHANNEL: Channel = Channel {
    kind: "clearcoat_roughness",
    label: "Clearcoat roughness",
    help: "How rough the clear layer is.",
    specs: || blended(ParamSpec::share("value", "Value", 0.1, "0 like glass, 1 like ground glass.")),
    bare: &[0.05],
    seen: (0.0, 1.0),
    always: false,
    put: Some(|m, p, i, _| m.clearcoat_roughness = p[i]),
    meet: blend_in,
};

//! Clearcoat: how much of a clear layer lies over everything (KHR_materials_clearcoat).

use super::{Channel, blend_in, blended};
use crate::setting::ParamSpec;

pub static CHANNEL: Channel = Channel {
    kind: "clearcoat",
    label: "Clearcoat",
    help: "A clear layer of varnish, glaze or water over everything.",
    specs: || blended(ParamSpec::share("value", "Value", 1.0, "How much of the clear layer there is.")),
    bare: &[0.0],
    seen: (0.0, 1.0),
    always: false,
    put: Some(|m, p, i, _| m.clearcoat = p[i]),
    meet: blend_in,
};

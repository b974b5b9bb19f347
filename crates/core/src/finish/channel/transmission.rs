//! Transmission: the share of light that goes through rather than into the surface (KHR_materials_transmission).

use super::{Channel, blend_in, blended};
use crate::setting::ParamSpec;

pub static CHANNEL: Channel = Channel {
    kind: "transmission",
    label: "Transmission",
    help: "Lets light through, as glass does.",
    specs: || blended(ParamSpec::share("value", "Value", 1.0, "How much light goes through.")),
    bare: &[0.0],
    seen: (0.0, 1.0),
    always: false,
    put: Some(|m, p, i, _| m.transmission = p[i]),
    meet: blend_in,
};

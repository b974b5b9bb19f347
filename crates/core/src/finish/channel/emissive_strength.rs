//! Emissive strength: how many times brighter than white paper in the sun of the view (KHR_materials_emissive_strength).

use super::{Channel, mix_in, mixed};
use crate::setting::ParamSpec;

pub static CHANNEL: Channel = Channel {
    kind: "emissive_strength",
    label: "Emissive strength",
    help: "How strong its own light is: 1 is as bright as a white sheet, coals are far above.",
    specs: || {
        mixed(ParamSpec {
            log: true,
            ..ParamSpec::number("value", "Value", "", (0.01, 10_000.0), 4.0, "Times the colour.")
        })
    },
    bare: &[1.0],
    seen: (0.0, 10.0),
    always: false,
    // After the colour that it multiplies.
    put: Some(|m, p, i, _| m.emissive *= p[i]),
    meet: mix_in,
};

//! Thickness: how thick the body behind the surface is that lets light through, in mm (KHR_materials_volume).

use super::{Channel, mix_in, mixed};
use crate::setting::ParamSpec;

pub static CHANNEL: Channel = Channel {
    kind: "thickness",
    label: "Body",
    help: "How thick the body is that light goes through; 0 is a thin sheet.",
    specs: || mixed(ParamSpec::number("value", "Thickness", "mm", (0.0, 1000.0), 5.0, "Thickness of the body.")),
    bare: &[0.0],
    seen: (0.0, 50.0),
    always: false,
    put: Some(|m, p, i, _| m.thickness = p[i]),
    meet: mix_in,
};

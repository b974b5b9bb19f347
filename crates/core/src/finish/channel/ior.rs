//! IOR: the index of refraction of a dielectric, which says how much it reflects head-on (KHR_materials_ior).

use super::{Channel, mix_in, mixed};
use crate::setting::ParamSpec;

pub static CHANNEL: Channel = Channel {
    kind: "ior",
    label: "IOR",
    help: "How strongly it bends light: water 1.33, plastics and glass 1.5, glazes 1.6.",
    specs: || mixed(ParamSpec::number("value", "Value", "", (1.0, 3.0), 1.5, "Index of refraction.")),
    bare: &[1.5],
    seen: (1.0, 3.0),
    always: false,
    put: Some(|m, p, i, _| m.ior = p[i]),
    meet: mix_in,
};

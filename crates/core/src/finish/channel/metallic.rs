//! Metallic: 1 for bare metal, 0 for everything else (glTF 2.0).

use super::{Channel, amount_spec, mix_in};
use crate::setting::ParamSpec;

pub static CHANNEL: Channel = Channel {
    kind: "metallic",
    label: "Metallic",
    help: "1 for bare metal, 0 for paint, rust, dirt and everything else.",
    specs: || vec![ParamSpec::share("value", "Value", 0.0, "How metallic it is."), amount_spec()],
    bare: &[0.0],
    lay: |s, weight, below| mix_in(s.number("value"), s.number("amount"), weight, below[0]),
};

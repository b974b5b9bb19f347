//! Roughness: perceptual roughness, 0 like a mirror, 1 like chalk (glTF 2.0).

use super::{Channel, amount_spec, mix_in};
use crate::setting::ParamSpec;

pub static CHANNEL: Channel = Channel {
    kind: "roughness",
    label: "Roughness",
    help: "0 like a mirror, 1 like chalk.",
    specs: || vec![ParamSpec::share("value", "Value", 0.5, "How rough it is."), amount_spec()],
    bare: &[0.6],
    lay: |s, weight, below| mix_in(s.number("value"), s.number("amount"), weight, below[0]),
};

//! Base color: linear Rec. 709, diffuse albedo of dielectrics and reflectance of metals (glTF 2.0).

use super::{Channel, amount_spec, mix_in};
use crate::setting::ParamSpec;

pub static CHANNEL: Channel = Channel {
    kind: "base_color",
    label: "Base color",
    help: "The colour of the material itself, without light.",
    specs: || vec![ParamSpec::color("color", "Color", "#808080", "The colour laid down."), amount_spec()],
    bare: &[0.305, 0.305, 0.296],
    lay: |s, weight, below| {
        let amount = s.number("amount");
        for (value, below) in s.color("color").into_iter().zip(below) {
            mix_in(value, amount, weight, below);
        }
    },
};

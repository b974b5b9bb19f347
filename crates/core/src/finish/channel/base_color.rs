//! Base color: linear Rec. 709, diffuse albedo of dielectrics and reflectance of metals (glTF 2.0).

use super::{Channel, blend_in, blended, color};
use crate::setting::ParamSpec;

pub static CHANNEL: Channel = Channel {
    kind: "base_color",
    label: "Base color",
    help: "The colour of the material itself, without light.",
    specs: || blended(ParamSpec::color("color", "Color", "#808080", "The colour laid down.")),
    bare: &[0.305, 0.305, 0.296],
    seen: (0.0, 1.0),
    always: true,
    put: Some(|m, p, i, n| m.base = color(p, i, n)),
    meet: blend_in,
};

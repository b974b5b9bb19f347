//! Opacity: 1 where the surface covers what lies behind it, 0 where there is a hole (alpha of the base color in glTF 2.0).

use super::{Channel, blend_in, blended};
use crate::setting::ParamSpec;

pub static CHANNEL: Channel = Channel {
    kind: "opacity",
    label: "Opacity",
    help: "1 covers what is behind the piece, 0 is a hole in it.",
    specs: || blended(ParamSpec::share("value", "Value", 0.5, "How much of it covers what is behind.")),
    bare: &[1.0],
    seen: (0.0, 1.0),
    always: false,
    put: Some(|m, p, i, _| m.opacity = p[i]),
    meet: blend_in,
};

//! Follow: the mask of another layer, as that layer publishes it.

use super::{Origin, Source};
use crate::setting::ParamSpec;

pub static SOURCE: Source = Source {
    kind: "follow",
    label: "Follow",
    help: "The mask of another layer that publishes it: rust around the chips, dirt on the runs.",
    specs: || vec![ParamSpec::follow("name", "Follows", "Which published mask; one that is gone is 0 everywhere.")],
    origin: Origin::Follow(|s| s.text("name").to_owned()),
};

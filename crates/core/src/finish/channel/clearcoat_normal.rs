//! Clearcoat normal: fine relief of the clear layer alone, from a picture of normals: orange peel, runs in the varnish (KHR_materials_clearcoat).

use super::{Channel, color, normal};

pub static CHANNEL: Channel = Channel {
    kind: "clearcoat_normal",
    label: "Clearcoat normals",
    help: "Fine relief of the clear layer alone: orange peel, runs in the varnish.",
    specs: normal::specs,
    bare: &[0.0, 0.0, 1.0],
    seen: (-1.0, 1.0),
    always: false,
    put: Some(|m, p, i, n| m.clearcoat_normal = color(p, i, n)),
    meet: normal::meet,
};

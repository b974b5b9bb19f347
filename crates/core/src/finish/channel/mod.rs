//! The channels: one file each, one line each in [`CHANNELS`].

mod anisotropy;
mod anisotropy_rotation;
mod attenuation_color;
mod attenuation_distance;
mod base_color;
mod clearcoat;
mod clearcoat_normal;
mod clearcoat_roughness;
mod emissive;
mod emissive_strength;
mod height;
mod ior;
mod metallic;
mod normal;
mod occlusion;
mod opacity;
mod roughness;
mod sheen_color;
mod sheen_roughness;
mod specular;
mod specular_color;
mod thickness;
mod transmission;

pub use attenuation_distance::DISTANCE;

use std::sync::LazyLock;

use super::blend;
use super::material::{Material, Put, color};
use crate::setting::{ParamSpec, Resolved};

/// How a run of a coat meets what lies below, component by component: settings, values, weights, below. A weight is mask × opacity × amount, 0…1. All slices have
/// one length.
pub type Meet = fn(&Resolved, &[&[f32]], &[f32], &mut [&mut [f32]]);

/// A channel: description, the bare piece's value, and how a coat meets what lies below.
pub struct Channel {
    /// Key.
    pub kind: &'static str,
    /// What the artist reads.
    pub label: &'static str,
    /// One sentence of help.
    pub help: &'static str,
    /// Its settings. The first is the value that is laid down: a colour for three components, a number for one.
    pub specs: fn() -> Vec<ParamSpec>,
    /// The bare piece's value; its length is the channel's number of components, 1 or 3.
    pub bare: &'static [f32],
    /// The numbers that the view of this channel alone shows as black and as white.
    pub seen: (f32, f32),
    /// Whether every piece has it; the others are only evaluated where a coat lays them.
    pub always: bool,
    /// How a still reads it, in this order; none where it is not read by itself.
    pub put: Option<Put>,
    /// How it meets what lies below.
    pub meet: Meet,
}

impl Channel {
    /// Whether its components are a direction in tangent space, and no colour.
    pub fn is_direction(&self) -> bool {
        self.bare.len() == 3 && self.seen.0 < 0.0
    }

    /// The description of the value that is laid down.
    pub fn value(&self) -> ParamSpec {
        (self.specs)().swap_remove(0)
    }
}

/// What a layer does with a channel.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Role {
    /// Lays a value down.
    Lays,
    /// Changes what lies below.
    Changes,
}

/// All channels, in the order they are shown.
pub static CHANNELS: &[&Channel] = &[
    &base_color::CHANNEL,
    &metallic::CHANNEL,
    &roughness::CHANNEL,
    &height::CHANNEL,
    &normal::CHANNEL,
    &opacity::CHANNEL,
    &emissive::CHANNEL,
    &emissive_strength::CHANNEL,
    &clearcoat::CHANNEL,
    &clearcoat_roughness::CHANNEL,
    &clearcoat_normal::CHANNEL,
    &sheen_color::CHANNEL,
    &sheen_roughness::CHANNEL,
    &anisotropy::CHANNEL,
    &anisotropy_rotation::CHANNEL,
    &specular::CHANNEL,
    &specular_color::CHANNEL,
    &ior::CHANNEL,
    &transmission::CHANNEL,
    &thickness::CHANNEL,
    &attenuation_color::CHANNEL,
    &attenuation_distance::CHANNEL,
    &occlusion::CHANNEL,
];

/// The channel of that kind.
pub fn find(kind: &str) -> Option<&'static Channel> {
    CHANNELS.iter().copied().find(|c| c.kind == kind)
}

/// What the bare piece is made of.
static BARE: LazyLock<Material> = LazyLock::new(|| {
    let mut m = Material::NOTHING;
    for channel in CHANNELS {
        if let Some(put) = channel.put {
            put(&mut m, channel.bare, 0, 1);
        }
    }
    m
});

impl Default for Material {
    fn default() -> Self {
        *BARE
    }
}

/// The key of every channel's amount.
pub const AMOUNT: &str = "amount";

/// The description of every channel's amount.
pub fn amount_spec() -> ParamSpec {
    ParamSpec::share(AMOUNT, "Amount", 1.0, "How much of it is laid over what lies below.").varying()
}

/// A value with a blend mode and an amount.
fn blended(value: ParamSpec) -> Vec<ParamSpec> {
    let help = "How it meets what lies below; the formulas are those of the W3C.";
    vec![value.ramping(), ParamSpec::choice("blend", "Blend", &blend::choices(), help), amount_spec()]
}

/// below ← mix(below, B(below, value), weight), within 0…1.
fn blend_in(s: &Resolved, values: &[&[f32]], weight: &[f32], below: &mut [&mut [f32]]) {
    let mode = blend::find(s.text("blend"));
    for (value, below) in values.iter().zip(below) {
        mode.lay(value, weight, (0.0, 1.0), below);
    }
}

/// A value with an amount, for what no formula of the W3C is meant for.
fn mixed(value: ParamSpec) -> Vec<ParamSpec> {
    vec![value.ramping(), amount_spec()]
}

/// below ← mix(below, value, weight).
fn mix_in(_: &Resolved, values: &[&[f32]], weight: &[f32], below: &mut [&mut [f32]]) {
    let mode = blend::find("normal");
    for (value, below) in values.iter().zip(below) {
        mode.lay(value, weight, (f32::MIN, f32::MAX), below);
    }
}

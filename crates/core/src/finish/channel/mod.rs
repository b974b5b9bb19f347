//! The channels: one file each, one line each in [`CHANNELS`].

mod base_color;
mod height;
mod metallic;
mod roughness;

use crate::setting::{ParamSpec, Resolved};

/// A channel: description, the bare piece's value, and how a coat meets what lies below.
pub struct Channel {
    /// Key.
    pub kind: &'static str,
    /// What the artist reads.
    pub label: &'static str,
    /// One sentence of help.
    pub help: &'static str,
    /// Its settings.
    pub specs: fn() -> Vec<ParamSpec>,
    /// The bare piece's value; its length is the channel's number of components, 1 or 3.
    pub bare: &'static [f32],
    /// `lay(settings, weight, below)`: lays a run of the coat over what lies below, component by component. `weight` is mask × opacity, 0…1.
    /// All slices have one length.
    pub lay: fn(&Resolved, &[f32], &mut [&mut [f32]]),
}

/// All channels, in the order they are shown.
pub static CHANNELS: &[&Channel] = &[&base_color::CHANNEL, &metallic::CHANNEL, &roughness::CHANNEL, &height::CHANNEL];

/// The channel of that kind.
pub fn find(kind: &str) -> Option<&'static Channel> {
    CHANNELS.iter().copied().find(|c| c.kind == kind)
}

fn amount_spec() -> ParamSpec {
    ParamSpec::share("amount", "Amount", 1.0, "How much of it replaces what lies below.")
}

/// below ← mix(below, value, weight × amount): the normal blend mode.
fn mix_in(value: f32, amount: f32, weight: &[f32], below: &mut [f32]) {
    for (b, w) in below.iter_mut().zip(weight) {
        *b += (value - *b) * (w * amount);
    }
}

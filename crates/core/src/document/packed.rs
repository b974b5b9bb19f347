//! Masks that come packed in a picture: each of its channels says where something lies. In one step each becomes a layer in flat colour, whose mask is that channel and is published.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;
use ts_rs::TS;

use super::edit::unknown;
use super::elements::flat_coat;
use super::error::{EditError, limits};
use super::ids::fresh;
use super::{Document, layers};
use crate::mask::{MaskLine, Step};
use crate::names::free;
use crate::raster::picture::{Picture, PictureChannel};
use crate::setting::{SettingError, parse_hex};

/// A channel that is taken.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
pub struct PackedChannel {
    /// Which.
    pub channel: PictureChannel,
    /// What lies there: the name of the layer, and of its mask for others.
    pub name: String,
    /// sRGB hex, to tell it by.
    pub color: String,
}

/// What a channel of a picture was found to be.
#[derive(Debug, Clone, PartialEq, Serialize, TS)]
pub struct ToldChannel {
    /// What would be taken.
    pub take: PackedChannel,
    /// Mean of its numbers, 0…1.
    pub mean: f32,
    /// Whether it says anything: its numbers differ.
    pub differs: bool,
}

/// The channels in their order, what each is called, and a colour to tell what lies there by.
const CHANNELS: [(PictureChannel, &str, &str); 4] = [
    (PictureChannel::Red, "red", "#a3532b"),
    (PictureChannel::Green, "green", "#5c6b3f"),
    (PictureChannel::Blue, "blue", "#41637e"),
    (PictureChannel::Alpha, "alpha", "#b9b2a0"),
];
const GREY: (PictureChannel, &str, &str) = (PictureChannel::Grey, "", "#8a8a86");

/// Texels along a side that are looked at.
const LOOKED_AT: u32 = 256;

/// What the channels of a picture are; of one that is grey, the one. `file` is what it is called.
pub fn told_channels(file: &str, picture: &Picture) -> Vec<ToldChannel> {
    let small = picture.preview(LOOKED_AT);
    let stem = file.rsplit_once('.').map_or(file, |(stem, _)| stem);
    let grey = small.values.iter().all(|[r, g, b, _]| r == g && g == b);
    let told = |(channel, called, color): (PictureChannel, &str, &str), c: usize| {
        let values = || small.values.iter().map(|t| t[c]);
        let (least, most) = (values().min().unwrap_or(0), values().max().unwrap_or(0));
        let mean = values().map(f64::from).sum::<f64>() / (255.0 * small.values.len().max(1) as f64);
        let name = format!("{stem} {called}").trim().chars().take(limits::NAME).collect();
        ToldChannel {
            take: PackedChannel { channel, name, color: color.into() },
            mean: mean as f32,
            // What was saved with losses is not quite even.
            differs: most - least > 8,
        }
    };
    let mut out: Vec<ToldChannel> = if grey {
        vec![told(GREY, 0)]
    } else {
        CHANNELS[..3].iter().enumerate().map(|(c, which)| told(*which, c)).collect()
    };
    out.extend(Some(told(CHANNELS[3], 3)).filter(|alpha| alpha.differs));
    out
}

/// Lays the layers of a picture's channels over everything, in their order from below.
pub(super) fn lay_packed(
    d: &mut Document,
    picture: &str,
    channels: &[PackedChannel],
    hard: bool,
) -> Result<(), EditError> {
    let place = d.intake.pictures.iter().position(|p| p.hash == picture).ok_or_else(|| unknown("picture", picture))?;
    let used = &mut d.intake.pictures[place];
    let wrong = |place: &str, setting: &str, wanted: &str| {
        let error = SettingError { setting: setting.into(), wanted: wanted.into() };
        Err(EditError::Setting { place: place.into(), error })
    };
    if !["", "mask"].contains(&used.purpose.as_str()) {
        return wrong(&used.file, "Used for", "masks; it serves the piece in another way");
    }
    used.purpose = "mask".into();
    let file = used.file.clone();
    if channels.is_empty() || channels.len() > CHANNELS.len() {
        return wrong(&file, "Channels", "one to four of them");
    }
    for one in channels {
        if parse_hex(&one.color).is_none() {
            return wrong(&one.name, "Colour", "a colour written as #rrggbb");
        }
        let published = |name: &str| layers(&d.layers).iter().any(|l| l.publish.as_deref() == Some(name));
        let numbered = |n| if n == 1 { one.name.clone() } else { format!("{} {n}", one.name) };
        let publish = Some(free(numbered, published));
        let mut line = vec![json!({
            "kind": "painted", "join": "replace", "settings": {"picture": file, "channel": one.channel},
        })];
        if hard {
            line.push(json!({"kind": "threshold", "settings": {"cut": 0.5, "softness": 0.0}}));
        }
        let step = |value| serde_json::from_value::<Step>(value).expect("the steps are written right, as a test tells");
        let mask = MaskLine { steps: line.into_iter().map(step).collect() };
        let id = fresh(layers(&d.layers).iter().map(|l| l.id.as_str()), 'l');
        let mut layer = flat_coat(id, &one.name, &one.color, mask);
        layer.publish = publish;
        d.layers.push(layer);
    }
    Ok(())
}

//! Adjusting: a layer that changes a channel of what lies below it instead of laying one down.
//!
//! Colours go through levels, gamma and contrast in linear light, and then through hue, chroma and lightness in OKLCh (Ottosson 2020), numbers from 0 to 1 through the first three
//! and an addition, other numbers through a factor and an addition. Every number may vary along a mask: see [`preset`](super::preset).

use super::channel::{Channel, Role, amount_spec};
use crate::raster::oklab;
use crate::setting::ParamSpec;

/// What can be changed of a channel, in the order of the settings.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Change {
    /// Value that becomes 0.
    Black,
    /// Value that becomes 1.
    White,
    /// Exponent 1/gamma.
    Gamma,
    /// Slope about the middle.
    Contrast,
    /// Turn of the hue in degrees.
    Hue,
    /// Factor of the chroma.
    Chroma,
    /// Added to the lightness, 0…1.
    Lightness,
    /// Factor.
    Times,
    /// Added.
    Plus,
}

use Change::{Black, Chroma, Contrast, Gamma, Hue, Lightness, Plus, Times, White};

/// sRGB #808080 as linear light.
const MID_GREY: f32 = 0.215_860_5;
const OF_COLOR: &str = "How far colours lie from a mid-grey, #808080.";
const OF_SHARE: &str = "How far values lie from 0.5.";

const OF_COLORS: &[Change] = &[Hue, Chroma, Lightness, Contrast, Gamma, Black, White];
const OF_SHARES: &[Change] = &[Plus, Contrast, Gamma, Black, White];
const OF_NUMBERS: &[Change] = &[Times, Plus];

impl Change {
    /// The number that changes nothing.
    pub fn neutral(self) -> f32 {
        match self {
            Black | Hue | Lightness | Plus => 0.0,
            White | Gamma | Contrast | Chroma | Times => 1.0,
        }
    }

    fn spec(self, channel: &Channel) -> ParamSpec {
        let number = |key, label, unit, range, help| {
            ParamSpec::number(key, label, unit, range, f64::from(self.neutral()), help).varying()
        };
        match self {
            Black => number("black", "Black", "", (0.0, 1.0), "The value that becomes 0."),
            White => number("white", "White", "", (0.0, 1.0), "The value that becomes 1."),
            Gamma => number("gamma", "Gamma", "", (0.1, 10.0), "Above 1 the middle gets higher, below 1 lower."),
            Contrast => number(
                "contrast",
                "Contrast",
                "",
                (0.0, 4.0),
                if channel.bare.len() == 3 { OF_COLOR } else { OF_SHARE },
            ),
            Hue => number("hue", "Hue", "°", (-180.0, 180.0), "Turns the hue."),
            Chroma => number("chroma", "Chroma", "", (0.0, 4.0), "0 is grey, above 1 more colourful."),
            Lightness => number("lightness", "Lightness", "", (-1.0, 1.0), "Lighter above 0, darker below."),
            Times => number("times", "Times", "", (-10.0, 10.0), "What lies below is multiplied by this."),
            Plus => {
                let value = channel.value();
                let reach = (value.max - value.min).abs();
                number("plus", "Plus", value.unit, (-reach, reach), "This is added to what lies below.")
            }
        }
    }
}

/// What can be changed of a channel.
pub fn changes(channel: &Channel) -> &'static [Change] {
    if channel.bare.len() == 3 {
        // Directions are no colours.
        return if channel.is_direction() { &[] } else { OF_COLORS };
    }
    let value = channel.value();
    if value.min == 0.0 && value.max == 1.0 { OF_SHARES } else { OF_NUMBERS }
}

/// The settings of a layer that adjusts a channel.
pub fn specs(channel: &Channel) -> Vec<ParamSpec> {
    let amount = ParamSpec { help: "How much of the change is taken.", ..amount_spec() };
    changes(channel).iter().map(|c| c.spec(channel)).chain([amount]).collect()
}

impl Channel {
    /// The settings of a layer that does this with it.
    pub fn settings(&self, role: Role) -> Vec<ParamSpec> {
        match role {
            Role::Lays => (self.specs)(),
            Role::Changes => specs(self),
        }
    }
}

/// Changes a texel's components in place, by as many numbers as the channel has changes.
pub fn apply(changes: &[Change], by: &[f32], range: (f32, f32), value: &mut [f32]) {
    let get = |change: Change| changes.iter().position(|c| *c == change).map_or(change.neutral(), |i| by[i]);
    // A mid-grey as one sees it; in linear light a half is far brighter.
    let middle = if value.len() == 3 { MID_GREY } else { 0.5 };
    let (black, white, gamma, contrast) = (get(Black), get(White), get(Gamma), get(Contrast));
    for v in value.iter_mut() {
        *v = *v * get(Times) + get(Plus);
        if black != 0.0 || white != 1.0 {
            // Levels that meet are a hard cut.
            *v = ((*v - black) / (white - black).max(1e-4)).clamp(0.0, 1.0);
        }
        if gamma != 1.0 {
            *v = libm::powf(v.max(0.0), 1.0 / gamma.max(0.01));
        }
        if contrast != 1.0 {
            *v = middle + (*v - middle) * contrast;
        }
        *v = v.clamp(range.0, range.1);
    }
    let (hue, chroma, lightness) = (get(Hue), get(Chroma), get(Lightness));
    if let [r, g, b] = value
        && (hue != 0.0 || chroma != 1.0 || lightness != 0.0)
    {
        let [l, x, y] = oklab::of_linear([*r, *g, *b]);
        let (sin, cos) = (libm::sinf(hue.to_radians()), libm::cosf(hue.to_radians()));
        let turned = [(l + lightness).clamp(0.0, 1.0), (x * cos - y * sin) * chroma, (x * sin + y * cos) * chroma];
        [*r, *g, *b] = oklab::to_linear(turned).map(|c| c.clamp(0.0, 1.0));
    }
}

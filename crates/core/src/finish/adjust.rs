//! Adjusting: a layer that changes a channel of what lies below it instead of laying one down.
//!
//! Colours go through levels, gamma and contrast in linear light, and then through hue, chroma and lightness in OKLCh (Ottosson 2020), numbers from 0 to 1 through the first three
//! and an addition, other numbers through a factor and an addition. Every number may vary along a mask: along *Shell* with a range around 0, each bolt differs a little from the next.

use serde_json::{Value, json};

use super::Finish;
use super::channel::{Channel, amount_spec};
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

/// A ready adjustment: key, label, help, and its channels.
pub struct Adjustment {
    /// Key.
    pub kind: &'static str,
    /// What the artist reads.
    pub label: &'static str,
    /// One sentence of help.
    pub help: &'static str,
    channels: fn() -> Value,
}

impl Adjustment {
    /// What it changes.
    pub fn finish(&self) -> Finish {
        serde_json::from_value(json!({"channels": (self.channels)()})).expect("they are written right, as a test tells")
    }
}

/// Numbers that differ by what a source says, each by a seed or pattern of its own.
fn varied(source: fn(u32) -> Value) -> Value {
    let along = |seed, low: f64, high: f64| json!({"mask": source(seed), "low": low, "high": high});
    json!({
        "base_color": {"on": true, "settings": {
            "hue": along(1, -7.0, 7.0), "chroma": along(2, 0.8, 1.2), "lightness": along(3, -0.06, 0.06)
        }},
        "roughness": {"on": true, "settings": {"plus": along(4, -0.1, 0.1)}}
    })
}

/// All ready adjustments; the first changes nothing yet.
pub static ADJUSTMENTS: &[Adjustment] = &[
    Adjustment {
        kind: "adjust",
        label: "Adjust",
        help: "Changes hue, chroma, lightness, contrast or any other number of what lies below.",
        channels: || json!({"base_color": {"on": true}}),
    },
    Adjustment {
        kind: "vary_shell",
        label: "Vary by shell",
        help: "Every bolt and every plank a little different in hue, chroma, lightness and roughness.",
        channels: || varied(|seed| json!({"kind": "shell", "settings": {"seed": seed}})),
    },
    Adjustment {
        kind: "vary_part",
        label: "Vary by part",
        help: "Every part of the piece a little different.",
        channels: || varied(|seed| json!({"kind": "part_value", "settings": {"seed": seed}})),
    },
    Adjustment {
        kind: "vary_use",
        label: "Vary by use",
        help: "For a recipe: wherever it is used it is a little different.",
        channels: || varied(|seed| json!({"kind": "use", "settings": {"seed": seed}})),
    },
    Adjustment {
        kind: "vary_cell",
        label: "Vary by cell",
        help: "Patches as large as a hand that differ a little, each of one tone.",
        channels: || {
            varied(
                |seed| json!({"kind": "worley", "settings": {"output": "cell", "size": 60, "seed": seed, "warp": 12, "warp_size": 40}}),
            )
        },
    },
    Adjustment {
        kind: "vary_cloud",
        label: "Vary in clouds",
        help: "Large soft clouds of another tone: no wide area is all of one colour.",
        channels: || varied(|seed| json!({"kind": "perlin", "settings": {"size": 160, "octaves": 3, "seed": seed}})),
    },
];

/// Coats of a weighted palette: each shell, part, use or cell takes one of its colours, some more often than others.
pub static PALETTES: &[Adjustment] = &[
    Adjustment {
        kind: "palette_shell",
        label: "Palette by shell",
        help: "Every bolt and every plank takes one colour of a palette, some more often than others.",
        channels: || palette(json!({"kind": "shell", "settings": {"seed": 1}})),
    },
    Adjustment {
        kind: "palette_part",
        label: "Palette by part",
        help: "Every part of the piece takes one colour of a palette.",
        channels: || palette(json!({"kind": "part_value", "settings": {"seed": 1}})),
    },
    Adjustment {
        kind: "palette_use",
        label: "Palette by use",
        help: "For a recipe: wherever it is used it takes one colour of a palette.",
        channels: || palette(json!({"kind": "use", "settings": {"seed": 1}})),
    },
    Adjustment {
        kind: "palette_cell",
        label: "Palette by cell",
        help: "Patches as large as a hand, each of one colour of a palette.",
        channels: || {
            palette(json!({"kind": "worley", "settings": {"output": "cell", "size": 60, "warp": 12, "warp_size": 40}}))
        },
    },
];

fn palette(along: Value) -> Value {
    let colors = [("#2b585e", 0.9), ("#c8b48a", 0.6), ("#7d3a24", 0.4), ("#3d5a46", 0.3), ("#b9bab2", 0.2)];
    let stops: Vec<Value> = colors.iter().map(|(color, weight)| json!({"at": weight, "value": color})).collect();
    json!({"base_color": {"on": true, "settings": {"color": {"along": along, "stops": stops, "between": "palette"}}}})
}

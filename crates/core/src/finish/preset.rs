//! Ready finishes that follow a source: adjustments that let shells, parts, uses, cells or clouds differ a little, and coats of a weighted palette.
//!
//! Every number of an adjustment may vary along a mask: along *Shell* with a range around 0, each bolt differs a little from the next.

use serde_json::{Value, json};

use super::Finish;
use super::vary::Variation;

/// A ready one: key, label, help, and its channels.
pub struct Preset {
    /// Key.
    pub kind: &'static str,
    /// What the artist reads.
    pub label: &'static str,
    /// One sentence of help.
    pub help: &'static str,
    channels: fn() -> Value,
}

impl Preset {
    /// What it changes, or lays down.
    pub fn finish(&self) -> Finish {
        serde_json::from_value(json!({"channels": (self.channels)()})).expect("they are written right, as a test tells")
    }
}

/// Hue, chroma, lightness and roughness that differ a little by what a kind of mask says.
fn varied(by: &str) -> Value {
    let variation = Variation { hue: 7.0, chroma: 0.2, lightness: 0.06, roughness: 0.1, by: by.into(), seed: 1 };
    json!(variation.finish(&Finish::default()).channels)
}

/// All ready adjustments; the first changes nothing yet.
pub static ADJUSTMENTS: &[Preset] = &[
    Preset {
        kind: "adjust",
        label: "Adjust",
        help: "Changes hue, chroma, lightness, contrast or any other number of what lies below.",
        channels: || json!({"base_color": {"on": true}}),
    },
    Preset {
        kind: "vary_shell",
        label: "Vary by shell",
        help: "Every bolt and every plank a little different in hue, chroma, lightness and roughness.",
        channels: || varied("shell"),
    },
    Preset {
        kind: "vary_part",
        label: "Vary by part",
        help: "Every part of the piece a little different.",
        channels: || varied("part_value"),
    },
    Preset {
        kind: "vary_use",
        label: "Vary by use",
        help: "For a recipe: wherever it is used it is a little different.",
        channels: || varied("use"),
    },
    Preset {
        kind: "vary_cell",
        label: "Vary by cell",
        help: "Patches as large as a hand that differ a little, each of one tone.",
        channels: || varied("worley"),
    },
    Preset {
        kind: "vary_cloud",
        label: "Vary in clouds",
        help: "Large soft clouds of another tone: no wide area is all of one colour.",
        channels: || varied("perlin"),
    },
];

/// Coats of a weighted palette: each shell, part, use or cell takes one of its colours, some more often than others.
pub static PALETTES: &[Preset] = &[
    Preset {
        kind: "palette_shell",
        label: "Palette by shell",
        help: "Every bolt and every plank takes one colour of a palette, some more often than others.",
        channels: || palette(json!({"kind": "shell", "settings": {"seed": 1}})),
    },
    Preset {
        kind: "palette_part",
        label: "Palette by part",
        help: "Every part of the piece takes one colour of a palette.",
        channels: || palette(json!({"kind": "part_value", "settings": {"seed": 1}})),
    },
    Preset {
        kind: "palette_use",
        label: "Palette by use",
        help: "For a recipe: wherever it is used it takes one colour of a palette.",
        channels: || palette(json!({"kind": "use", "settings": {"seed": 1}})),
    },
    Preset {
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

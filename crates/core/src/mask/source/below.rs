//! Below: a channel of what lies under the layer, all coats down to the bare piece.

use super::{Origin, Source};
use crate::raster::oklab::{chroma, lightness};
use crate::setting::ParamSpec;

/// The chroma that reads 1: somewhat less than that of the purest blue, the highest in Rec. 709.
const MOST: f32 = 0.3;

pub static SOURCE: Source = Source {
    kind: "below",
    label: "Below",
    help: "What lies under this layer: wear only where it is metal, dirt only where it is low.",
    specs: || {
        vec![
            ParamSpec::choice(
                "channel",
                "Channel",
                &[
                    ("metallic", "metallic"),
                    ("roughness", "roughness"),
                    ("height", "height"),
                    ("base_color", "lightness of the colour"),
                    ("chroma", "chroma of the colour"),
                ],
                "Which channel of it is taken. Greys have no chroma, brass a third, a signal's red two thirds.",
            ),
            ParamSpec::length("span", "Span", (0.001, 100.0), 1.0, "Heights from minus to plus this are 0 to 1.")
                .only_with("channel", &["height"]),
        ]
    },
    origin: Origin::Below(
        |s| match s.text("channel") {
            "roughness" => "roughness",
            "height" => "height",
            "base_color" | "chroma" => "base_color",
            _ => "metallic",
        },
        |s, v| match s.text("channel") {
            "height" => (0.5 + 0.5 * v[0] / s.number("span").max(1e-4)).clamp(0.0, 1.0),
            "base_color" => lightness([v[0], v[1], v[2]]).clamp(0.0, 1.0),
            "chroma" => (chroma([v[0], v[1], v[2]]) / MOST).clamp(0.0, 1.0),
            _ => v[0].clamp(0.0, 1.0),
        },
    ),
};

//! What is laid on with a brush or fired on, in one coat or many.

use serde_json::json;

use super::super::knob::Part::{Inner, Stop, Value as Whole};
use super::super::knob::Reach::{AsItIs, FromTo, Times};
use super::super::knob::{ALL, RELIEF, SIZE, color, knob};
use super::{Starter, along, even, from_to};

pub(super) static STARTERS: &[Starter] = &[
    Starter {
        kind: "dock_paint",
        label: "Dock paint",
        help: "A thick coat of harbour paint, laid on with a brush.",
        channels: || {
            json!({
                "base_color": from_to("perlin", json!({"size": 140, "octaves": 3}), json!("#2b585e"), json!("#34666b")),
                "metallic": even(json!(0.0)),
                "roughness": from_to("perlin", json!({"size": 22, "octaves": 4}), json!(0.34), json!(0.5)),
                "height": from_to("brushed", json!({"turn_z": 90}), json!(0.16), json!(0.24))
            })
        },
        dials: &[
            color("Paint", &[("base_color", Stop(1), AsItIs)]),
            color("Patches", &[("base_color", Stop(0), AsItIs)]),
            RELIEF,
        ],
    },
    Starter {
        kind: "signal_enamel",
        label: "Signal enamel",
        help: "Fired enamel: one deep colour, smooth as glass, a little uneven.",
        channels: || {
            json!({
                "base_color": even(json!("#a82018")),
                "metallic": even(json!(0.0)),
                "roughness": even(json!(0.3)),
                "height": from_to("simplex", json!({"size": 30, "octaves": 2}), json!(0.2), json!(0.24)),
                "clearcoat": even(json!(1.0)),
                "clearcoat_roughness": even(json!(0.04))
            })
        },
        dials: &[
            color("Enamel", &[("base_color", Whole, AsItIs)]),
            knob("Glaze", "%", ALL, &[("clearcoat", Whole, FromTo(0.0, 1.0))]),
            RELIEF,
        ],
    },
    Starter {
        kind: "limewash",
        label: "Limewash",
        help: "Chalky white in many thin coats, cloudy where one was thinner.",
        channels: || {
            json!({
                "base_color": along("perlin", json!({"size": 70, "octaves": 6, "gain": 0.58}), "smooth",
                    &[(0.25, json!("#cfc7b6")), (0.5, json!("#e4dfd3")), (0.75, json!("#efece4"))]),
                "metallic": even(json!(0.0)),
                "roughness": from_to("perlin", json!({"size": 9, "octaves": 3}), json!(0.86), json!(1.0)),
                "height": from_to("perlin", json!({"size": 4, "octaves": 4}), json!(0.05), json!(0.22))
            })
        },
        dials: &[
            color("Thin wash", &[("base_color", Stop(0), AsItIs)]),
            color("Thick wash", &[("base_color", Stop(2), AsItIs)]),
            knob("Clouds", "%", SIZE, &[("base_color", Inner("size"), Times)]),
            RELIEF,
        ],
    },
    Starter {
        kind: "old_coats",
        label: "Many coats of old paint",
        help: "What lies under a coat shows as bands where its mask thins out: give it a soft mask.",
        channels: || {
            json!({
                "base_color": along("own", json!({}), "stepped",
                    &[(0.0, json!("#7d3a24")), (0.2, json!("#c8b48a")), (0.36, json!("#3d5a46")), (0.5, json!("#b9bab2")),
                      (0.62, json!("#7c2f28")), (0.74, json!("#d8d2bf")), (0.86, json!("#2f5d62"))]),
                "metallic": even(json!(0.0)),
                "roughness": even(json!(0.48)),
                "height": from_to("own", json!({}), json!(-0.3), json!(0.5))
            })
        },
        dials: &[
            color("Top coat", &[("base_color", Stop(6), AsItIs)]),
            color("First coat", &[("base_color", Stop(0), AsItIs)]),
            RELIEF,
        ],
    },
];

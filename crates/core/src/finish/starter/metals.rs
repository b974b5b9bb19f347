//! Metals: their base colour is the measured reflectance at normal incidence, from n and k of Johnson & Christy 1972 and the CRC Handbook, through CIE 1931 and D65.

use serde_json::{Value, json};

use super::super::knob::Part::{Inner, Stop, Value as Whole};
use super::super::knob::Reach::{AsItIs, FromTo, Times};
use super::super::knob::{RELIEF, SIZE, color, knob};
use super::{Starter, along, even, from_to};

pub(super) static STARTERS: &[Starter] = &[
    Starter {
        kind: "bare_steel",
        label: "Bare steel",
        help: "Mill steel, rolled one way, with a little of its scale.",
        channels: || {
            json!({
                "base_color": from_to("perlin", json!({"size": 60, "octaves": 5}), json!("#b3b4b6"), json!("#c9cacc")),
                "metallic": even(json!(1.0)),
                "roughness": from_to("brushed", json!({}), json!(0.26), json!(0.46)),
                "height": even(json!(0.0))
            })
        },
        dials: &[
            color("Lighter tone", &[("base_color", Stop(1), AsItIs)]),
            knob("Grain", "%", SIZE, &[("roughness", Inner("size"), Times)]),
            knob(
                "Dullness",
                "",
                (0.0, 1.0, 0.5),
                &[("roughness", Stop(0), FromTo(0.1, 0.42)), ("roughness", Stop(1), FromTo(0.22, 0.7))],
            ),
        ],
    },
    Starter {
        kind: "cast_iron",
        label: "Cast iron",
        help: "Grey iron as it comes from the sand: dull and finely pitted.",
        channels: || {
            json!({
                "base_color": from_to("perlin", json!({"size": 30, "octaves": 6}), json!("#6f6d6b"), json!("#8d8b89")),
                "metallic": even(json!(1.0)),
                "roughness": from_to("perlin", json!({"size": 12, "octaves": 4, "seed": 3}), json!(0.5), json!(0.78)),
                "height": from_to("perlin", json!({"size": 2.4, "octaves": 3, "gain": 0.6}), json!(-0.16), json!(0.1))
            })
        },
        dials: &[
            knob("Pits", "%", SIZE, &[("height", Inner("size"), Times)]),
            RELIEF,
            color("Lighter tone", &[("base_color", Stop(1), AsItIs)]),
        ],
    },
    Starter {
        kind: "galvanised",
        label: "Galvanised sheet",
        help: "Zinc that has set in large crystals, each with a sheen of its own.",
        channels: || {
            let crystals = json!({"output": "cell", "size": 10, "jitter": 1.0, "warp": 0.4, "warp_size": 5});
            json!({
                "base_color": along("worley", crystals.clone(), "linear",
                    &[(0.0, json!("#b0b5b8")), (0.5, json!("#bdc2c5")), (1.0, json!("#ccd1d4"))]),
                "metallic": even(json!(1.0)),
                "roughness": from_to("worley", crystals.clone(), json!(0.26), json!(0.46)),
                "height": even(json!(0.0)),
                // Each crystal was drawn out its own way.
                "anisotropy": even(json!(0.45)),
                "anisotropy_rotation": from_to("worley", crystals.clone(), json!(-180), json!(180))
            })
        },
        dials: &[
            knob(
                "Crystals",
                "%",
                SIZE,
                &[
                    ("base_color", Inner("size"), Times),
                    ("roughness", Inner("size"), Times),
                    ("anisotropy_rotation", Inner("size"), Times),
                ],
            ),
            color("Darkest", &[("base_color", Stop(0), AsItIs)]),
            knob("Sparkle", "%", (0.0, 100.0, 45.0), &[("anisotropy", Whole, FromTo(0.0, 1.0))]),
        ],
    },
    Starter {
        kind: "brushed_brass",
        label: "Brushed brass",
        help: "Brass turned on a lathe: fine lines around the upright axis.",
        channels: || {
            let lines = json!({"placement": "cylindrical", "size": 80, "length": 1.2});
            json!({
                "base_color": from_to("brushed", lines.clone(), json!("#dcc287"), json!("#f0dca6")),
                "metallic": even(json!(1.0)),
                "roughness": from_to("brushed", lines, json!(0.2), json!(0.42)),
                "height": even(json!(0.0)),
                "anisotropy": even(json!(0.75)),
                "anisotropy_rotation": from_to("grain", json!({"runs": "across"}), json!(-180), json!(180))
            })
        },
        dials: &[
            knob("Lines", "%", SIZE, &[("base_color", Inner("size"), Times), ("roughness", Inner("size"), Times)]),
            knob("Stretch", "%", (0.0, 100.0, 75.0), &[("anisotropy", Whole, FromTo(0.0, 1.0))]),
            color("Lighter tone", &[("base_color", Stop(1), AsItIs)]),
        ],
    },
    Starter {
        kind: "copper_patina",
        label: "Copper with its patina",
        help: "Copper that has browned, and gone green where the damp stays.",
        channels: || {
            let damp = json!({"size": 52, "octaves": 6, "gain": 0.6});
            let at = |v: [Value; 4]| {
                let [a, b, c, d] = v;
                along("perlin", damp.clone(), "smooth", &[(0.2, a), (0.42, b), (0.6, c), (0.84, d)])
            };
            json!({
                "base_color": at([json!("#e8b49c"), json!("#7c5440"), json!("#52675a"), json!("#739a88")]),
                "metallic": at([json!(1.0), json!(0.9), json!(0.15), json!(0.0)]),
                "roughness": at([json!(0.3), json!(0.45), json!(0.8), json!(0.9)]),
                "height": at([json!(0.0), json!(0.0), json!(0.05), json!(0.12)])
            })
        },
        dials: &[
            knob(
                "Patches",
                "%",
                SIZE,
                &[
                    ("base_color", Inner("size"), Times),
                    ("metallic", Inner("size"), Times),
                    ("roughness", Inner("size"), Times),
                    ("height", Inner("size"), Times),
                ],
            ),
            color("Patina", &[("base_color", Stop(3), AsItIs)]),
            color("Browned", &[("base_color", Stop(1), AsItIs)]),
            RELIEF,
        ],
    },
];

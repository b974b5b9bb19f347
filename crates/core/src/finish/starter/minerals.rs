//! What was fired, frozen or burnt: porcelain, glass, ice and coals.

use serde_json::{Value, json};

use super::super::knob::Part::{Inner, Stop, Value as Whole};
use super::super::knob::Reach::{AsItIs, FromTo, Times};
use super::super::knob::{RELIEF, SIZE, color, knob};
use super::{Starter, along, even, from_to};

pub(super) static STARTERS: &[Starter] = &[
    Starter {
        kind: "porcelain",
        label: "Insulator porcelain",
        help: "Glazed porcelain: white going to grey, with a few iron specks.",
        channels: || {
            json!({
                "base_color": along("spots", json!({"small": 0.3, "large": 1.2, "density": 0.2, "output": "border"}), "stepped",
                    &[(0.0, json!("#e3dfd6")), (0.4, json!("#8a7a66"))]),
                "metallic": even(json!(0.0)),
                "roughness": even(json!(0.35)),
                "height": from_to("simplex", json!({"size": 40, "octaves": 2}), json!(0.0), json!(0.05)),
                "ior": even(json!(1.6)),
                "clearcoat": even(json!(1.0)),
                "clearcoat_roughness": even(json!(0.03))
            })
        },
        dials: &[
            color("Glaze", &[("base_color", Stop(0), AsItIs)]),
            color("Speck", &[("base_color", Stop(1), AsItIs)]),
            knob("Speckling", "", (0.0, 1.0, 0.2), &[("base_color", Inner("density"), FromTo(0.0, 1.0))]),
        ],
    },
    Starter {
        kind: "lamp_glass",
        label: "Frosted lamp glass",
        help: "Pressed glass, etched on the inside so that it spreads the lamp's light, smooth outside.",
        channels: || {
            json!({
                "base_color": even(json!("#f2f5f1")),
                "metallic": even(json!(0.0)),
                "roughness": from_to("perlin", json!({"size": 24, "octaves": 3}), json!(0.34), json!(0.5)),
                "height": from_to("simplex", json!({"size": 34, "octaves": 2}), json!(0.0), json!(0.12)),
                "ior": even(json!(1.52)),
                "transmission": even(json!(0.82)),
                "thickness": even(json!(4)),
                "attenuation_color": even(json!("#d3e8dd")),
                "attenuation_distance": even(json!(10)),
                "clearcoat": even(json!(1.0)),
                "clearcoat_roughness": even(json!(0.03))
            })
        },
        dials: &[
            color("Glass", &[("base_color", Whole, AsItIs)]),
            knob("Clearness", "%", (0.0, 100.0, 82.0), &[("transmission", Whole, FromTo(0.0, 1.0))]),
            RELIEF,
        ],
    },
    Starter {
        kind: "rime",
        label: "Rime and wet slush",
        help: "Frost grown against the wind, in needles, with slush between them that lets light through.",
        channels: || {
            let needles = json!({"size": 7, "octaves": 4});
            let at = |values: [Value; 3]| {
                let [a, b, c] = values;
                along("ridged", needles.clone(), "smooth", &[(0.2, a), (0.45, b), (0.85, c)])
            };
            json!({
                "base_color": at([json!("#9fb4bf"), json!("#c6d5dd"), json!("#eaf0f3")]),
                "metallic": even(json!(0.0)),
                "roughness": at([json!(0.08), json!(0.45), json!(0.9)]),
                "height": at([json!(0.1), json!(0.3), json!(1.5)]),
                "ior": even(json!(1.31)),
                "transmission": at([json!(0.75), json!(0.4), json!(0.12)]),
                "thickness": even(json!(3))
            })
        },
        dials: &[
            knob(
                "Needles",
                "%",
                SIZE,
                &[
                    ("base_color", Inner("size"), Times),
                    ("roughness", Inner("size"), Times),
                    ("height", Inner("size"), Times),
                    ("transmission", Inner("size"), Times),
                ],
            ),
            RELIEF,
            color("Slush", &[("base_color", Stop(0), AsItIs)]),
        ],
    },
    Starter {
        kind: "brazier_coals",
        label: "Coals in the brazier",
        help: "Coals that glow from their cracks, under a skin of ash.",
        channels: || {
            let lumps = |output: &str| json!({"output": output, "size": 26, "jitter": 1.0, "warp": 5, "warp_size": 14});
            json!({
                "base_color": along("worley", lumps("border"), "smooth",
                    &[(0.0, json!("#1a1412")), (0.3, json!("#2b2624")), (1.0, json!("#77706a"))]),
                "metallic": even(json!(0.0)),
                "roughness": even(json!(0.95)),
                "height": from_to("worley", lumps("border"), json!(-2.4), json!(1.2)),
                "emissive": along("worley", lumps("border"), "smooth",
                    &[(0.0, json!("#ff8a20")), (0.08, json!("#d83006")), (0.22, json!("#380501")), (0.36, json!("#000000"))]),
                "emissive_strength": from_to("perlin", json!({"size": 60, "octaves": 3}), json!(0.3), json!(2.4))
            })
        },
        dials: &[
            knob(
                "Lumps",
                "%",
                SIZE,
                &[
                    ("base_color", Inner("size"), Times),
                    ("height", Inner("size"), Times),
                    ("emissive", Inner("size"), Times),
                ],
            ),
            knob("Glow", "", (0.01, 10.0, 2.4), &[("emissive_strength", Stop(1), FromTo(0.01, 10.0))]),
            color("Hottest", &[("emissive", Stop(0), AsItIs)]),
            RELIEF,
        ],
    },
];

//! What once grew or was woven: timber, leather and cloth.

use serde_json::{Value, json};

use super::super::knob::Part::{Inner, Stop};
use super::super::knob::Reach::{AsItIs, Times};
use super::super::knob::{RELIEF, SIZE, color, knob};
use super::{Starter, along, even, from_to};

pub(super) static STARTERS: &[Starter] = &[
    Starter {
        kind: "tarred_timber",
        label: "Tarred timber",
        help: "Timber soaked in tar, glossy where it has run, the grain still telling.",
        channels: || {
            json!({
                "base_color": along("rings", json!({}), "linear",
                    &[(0.0, json!("#3b2a1e")), (0.6, json!("#251a14")), (1.0, json!("#15100d"))]),
                "metallic": even(json!(0.0)),
                "roughness": from_to("perlin", json!({"size": 26, "octaves": 5}), json!(0.24), json!(0.68)),
                "height": from_to("rings", json!({}), json!(0.25), json!(-0.1))
            })
        },
        dials: &[
            knob("Growth rings", "%", SIZE, &[("base_color", Inner("size"), Times), ("height", Inner("size"), Times)]),
            color("Bare timber", &[("base_color", Stop(0), AsItIs)]),
            RELIEF,
        ],
    },
    Starter {
        kind: "shutter_planks",
        label: "Shutter planks",
        help: "Weathered planks side by side, no two alike, nailed down at their ends.",
        channels: || {
            let planks = json!({"output": "whole", "size": 32, "length": 150, "gap": 2.4, "head": 6, "inset": 10,
                "grain": 1.8, "placement": "planar", "axis": "z"});
            let at = |between: &str, stops: &[(f64, Value)]| along("planks", planks.clone(), between, stops);
            json!({
                "base_color": at("linear", &[
                    (0.0, json!("#8b8681")), (0.1, json!("#5d4a3e")), (0.14, json!("#17120e")), (0.2, json!("#2b231c")),
                    (0.25, json!("#40362c")), (0.6, json!("#7b6f61")), (1.0, json!("#b5aa98"))]),
                "metallic": at("stepped", &[(0.0, json!(0.8)), (0.12, json!(0.0))]),
                "roughness": at("linear", &[(0.0, json!(0.42)), (0.1, json!(0.75)), (0.25, json!(0.95)), (1.0, json!(0.72))]),
                "height": at("linear", &[
                    (0.0, json!(0.7)), (0.1, json!(0.3)), (0.14, json!(-1.6)), (0.2, json!(-0.5)), (0.25, json!(-0.18)),
                    (1.0, json!(0.12))])
            })
        },
        dials: &[
            color("Dark streaks", &[("base_color", Stop(4), AsItIs)]),
            color("Pale planks", &[("base_color", Stop(6), AsItIs)]),
            color("Nails", &[("base_color", Stop(0), AsItIs)]),
            knob(
                "Planks",
                "%",
                SIZE,
                &[
                    ("base_color", Inner("size"), Times),
                    ("metallic", Inner("size"), Times),
                    ("roughness", Inner("size"), Times),
                    ("height", Inner("size"), Times),
                ],
            ),
            RELIEF,
        ],
    },
    Starter {
        kind: "tool_leather",
        label: "Tool-pouch leather",
        help: "Thick leather, polished by hands on its grain and dark in its creases.",
        channels: || {
            let grain = json!({"output": "border", "size": 2.6, "jitter": 1.0});
            json!({
                "base_color": along("worley", grain.clone(), "smooth",
                    &[(0.0, json!("#3a2012")), (0.3, json!("#6a4023")), (1.0, json!("#7d4f2c"))]),
                "metallic": even(json!(0.0)),
                "roughness": from_to("worley", grain.clone(), json!(0.7), json!(0.42)),
                "height": from_to("worley", grain, json!(-0.14), json!(0.08))
            })
        },
        dials: &[color("Leather", &[("base_color", Stop(1), AsItIs)]), RELIEF],
    },
    Starter {
        kind: "bench_cloth",
        label: "Bench cloth",
        help: "Coarse cloth of two yarns over a bench.",
        channels: || {
            let yarns = json!({"size": 5, "placement": "triplanar"});
            json!({
                "base_color": along("weave", yarns.clone(), "linear",
                    &[(0.0, json!("#3c3a30")), (0.55, json!("#6f6a55")), (1.0, json!("#8d866c"))]),
                "metallic": even(json!(0.0)),
                "roughness": even(json!(0.95)),
                "height": from_to("weave", yarns.clone(), json!(-0.4), json!(0.35)),
                "sheen_color": from_to("weave", yarns, json!("#3a2f3f"), json!("#9a8f78")),
                "sheen_roughness": even(json!(0.45))
            })
        },
        dials: &[
            knob(
                "Yarns",
                "%",
                SIZE,
                &[
                    ("base_color", Inner("size"), Times),
                    ("height", Inner("size"), Times),
                    ("sheen_color", Inner("size"), Times),
                ],
            ),
            color("Warp", &[("base_color", Stop(2), AsItIs)]),
            color("Weft", &[("base_color", Stop(0), AsItIs)]),
            color("Pile", &[("sheen_color", Stop(1), AsItIs)]),
            RELIEF,
        ],
    },
    Starter {
        kind: "oilskin",
        label: "Oilskin",
        help: "Waxed cloth: the weave shows faintly, the wax is worn off in folds.",
        channels: || {
            json!({
                "base_color": from_to("perlin", json!({"size": 80, "octaves": 5}), json!("#94701f"), json!("#b98f33")),
                "metallic": even(json!(0.0)),
                "roughness": along("veins", json!({"size": 60}), "smooth", &[(0.0, json!(0.32)), (0.4, json!(0.62))]),
                "height": from_to("weave", json!({"size": 1.6, "placement": "triplanar"}), json!(0.0), json!(0.07))
            })
        },
        dials: &[
            color("Oilskin", &[("base_color", Stop(1), AsItIs)]),
            color("Darker folds", &[("base_color", Stop(0), AsItIs)]),
            RELIEF,
        ],
    },
];

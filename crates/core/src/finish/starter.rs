//! Starters for finishes: ready materials, built of ordinary channels and ramps, good out of the box and open to change. One entry each in [`STARTERS`].
//!
//! Metals have the colour of their measured reflectance at normal incidence (from n and k of Johnson & Christy 1972 and the CRC Handbook, through CIE 1931 and D65);
//! what is not metal keeps its base colour between that of charcoal (0.02) and that of fresh snow (0.9).
//! Lengths are meant for a piece about as large as a gate valve.

use serde_json::{Value, json};

use super::Finish;
use super::knob::Part::{Inner, Stop, Value as Whole};
use super::knob::Reach::{AsItIs, FromTo, Times};
use super::knob::{self, ALL, FinishDial, Knob, RELIEF, SIZE, color, knob};

/// A ready finish.
pub struct Starter {
    /// Key.
    pub kind: &'static str,
    /// What the artist reads.
    pub label: &'static str,
    /// One sentence of help.
    pub help: &'static str,
    channels: fn() -> Value,
    /// Its dials.
    dials: &'static [Knob],
}

impl Starter {
    /// Its channels with its dials at work, and these. As they stand the finish looks as without them.
    pub fn with_dials(&self) -> (Finish, Vec<FinishDial>) {
        let mut finish = self.finish();
        let dials = knob::put(&mut finish, self.dials);
        (finish, dials)
    }

    /// Its channels.
    pub fn finish(&self) -> Finish {
        let written = json!({"channels": (self.channels)()});
        serde_json::from_value(written).expect("starters are written right, as a test tells")
    }
}

/// A channel that lays one value down.
fn even(value: Value) -> Value {
    let key = if value.is_string() { "color" } else { "value" };
    json!({"on": true, "settings": {key: value}})
}

/// A channel whose value is read along a pattern: its stops as places and values.
fn along(kind: &str, settings: Value, between: &str, stops: &[(f64, Value)]) -> Value {
    let key = if stops[0].1.is_string() { "color" } else { "value" };
    let stops: Vec<Value> = stops.iter().map(|(at, value)| json!({"at": at, "value": value})).collect();
    let ramp = json!({"along": {"kind": kind, "settings": settings}, "stops": stops, "between": between});
    json!({"on": true, "settings": {key: ramp}})
}

/// The same with two values, from one end to the other.
fn from_to(kind: &str, settings: Value, low: Value, high: Value) -> Value {
    along(kind, settings, "linear", &[(0.0, low), (1.0, high)])
}

/// All starters.
pub static STARTERS: &[Starter] = &[
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
            let crystals = json!({"output": "cell", "size": 14, "warp": 3, "warp_size": 8});
            json!({
                "base_color": from_to("worley", crystals.clone(), json!("#a9aeb1"), json!("#cdd2d4")),
                "metallic": even(json!(1.0)),
                "roughness": from_to("worley", crystals, json!(0.28), json!(0.52)),
                "height": even(json!(0.0))
            })
        },
        dials: &[
            knob("Crystals", "%", SIZE, &[("base_color", Inner("size"), Times), ("roughness", Inner("size"), Times)]),
            color("Darkest", &[("base_color", Stop(0), AsItIs)]),
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
                along("perlin", damp.clone(), "smooth", &[(0.22, a), (0.44, b), (0.6, c), (0.8, d)])
            };
            json!({
                "base_color": at([json!("#e8b49c"), json!("#8a5a42"), json!("#4d6f60"), json!("#7fb39c")]),
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
        help: "Weathered planks side by side, no two alike.",
        channels: || {
            let rows = json!({"size": 34, "length": 260, "placement": "planar", "axis": "z"});
            let each = {
                let mut each = rows.clone();
                each["output"] = json!("cell");
                each
            };
            json!({
                "base_color": along("planks", each, "linear",
                    &[(0.0, json!("#554a40")), (0.5, json!("#857a6c")), (1.0, json!("#b0a38e"))]),
                "metallic": even(json!(0.0)),
                "roughness": from_to("fibres", json!({}), json!(0.9), json!(0.7)),
                "height": from_to("planks", rows, json!(-1.2), json!(0.0))
            })
        },
        dials: &[
            color("Dark planks", &[("base_color", Stop(0), AsItIs)]),
            color("Pale planks", &[("base_color", Stop(2), AsItIs)]),
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
        help: "Pressed glass, etched so that it spreads the lamp's light.",
        channels: || {
            json!({
                "base_color": even(json!("#eef2ee")),
                "metallic": even(json!(0.0)),
                "roughness": from_to("perlin", json!({"size": 3, "octaves": 3}), json!(0.3), json!(0.5)),
                "height": from_to("perlin", json!({"size": 1.2, "octaves": 2}), json!(-0.02), json!(0.02)),
                "ior": even(json!(1.52)),
                "transmission": even(json!(0.9)),
                "thickness": even(json!(4)),
                "attenuation_color": even(json!("#cfe3d6")),
                "attenuation_distance": even(json!(8))
            })
        },
        dials: &[
            color("Glass", &[("base_color", Whole, AsItIs)]),
            knob("Clearness", "%", (0.0, 100.0, 90.0), &[("transmission", Whole, FromTo(0.0, 1.0))]),
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

/// The starter of that kind.
pub fn find(kind: &str) -> Option<&'static Starter> {
    STARTERS.iter().find(|s| s.kind == kind)
}

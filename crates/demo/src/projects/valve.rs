//! The gate valve, dressed, and the recipe that its paint is.

use dustcoat_core::document::{Dial, Document, Layer, LayerKind, Preset, Recipe, Variant};
use dustcoat_core::mask::{Join, Step};
use dustcoat_core::pin::Spot;
use dustcoat_core::setting::{ColorsDrive, Drive, MaskSource, Param, Value};
use dustcoat_core::stroke::{Point, Points, Stroke, Track};
use glam::Vec3;

use crate::pieces::valve::{WHEEL, belly};

use super::dressing::{
    clouds, coat, dial, drawn, driven, invert, levels, look, numbered, outdoors, palette, pinned, publishing, relief,
    settings, step, threshold, variant,
};
use super::study;

/// The chips: edges roughened by clouds, cut where the dial Wear says, turned round so that paint is what is left.
fn unchipped(low: f64, high: f64) -> Vec<Step> {
    vec![
        step(Join::Replace, 1.0, "edges", &[]),
        levels(0.03, 0.3),
        clouds(Join::Add, 0.55, 42.0, 6.0, 11.0),
        clouds(Join::Overlay, 0.5, 7.0, 5.0, 4.0),
        threshold(driven("wear", low, high), 0.03),
        invert(),
    ]
}

/// Steel, primer and dock paint, chipped at the edges and rusted in the recesses; driven by the dials of [`dock_paint_dials`].
fn dock_paint_layers() -> Vec<Layer> {
    vec![
        coat("Bare steel", 1.0, look("#8f8d89", 1.0, 0.36), vec![]),
        coat(
            "Mill scale",
            0.85,
            look("#4a4644", 0.85, 0.55),
            vec![clouds(Join::Replace, 1.0, 26.0, 6.0, 3.0), threshold(0.5.into(), 0.3)],
        ),
        coat(
            "Rust on steel",
            0.9,
            relief(0.04, "adds", look("#6e3c1e", 0.0, 0.88)),
            vec![clouds(Join::Replace, 1.0, 15.0, 6.0, 21.0), threshold(driven("wear", 0.66, 0.46), 0.22)],
        ),
        coat("Red primer", 1.0, relief(0.06, "adds", look("#7b3526", 0.0, 0.62)), unchipped(1.0, 0.32)),
        publishing(
            "dock paint",
            coat(
                "Dock paint",
                1.0,
                relief(0.14, "adds", look(Drive::plain("paint"), 0.0, 0.36)),
                unchipped(0.98, 0.24),
            ),
        ),
        coat(
            "Sun-bleached paint",
            0.5,
            look("#6f9a92", 0.0, 0.55),
            vec![
                step(Join::Replace, 1.0, "facing", &[("spread", 100.0.into())]),
                clouds(Join::Multiply, 0.7, 90.0, 4.0, 8.0),
                levels(0.12, 0.8),
                clouds(Join::Multiply, 0.5, 12.0, 5.0, 31.0),
            ],
        ),
        publishing(
            "rust",
            coat(
                "Recess rust",
                1.0,
                relief(0.09, "adds", look("#5b2c16", 0.0, 0.9)),
                vec![
                    step(Join::Replace, 1.0, "recesses", &[]),
                    levels(0.03, 0.4),
                    clouds(Join::Add, 0.5, 30.0, 6.0, 17.0),
                    clouds(Join::Overlay, 0.45, 5.0, 4.0, 2.0),
                    threshold(driven("wear", 0.9, 0.28), 0.12),
                ],
            ),
        ),
        coat(
            "Bright rust",
            0.85,
            look("#a2592a", 0.0, 0.92),
            vec![
                step(Join::Replace, 1.0, "recesses", &[]),
                levels(0.02, 0.5),
                clouds(Join::Add, 0.45, 18.0, 6.0, 40.0),
                clouds(Join::Multiply, 0.9, 4.0, 4.0, 9.0),
                threshold(driven("wear", 0.6, 0.3), 0.2),
            ],
        ),
        coat(
            "Rust runs",
            0.8,
            look("#74401f", 0.0, 0.82),
            vec![
                step(Join::Replace, 1.0, "follow", &[("name", "rust".into())]),
                step(
                    Join::Multiply,
                    1.0,
                    "run",
                    &[
                        ("length", 75.0.into()),
                        ("width", 4.0.into()),
                        ("density", 0.3.into()),
                        ("wander", 0.15.into()),
                        ("fade", 0.75.into()),
                        ("keep", "streaks".into()),
                    ],
                ),
                clouds(Join::Multiply, 0.6, 9.0, 5.0, 71.0),
            ],
        ),
        coat(
            "Grime",
            driven("grime", 0.0, 1.0),
            look("#2a2723", 0.0, 0.8),
            vec![
                step(Join::Replace, 1.0, "occlusion", &[]),
                invert(),
                levels(0.3, 0.95),
                clouds(Join::Multiply, 0.6, 30.0, 5.0, 55.0),
            ],
        ),
        coat(
            "Salt bloom",
            driven("salt", 0.0, 0.9),
            look("#cfccc0", 0.0, 0.95),
            vec![
                step(Join::Replace, 1.0, "facing", &[("spread", 75.0.into())]),
                clouds(Join::Multiply, 1.0, 42.0, 6.0, 77.0),
                clouds(Join::Overlay, 0.7, 6.0, 4.0, 5.0),
                levels(0.26, 0.62),
            ],
        ),
    ]
}

fn dock_paint_dials() -> Vec<Dial> {
    vec![
        dial("wear", "Wear", "Weather", Value::Number(0.5)),
        dial("salt", "Salt", "Weather", Value::Number(0.35)),
        dial("grime", "Grime", "Weather", Value::Number(0.55)),
        dial("paint", "Paint", "Colour", Value::Text("#2f605d".into())),
    ]
}

/// The project that opens first: the gate valve, dressed.
pub fn gate_valve() -> Document {
    let mut document = Document::new("Gate valve");
    let mut layers = dock_paint_layers();
    layers.push(coat(
        "Handled metal",
        0.8,
        look("#9a9892", 1.0, 0.28),
        vec![
            step(Join::Replace, 1.0, "part", &[("part", "handwheel".into())]),
            step(Join::Multiply, 1.0, "edges", &[]),
            clouds(Join::Add, 0.6, 30.0, 5.0, 63.0),
            // Two hands have turned it for years: more is bare there, broken up as elsewhere.
            drawn(vec![grip(1, 0.35, 1.1), grip(2, 3.4, 4.3)]),
            threshold(0.44.into(), 0.12),
            step(Join::Multiply, 1.0, "part", &[("part", "handwheel".into())]),
        ],
    ));
    layers.insert(6, stencil());
    layers.push(tag());
    numbered(&mut layers, &mut 0);
    document.layers = layers;
    document.dials = dock_paint_dials();
    document.variants = variants(&document);
    outdoors(&mut document, "Thirty years on", 30.0);
    let palettes = vec![
        palette("Quay paints", &[("#2f6b6f", 0.5), ("#c9b98f", 0.2), ("#7b3526", 0.15), ("#33424f", 0.15)]),
        palette("Rust", &[("#5b2c16", 0.4), ("#74401f", 0.3), ("#a2592a", 0.2), ("#c98a4b", 0.1)]),
    ];
    document.study = study::of_valve(&document, palettes);
    note_down(&mut document);
    document
}

/// What whoever takes the valve over should know.
fn note_down(document: &mut Document) {
    let notes = [
        ("Recess rust", "As in the photograph of the cleat: where water stands, never on tops."),
        ("Salt bloom", "Keep it off the name plate."),
    ];
    for layer in &mut document.layers {
        if let Some((_, note)) = notes.iter().find(|(name, _)| *name == layer.name) {
            layer.note = (*note).into();
        }
    }
}

/// What a hand wears bare along the wheel's rim, on its outer upper side, between two angles.
fn grip(number: u32, from: f32, to: f32) -> Stroke {
    let point = |i: u32| {
        let (sin, cos) =
            (libm::sinf(from + (to - from) * i as f32 / 24.0), libm::cosf(from + (to - from) * i as f32 / 24.0));
        let normal = Vec3::new(cos, 1.0, sin) * std::f32::consts::FRAC_1_SQRT_2;
        let at = Vec3::new(WHEEL.radius * cos, WHEEL.height, WHEEL.radius * sin) + normal * WHEEL.rim;
        // Pressed less towards both ends.
        let pressure = libm::sinf(std::f32::consts::PI * (i as f32 + 2.0) / 28.0);
        Point { at, normal, pressure, tilt: 0.0, time: i * 20 }
    };
    let track = Track { points: (0..=24).map(point).collect() };
    let points = Points::new(&track).expect("it has points");
    Stroke { id: format!("s{number}"), hardness: 0.1, flow: 0.75, value: 0.8, ..Stroke::new(points, 12.0) }
}

/// The valve's number, sprayed on the dock paint's belly between plate and neck, and chipped with it.
fn stencil() -> Layer {
    let (turn, y) = (0.42f32, 29.0);
    let out = belly(y);
    // The belly draws in towards its neck.
    let lean = belly(y - 0.5) - belly(y + 0.5);
    let (x, z) = (libm::sinf(turn), libm::cosf(turn));
    let spot =
        Spot { at: [out * x, y, out * z].map(f64::from), normal: [x, lean, z].map(f64::from), up: [0.0, 1.0, 0.0] };
    let mut steps = vec![
        pinned("stencil-number", spot, 40.0, &[]),
        clouds(Join::Multiply, 0.75, 16.0, 6.0, 91.0),
        levels(0.16, 0.42),
    ];
    // Where the paint below it is gone, it is gone as well.
    steps.push(step(Join::Multiply, 1.0, "follow", &[("name", "dock paint".into())]));
    coat("Stencil", 0.92, relief(0.02, "adds", look("#cfcabb", 0.0, 0.5)), steps)
}

/// The tag of its last inspection, on an arm of the yoke.
fn tag() -> Layer {
    let lean = 0.05f64;
    let spot = Spot {
        at: [36.3, 168.0, 0.0],
        normal: [libm::cos(lean), libm::sin(lean), 0.0],
        up: [-libm::sin(lean), libm::cos(lean), 0.0],
    };
    let mut layer = coat(
        "Inspection tag",
        1.0,
        relief(0.25, "replaces", look("#c9bd9b", 0.0, 0.7)),
        vec![pinned("inspection-tag", spot, 20.0, &[("depth", 3.0.into())])],
    );
    if let LayerKind::Coat { finish } = &mut layer.kind
        && let Some(color) = finish.channels.get_mut("base_color")
    {
        let colors = MaskSource { kind: "pinned_colors".into(), settings: settings(&[]) };
        color.settings.insert("color".into(), Param::Colors(ColorsDrive { colors }));
    }
    layer
}

/// As it was found, and two more that hold what differs: left to itself, and painted anew.
fn variants(document: &Document) -> Vec<Variant> {
    let found = "As found";
    let all: Vec<(&str, Value)> = document.dials.iter().map(|d| (d.id.as_str(), d.value.clone())).collect();
    let neglected = [("wear", Value::Number(0.92)), ("salt", Value::Number(0.8)), ("grime", Value::Number(0.9))];
    let anew = [
        ("wear", Value::Number(0.12)),
        ("salt", Value::Number(0.1)),
        ("grime", Value::Number(0.25)),
        ("paint", Value::Text("#8a3b2c".into())),
    ];
    vec![
        variant(found, None, &all),
        variant("Neglected", Some(found), &neglected),
        variant("Painted anew", Some(found), &anew),
    ]
}

/// How far the weather has come, for any piece.
fn dock_paint_presets() -> Vec<Preset> {
    let preset = |name: &str, [wear, salt, grime]: [f64; 3]| Preset {
        name: name.into(),
        values: [("wear", wear), ("salt", salt), ("grime", grime)].map(|(id, v)| (id.into(), Value::Number(v))).into(),
    };
    vec![preset("New", [0.08, 0.05, 0.1]), preset("Used", [0.5, 0.35, 0.55]), preset("Neglected", [0.92, 0.8, 0.9])]
}

/// The recipe of the demo cabinet: dock paint over steel, with dials for wear, salt, grime and the colour of the paint.
pub fn dock_paint() -> Recipe {
    let mut layers = dock_paint_layers();
    numbered(&mut layers, &mut 0);
    Recipe {
        note: "Primer and paint, chipped at the edges, rusted in the recesses, salt on top.".into(),
        tags: vec!["paint".into(), "steel".into(), "rust".into(), "harbour".into()],
        presets: dock_paint_presets(),
        ..Recipe::new("Dock paint over steel", layers, dock_paint_dials())
    }
}

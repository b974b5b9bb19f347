//! Projects and recipes of the demo.

use std::collections::BTreeMap;

use dustcoat_core::document::{Dial, Document, Layer, LayerKind, Palette, Preset, Recipe, Variant, whole_variant};
use dustcoat_core::finish::{ChannelUse, Finish};
use dustcoat_core::mask::{Join, MaskLine, Step};
use dustcoat_core::setting::{DialKind, Drive, Param, Settings, Swatch, Value};

fn settings(list: &[(&str, Param)]) -> Settings {
    list.iter().map(|(k, v)| ((*k).to_owned(), v.clone())).collect()
}

fn step(join: Join, amount: f64, kind: &str, list: &[(&str, Param)]) -> Step {
    Step { id: String::new(), on: true, join, amount: amount.into(), kind: kind.into(), settings: settings(list) }
}

fn clouds(join: Join, amount: f64, size: f64, octaves: f64, seed: f64) -> Step {
    let gain = 0.55.into();
    let list = [("size", size.into()), ("octaves", octaves.into()), ("gain", gain), ("seed", seed.into())];
    step(join, amount, "perlin", &list)
}

fn levels(black: f64, white: f64) -> Step {
    step(Join::Multiply, 1.0, "levels", &[("black", black.into()), ("white", white.into())])
}

fn threshold(cut: Param, softness: f64) -> Step {
    step(Join::Multiply, 1.0, "threshold", &[("cut", cut), ("softness", softness.into())])
}

fn invert() -> Step {
    step(Join::Multiply, 1.0, "invert", &[])
}

fn driven(dial: &str, low: f64, high: f64) -> Param {
    Drive::ranged(dial, low, high).into()
}

struct Look<'a> {
    color: Param,
    metallic: f64,
    roughness: f64,
    height: Option<(f64, &'a str)>,
}

fn coat(name: &str, opacity: impl Into<Param>, look: Look, steps: Vec<Step>) -> Layer {
    let on = |list: &[(&str, Param)]| ChannelUse { on: true, settings: settings(list) };
    let mut channels = BTreeMap::from([
        ("base_color".to_owned(), on(&[("color", look.color)])),
        ("metallic".to_owned(), on(&[("value", look.metallic.into())])),
        ("roughness".to_owned(), on(&[("value", look.roughness.into())])),
    ]);
    if let Some((value, relief)) = look.height {
        channels.insert("height".to_owned(), on(&[("value", value.into()), ("relief", relief.into())]));
    }
    Layer {
        id: String::new(),
        name: name.into(),
        shown: true,
        opacity: opacity.into(),
        mask: MaskLine { steps },
        publish: None,
        kind: LayerKind::Coat { finish: Finish { channels } },
    }
}

/// A layer whose mask others may follow.
fn publishing(name: &str, layer: Layer) -> Layer {
    Layer { publish: Some(name.into()), ..layer }
}

fn look(color: impl Into<Param>, metallic: f64, roughness: f64) -> Look<'static> {
    Look { color: color.into(), metallic, roughness, height: None }
}

fn relief(height: f64, how: &'static str, look: Look<'static>) -> Look<'static> {
    Look { height: Some((height, how)), ..look }
}

/// Numbers layers and steps as edits would.
fn numbered(layers: &mut [Layer], next: &mut usize) {
    for l in layers {
        *next += 1;
        l.id = format!("l{next}");
        for (i, s) in l.mask.steps.iter_mut().enumerate() {
            s.id = format!("s{}", i + 1);
        }
        if let LayerKind::Group { layers } = &mut l.kind {
            numbered(layers, next);
        }
    }
}

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
        coat("Dock paint", 1.0, relief(0.14, "adds", look(Drive::plain("paint"), 0.0, 0.36)), unchipped(0.98, 0.24)),
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

fn dial(id: &str, label: &str, group: &str, value: Value) -> Dial {
    let kind = if matches!(value, Value::Number(_)) { DialKind::Number } else { DialKind::Color };
    Dial { group: group.into(), ..Dial::new(id, label, kind, value) }
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
            threshold(0.44.into(), 0.12),
            step(Join::Multiply, 1.0, "part", &[("part", "handwheel".into())]),
        ],
    ));
    numbered(&mut layers, &mut 0);
    document.layers = layers;
    document.dials = dock_paint_dials();
    document.variants = variants(&document);
    document.study.palettes = vec![
        palette("Quay paints", &[("#2f6b6f", 0.5), ("#c9b98f", 0.2), ("#7b3526", 0.15), ("#33424f", 0.15)]),
        palette("Rust", &[("#5b2c16", 0.4), ("#74401f", 0.3), ("#a2592a", 0.2), ("#c98a4b", 0.1)]),
    ];
    document
}

/// As it was found, and two more that hold what differs: left to itself, and painted anew.
fn variants(document: &Document) -> Vec<Variant> {
    let found = "As found";
    let variant = |name: &str, on: Option<&str>, values: &[(&str, Value)]| Variant {
        name: name.into(),
        on: on.map(Into::into),
        values: values.iter().map(|(id, v)| ((*id).into(), v.clone())).collect(),
        shown: Default::default(),
    };
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

/// What the valve's variants say of the paint, for any piece.
fn dock_paint_presets() -> Vec<Preset> {
    let mut document = Document::new("Dock paint");
    document.dials = dock_paint_dials();
    document.variants = variants(&document);
    let values = |name: &str| whole_variant(&document, name).values;
    document.variants.iter().map(|v| Preset { name: v.name.clone(), values: values(&v.name) }).collect()
}

fn palette(name: &str, colors: &[(&str, f64)]) -> Palette {
    let colors = colors.iter().map(|(color, weight)| Swatch { color: (*color).into(), weight: *weight }).collect();
    Palette { name: name.into(), colors }
}

/// The swatch tile with nothing but a lick of limewash: something to start on.
pub fn swatch_tile() -> Document {
    let mut document = Document::new("Swatch tile");
    let mut layers = vec![
        coat("Cast iron", 1.0, look("#55524f", 1.0, 0.6), vec![]),
        coat(
            "Limewash",
            0.95,
            relief(0.2, "adds", look("#d8d2c4", 0.0, 0.9)),
            vec![
                step(Join::Replace, 1.0, "edges", &[]),
                levels(0.05, 0.6),
                clouds(Join::Add, 0.7, 45.0, 6.0, 5.0),
                threshold(0.55.into(), 0.06),
                invert(),
            ],
        ),
    ];
    numbered(&mut layers, &mut 0);
    document.layers = layers;
    document
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

/// Everything that the demo's cabinet begins with.
pub fn recipes() -> Vec<Recipe> {
    vec![
        dock_paint(),
        of_coats(
            &["Recess rust", "Bright rust", "Rust runs"],
            "Sea rust",
            "Rust that sits in the recesses and runs down from them.",
            &["rust", "runs", "harbour"],
        ),
        of_coats(&["Grime", "Salt bloom"], "Salt and grime", "What wind and hands leave behind.", &["dirt", "salt"]),
        of_coats(
            &["Handled metal"],
            "Worn grips",
            "Metal that hands have rubbed bright, on the part that is held.",
            &["wear", "metal"],
        ),
    ]
}

/// A recipe of some of the valve's coats.
fn of_coats(names: &[&str], name: &str, note: &str, tags: &[&str]) -> Recipe {
    let mut document = gate_valve();
    document.layers.retain(|l| names.contains(&l.name.as_str()));
    let recipe = Recipe::of_layer(&document, None, name).expect("these coats stand by themselves");
    Recipe { note: note.into(), tags: tags.iter().map(|t| (*t).into()).collect(), ..recipe }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn demo_documents_and_recipes_are_valid() {
        for d in [gate_valve(), swatch_tile()] {
            dustcoat_core::document::check(&d).unwrap();
        }
        assert_eq!(recipes().iter().filter(|r| r.check().is_ok()).count(), 4);
        assert!(dustcoat_core::document::driven(&gate_valve(), "wear").len() >= 2, "Wear moves several settings");
    }
}

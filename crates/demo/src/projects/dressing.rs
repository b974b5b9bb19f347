//! What projects are dressed with: layers, steps, dials and variants in few words.

use std::collections::BTreeMap;
use std::sync::Arc;

use dustcoat_core::document::{Dial, Document, Layer, LayerKind, Palette, Recipe, Variant};
use dustcoat_core::finish::{ChannelUse, Finish};
use dustcoat_core::mask::{Join, MaskLine, Step};
use dustcoat_core::pin::Spot;
use dustcoat_core::ready;
use dustcoat_core::setting::{DialKind, Drive, Param, Settings, Swatch, Value};
use dustcoat_core::stroke::Stroke;

use crate::recipes::recipe;

pub fn settings(list: &[(&str, Param)]) -> Settings {
    list.iter().map(|(k, v)| ((*k).to_owned(), v.clone())).collect()
}

pub fn step(join: Join, amount: f64, kind: &str, list: &[(&str, Param)]) -> Step {
    Step {
        id: String::new(),
        on: true,
        join,
        amount: amount.into(),
        kind: kind.into(),
        settings: settings(list),
        strokes: Default::default(),
        spot: None,
        note: String::new(),
    }
}

/// A step of strokes, drawn over what stands before it.
pub fn drawn(strokes: Vec<Stroke>) -> Step {
    Step { strokes: Arc::new(strokes), ..step(Join::Replace, 1.0, "strokes", &[]) }
}

/// A step that lays a made-up picture at a spot.
pub fn pinned(key: &str, spot: Spot, width: f64, list: &[(&str, Param)]) -> Step {
    let mut all = vec![("picture", Param::from(format!("{key}.png").as_str())), ("size", width.into())];
    all.extend_from_slice(list);
    Step { spot: Some(spot), ..step(Join::Replace, 1.0, "pin", &all) }
}

pub fn clouds(join: Join, amount: f64, size: f64, octaves: f64, seed: f64) -> Step {
    let gain = 0.55.into();
    let list = [("size", size.into()), ("octaves", octaves.into()), ("gain", gain), ("seed", seed.into())];
    step(join, amount, "perlin", &list)
}

pub fn levels(black: f64, white: f64) -> Step {
    step(Join::Multiply, 1.0, "levels", &[("black", black.into()), ("white", white.into())])
}

pub fn threshold(cut: Param, softness: f64) -> Step {
    step(Join::Multiply, 1.0, "threshold", &[("cut", cut), ("softness", softness.into())])
}

pub fn invert() -> Step {
    step(Join::Multiply, 1.0, "invert", &[])
}

pub fn driven(dial: &str, low: f64, high: f64) -> Param {
    Drive::ranged(dial, low, high).into()
}

pub struct Look<'a> {
    color: Param,
    metallic: f64,
    roughness: f64,
    height: Option<(f64, &'a str)>,
}

pub fn coat(name: &str, opacity: impl Into<Param>, look: Look, steps: Vec<Step>) -> Layer {
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
        note: String::new(),
        kind: LayerKind::Coat { finish: Finish { channels } },
    }
}

/// A layer whose mask others may follow.
pub fn publishing(name: &str, layer: Layer) -> Layer {
    Layer { publish: Some(name.into()), ..layer }
}

pub fn look(color: impl Into<Param>, metallic: f64, roughness: f64) -> Look<'static> {
    Look { color: color.into(), metallic, roughness, height: None }
}

pub fn relief(height: f64, how: &'static str, look: Look<'static>) -> Look<'static> {
    Look { height: Some((height, how)), ..look }
}

/// Numbers layers and steps as edits would.
pub fn numbered(layers: &mut [Layer], next: &mut usize) {
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

pub fn dial(id: &str, label: &str, group: &str, value: Value) -> Dial {
    let kind = if matches!(value, Value::Number(_)) { DialKind::Number } else { DialKind::Color };
    Dial { group: group.into(), ..Dial::new(id, label, kind, value) }
}

pub fn palette(name: &str, colors: &[(&str, f64)]) -> Palette {
    let colors = colors.iter().map(|(color, weight)| Swatch { color: (*color).into(), weight: *weight }).collect();
    Palette { name: name.into(), colors }
}

/// A variant that holds what is said of some dials; the rest as in the one that it builds on.
pub fn variant(name: &str, on: Option<&str>, values: &[(&str, Value)]) -> Variant {
    Variant {
        name: name.into(),
        on: on.map(Into::into),
        values: values.iter().map(|(id, v)| ((*id).into(), v.clone())).collect(),
        shown: Default::default(),
    }
}

/// A mask line of some parts.
pub fn parts(names: &[&str]) -> Vec<Step> {
    let one = |(k, name): (usize, &&str)| {
        step(if k == 0 { Join::Replace } else { Join::Max }, 1.0, "part", &[("part", (*name).into())])
    };
    names.iter().enumerate().map(one).collect()
}

/// The same layer where a mask line has it, under another name.
pub fn within(name: &str, steps: Vec<Step>, layer: Layer) -> Layer {
    Layer { name: name.into(), mask: MaskLine { steps }, ..layer }
}

/// A layer that follows a recipe; what is said of its dials, by their labels.
pub fn used(recipe: &Recipe, said: &[(&str, Param)]) -> Layer {
    let mut layer = recipe.to_use();
    let id = |label: &str| &recipe.dials.iter().find(|d| d.label == label).expect("the recipe has that dial").id;
    if let LayerKind::Use { values, .. } = &mut layer.kind {
        values.extend(said.iter().map(|(label, to)| (id(label).clone(), to.clone())));
    }
    layer
}

/// A coat or an adjustment as its JSON says.
pub fn written(layer: serde_json::Value) -> Layer {
    serde_json::from_value(layer).expect("it is written right, as a test tells")
}

/// A dial from 0 to 1.
pub fn share(id: &str, label: &str, help: &str, value: f64) -> Dial {
    Dial { help: help.into(), ..Dial::new(id, label, DialKind::Number, Value::Number(value)) }
}

pub fn color(id: &str, label: &str, value: &str) -> Dial {
    Dial::new(id, label, DialKind::Color, Value::Text(value.into()))
}

/// A ready finish.
pub fn finish(kind: &str) -> Layer {
    ready::find(kind).expect("there is such a finish").plain()
}

/// A project of layers, which are numbered, and dials.
pub fn dressed(name: &str, mut layers: Vec<Layer>, dials: Vec<Dial>) -> Document {
    numbered(&mut layers, &mut 0);
    Document { layers, dials, ..Document::new(name) }
}

/// Lays years outdoors over all else, by the weather of the project. A dial says how many: at none, as the piece was found, nothing is laid and nothing measured for it. One
/// more variant, on the first, turns it.
pub fn outdoors(document: &mut Document, name: &str, years: f64) {
    let over = used(recipe("years_outdoors"), &[("Years", driven("outdoors", 0.0, 50.0))]);
    document.layers.push(over);
    numbered(&mut document.layers, &mut 0);
    document.dials.push(Dial {
        unit: "years".into(),
        max: 50.0,
        step: 1.0,
        group: "Weather".into(),
        help: "How long rain, sun, dust and damp have had it, by the weather that Surface says.".into(),
        ..Dial::new("outdoors", "Years outdoors", DialKind::Number, Value::Number(0.0))
    });
    let found = document.variants.first_mut().expect("it has variants");
    found.values.insert("outdoors".into(), Value::Number(0.0));
    let later = variant(name, Some(&found.name), &[("outdoors", Value::Number(years))]);
    document.variants.push(later);
}

//! Recipes on other pieces and within each other: slots, presets, what they ask of a piece, how deep they may go.

use crate::common::{add_box, coat, cube, document, driven_by, evaluated, group, of_step, step};
use dustcoat_core::bake::Surface;
use dustcoat_core::document::{
    Dial, Document, Edit, EditError, Layer, LayerKind, Preset, Variant, apply, check, limits, lost_names,
};
use dustcoat_core::mask::Join;
use dustcoat_core::mesh::{Piece, Soup};
use dustcoat_core::recipe::Recipe;
use dustcoat_core::recipe::package::{PackageLimits, read_recipe, write_recipe};
use dustcoat_core::setting::{DialKind, Drive, Param, Settings, Value};

fn named(id: &str, recipe: &Recipe) -> Recipe {
    Recipe { id: id.into(), name: id.into(), ..recipe.clone() }
}

fn use_of(id: &str, recipe: &Recipe) -> Layer {
    Layer { id: id.into(), ..recipe.to_use() }
}

/// A document of one coat, whose cut follows a dial, on the part `+y`.
fn top() -> Document {
    let steps = vec![
        step(Join::Replace, "perlin", &[("size", 12.0.into())]),
        step(Join::Multiply, "threshold", &[]),
        step(Join::Multiply, "part", &[("part", "+y".into())]),
    ];
    let d = document(vec![coat("l1", "#808080", vec![]), coat("l2", "#7a3010", steps)]);
    driven_by(&d, Dial::number("", "Wear", "", (0.0, 1.0), 0.5), &of_step("l2", "s2", "cut"), 0.7, 0.3)
}

fn on_top() -> Recipe {
    Recipe::of_layer(&top(), Some("l2"), "On top").unwrap()
}

#[test]
fn what_a_recipe_names_becomes_a_slot_and_it_looks_as_it_did() {
    let recipe = on_top();
    let slot = recipe.dials.iter().find(|d| d.kind() == DialKind::Part).expect("a slot");
    assert_eq!((slot.label.as_str(), &slot.default), ("+y", &Value::Text("+y".into())));
    assert_eq!(recipe.clone().with_slots(), recipe, "once is enough");
    let surface = Surface::new(cube(40.0), 128);
    let direct = apply(&top(), &Edit::RemoveLayer { layer: "l1".into() }).unwrap();
    let used = document(vec![use_of("l1", &recipe)]);
    assert_eq!(evaluated(&used, &surface).channels, evaluated(&direct, &surface).channels);
    // Another part fills it, in this use alone.
    let turn = |part: &str| Edit::TurnDial {
        layer: Some("l1".into()),
        dial: slot.id.clone(),
        value: Value::Text(part.into()),
    };
    let side = apply(&used, &turn("+x")).unwrap();
    assert_ne!(evaluated(&side, &surface).channels, evaluated(&used, &surface).channels);
    assert!(lost_names(&side, &cube(40.0)).is_empty());
    let lost = lost_names(&apply(&used, &turn("lid")).unwrap(), &cube(40.0));
    assert!(lost[0].what.contains("in the recipe On top asks for the part “lid”"), "{lost:?}");
    // One of the time before slots gets them as it is read.
    let mut older = recipe.clone();
    older.dials.retain(|d| d.kind() != DialKind::Part);
    older.layers[0].mask.steps[2].settings.insert("part".into(), "+y".into());
    assert_eq!(read_recipe(&write_recipe(&older, None), PackageLimits::default()).unwrap(), recipe);
}

/// A box of one part that is called something like what is looked for, and one that isn't.
fn crate_of(parts: [&str; 2]) -> Piece {
    let mut soup = Soup::default();
    add_box(&mut soup, [0.0; 3], [300.0, 200.0, 100.0], [0.0, 0.0, 1.0, 1.0]);
    let mut piece = Piece::build(soup).unwrap();
    piece.parts.truncate(2);
    for (part, name) in piece.parts.iter_mut().zip(parts) {
        part.name = name.into();
    }
    piece
}

#[test]
fn a_fit_says_what_is_asked_what_stands_in_and_how_large_patterns_come_out() {
    let mut d = top();
    d.layers[1].mask.steps[2].settings.insert("part".into(), "Metal band".into());
    let recipe = Recipe::of_layer(&d, Some("l2"), "Band").unwrap();
    let needs = recipe.needs();
    assert_eq!((needs.parts, needs.pictures.len(), needs.measurements.len()), (vec!["Metal band".to_owned()], 0, 0));
    let takes = |parts| recipe.fit(&Settings::new(), &crate_of(parts)).slots[0].takes.clone();
    assert_eq!(takes(["wood", "Metal band"]).as_deref(), Some("Metal band"));
    assert_eq!(takes(["wood", "metal_bands"]).as_deref(), Some("metal_bands"), "what is alike stands in");
    assert_eq!(takes(["wood", "glass"]), None, "and nothing else does");
    let piece = crate_of(["a", "b"]);
    let [size] = &recipe.fit(&Settings::new(), &piece).sizes[..] else { panic!("one pattern") };
    assert_eq!((size.pattern.as_str(), size.mm), ("Clouds", 12.0));
    let diagonal = f64::from(piece.diagonal());
    assert!((size.share - 12.0 / diagonal).abs() < 1e-9);
    // One whose sizes follow the piece comes out smaller on a smaller one.
    let mut with = recipe.clone();
    with.layers[0].mask.steps[0].settings.insert("scale".into(), "piece".into());
    let size = &with.fit(&Settings::new(), &piece).sizes[0];
    assert!((size.mm - 12.0 * diagonal / 600.0).abs() < 1e-4, "{}", size.mm);
}

#[test]
fn a_recipe_of_the_whole_section_may_hold_uses_whose_slots_are_its_own() {
    let inner = named("inner", &on_top());
    let mut d = document(vec![coat("l1", "#404040", vec![]), use_of("l2", &inner)]);
    d = apply(&d, &Edit::AddDial { dial: Dial::number("", "Age", "", (0.0, 1.0), 0.8) }).unwrap();
    let wear = dustcoat_core::document::Target {
        layer: Some("l2".into()),
        dial: Some("d1".into()),
        key: "value".into(),
        ..Default::default()
    };
    d = apply(&d, &Edit::SetParam { target: wear, value: Some(Drive::plain("d1").into()) }).unwrap();
    let outer = Recipe::of_layer(&d, None, "All of it").unwrap();
    let labels: Vec<&str> = outer.dials.iter().map(|d| d.label.as_str()).collect();
    assert_eq!(labels, ["Age", "+y"], "what drives what it holds, and the slot of the recipe within");
    let surface = Surface::new(cube(40.0), 128);
    let used = document(vec![use_of("l1", &outer)]);
    check(&used).unwrap();
    assert_eq!(evaluated(&used, &surface).channels, evaluated(&d, &surface).channels);
    // Both its dials reach through.
    for (dial, value) in [("d1", Value::Number(0.1)), (outer.dials[1].id.as_str(), Value::Text("-z".into()))] {
        let turned = apply(&used, &Edit::TurnDial { layer: Some("l1".into()), dial: dial.into(), value }).unwrap();
        assert_ne!(evaluated(&turned, &surface).channels, evaluated(&used, &surface).channels, "{dial}");
    }
    // Loosened, the one within is still a use, and all looks the same.
    let loose = apply(&used, &Edit::Loosen { layer: "l1".into() }).unwrap();
    assert_eq!(evaluated(&loose, &surface).channels, evaluated(&used, &surface).channels);
    assert_eq!(read_recipe(&write_recipe(&outer, None), PackageLimits::default()).unwrap(), outer);
}

#[test]
fn recipes_go_eight_deep_and_never_round() {
    let mut recipe = named("r1", &on_top());
    for i in 2..=limits::NESTED {
        let holds = Recipe::new("holds", vec![use_of("l1", &recipe)], vec![]);
        recipe = named(&format!("r{i}"), &holds);
    }
    recipe.check().unwrap();
    let d = document(vec![use_of("l1", &recipe)]);
    check(&d).unwrap();
    let text = serde_json::to_string(&d).unwrap();
    assert_eq!(serde_json::from_str::<Document>(&text).unwrap(), d, "what is kept can be read again");
    let surface = Surface::new(cube(40.0), 64);
    let straight = document(vec![use_of("l1", &on_top())]);
    assert_eq!(evaluated(&d, &surface).channels, evaluated(&straight, &surface).channels);
    let deeper = Recipe::new("one more", vec![use_of("l1", &recipe)], vec![]);
    let said = deeper.check().unwrap_err().to_string();
    assert!(said.contains("9 recipes within recipes") && said.contains("the most is 8"), "{said}");
    let round = Recipe {
        layers: vec![use_of("l1", &named("b", &Recipe::new("b", vec![use_of("l1", &named("a", &on_top()))], vec![])))],
        ..named("a", &on_top())
    };
    let said = Recipe { dials: vec![], ..round }.check().unwrap_err().to_string();
    assert!(said.contains("would hold itself: a → b → a"), "{said}");
}

#[test]
fn groups_and_recipes_within_each_other_end_before_a_document_could_not_be_read_again() {
    let mut layer = coat("l1", "#404040", vec![]);
    for i in 0..limits::DEPTH {
        layer = if i % 3 == 0 {
            use_of("l1", &Recipe::new("r", vec![layer], vec![]))
        } else {
            group(&format!("g{i}"), vec![layer])
        };
    }
    let d = document(vec![layer.clone()]);
    check(&d).unwrap();
    let text = serde_json::to_string(&d).unwrap();
    assert_eq!(serde_json::from_str::<Document>(&text).unwrap(), d);
    let said = check(&document(vec![group("g99", vec![layer])])).unwrap_err();
    assert!(matches!(said, EditError::TooMany { limit: limits::DEPTH, .. }), "{said}");
}

#[test]
fn variants_become_presets_and_a_use_takes_one_but_for_what_is_driven() {
    let mut d = top();
    let values = |v: f64| [("d1".to_owned(), Value::Number(v))].into();
    let variant =
        |name: &str, v: f64| Variant { name: name.into(), on: None, values: values(v), shown: Default::default() };
    d.variants = vec![variant("New", 0.1), variant("Old", 0.9)];
    let recipe = Recipe::of_layer(&d, Some("l2"), "On top").unwrap();
    assert_eq!(recipe.presets.iter().map(|p| p.name.as_str()).collect::<Vec<_>>(), ["New", "Old"]);
    let take = Edit::TakePreset { layer: "l1".into(), name: "Old".into() };
    let set = |d: &Document| {
        let LayerKind::Use { values, .. } = &d.layers[0].kind else { panic!("a use") };
        values.clone()
    };
    let taken = apply(&document(vec![use_of("l1", &recipe)]), &take).unwrap();
    assert_eq!(set(&taken)["d1"], Param::from(0.9));
    // What the artist lets the project drive stays with the project.
    let mut driven = document(vec![use_of("l1", &recipe)]);
    driven.dials = vec![Dial::number("d5", "Age", "", (0.0, 1.0), 0.3)];
    let LayerKind::Use { values: by, .. } = &mut driven.layers[0].kind else { panic!("a use") };
    by.insert("d1".into(), Drive::plain("d5").into());
    assert_eq!(set(&apply(&driven, &take).unwrap())["d1"], Param::from(Drive::plain("d5")));
    let gone = Edit::TakePreset { layer: "l1".into(), name: "Ancient".into() };
    assert!(apply(&driven, &gone).unwrap_err().to_string().contains("Ancient"));
    // Kept from a use, it holds what the dials stand at and no slots; the next version takes it over.
    let kept = recipe.clone().with_preset("Salted", &set(&taken), &Default::default());
    assert_eq!(kept.presets[2], Preset { name: "Salted".into(), values: values(0.9) });
    let next = Recipe::of_layer(&top(), Some("l2"), "On top").unwrap().after(&kept);
    assert_eq!(next.presets.len(), 3);
    assert_eq!((next.version, next.history.len()), (2, 1));
    next.check().unwrap();
}

#[test]
fn too_many_presets_and_values_that_no_dial_takes_are_refused_in_a_sentence() {
    let preset =
        |i: usize, v: f64| Preset { name: format!("P{i}"), values: [("d1".to_owned(), Value::Number(v))].into() };
    let many = Recipe { presets: (0..10_000).map(|i| preset(i, 0.5)).collect(), ..on_top() };
    assert!(many.check().unwrap_err().to_string().contains("10000 presets; the most is 64"));
    let out = Recipe { presets: vec![preset(0, 7.0)], ..on_top() };
    assert!(out.check().unwrap_err().to_string().contains("Wear"));
    let unknown = Preset { name: "Lost".into(), values: [("d9".to_owned(), Value::Number(1.0))].into() };
    assert!(Recipe { presets: vec![unknown], ..on_top() }.check().unwrap_err().to_string().contains("d9"));
}

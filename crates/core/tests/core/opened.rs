//! A recipe opened in place: its other uses follow, and what is kept or dropped is all of it.

use crate::common::{coat, cube, document, driven_by, evaluated, of_channel, of_layer, of_step, step};
use dustcoat_core::bake::Surface;
use dustcoat_core::document::{Dial, Document, Edit, Layer, LayerKind, Target, apply, opened_recipe};
use dustcoat_core::mask::Join;
use dustcoat_core::recipe::Recipe;
use dustcoat_core::setting::{Drive, Param, Settings, Value};

fn done(d: &Document, edit: Edit) -> Document {
    apply(d, &edit).unwrap_or_else(|e| panic!("{edit:?}: {e}"))
}

/// A recipe of a coat whose cut is driven by `Wear`, kept once.
fn recipe() -> Recipe {
    let steps = vec![step(Join::Replace, "perlin", &[]), step(Join::Multiply, "threshold", &[])];
    let d = document(vec![coat("l1", "#7a3010", steps)]);
    let d = driven_by(&d, Dial::number("", "Wear", "", (0.0, 1.0), 0.5), &of_step("l1", "s2", "cut"), 0.7, 0.3);
    Recipe { id: "rust".into(), ..Recipe::of_layer(&d, Some("l1"), "Rust").unwrap() }
}

/// Three uses: one as it is, one turned, one driven by the project's own dial, over a coat.
fn three() -> Document {
    let uses = (2..5).map(|i| Layer { id: format!("l{i}"), ..recipe().to_use() });
    let d = document([coat("l1", "#808080", vec![])].into_iter().chain(uses).collect());
    let d = done(&d, Edit::AddDial { dial: Dial::number("", "Age", "", (0.0, 1.0), 0.25) });
    let d = done(&d, Edit::TurnDial { layer: Some("l3".into()), dial: "d1".into(), value: Value::Number(0.9) });
    done(&d, Edit::SetParam { target: wear("l4"), value: Some(Drive::plain("d1").into()) })
}

fn wear(layer: &str) -> Target {
    Target { dial: Some("d1".into()), ..of_layer(layer, "value") }
}

fn used<'a>(d: &'a Document, id: &str) -> (&'a Recipe, &'a Settings) {
    let layer = d.layers.iter().find(|l| l.id == id).expect("it is there");
    let LayerKind::Use { recipe, values } = &layer.kind else { panic!("{id} is no use") };
    (recipe, values)
}

/// The one layer of the open group.
fn inner(d: &Document, id: &str) -> String {
    let layer = d.layers.iter().find(|l| l.id == id).expect("it is there");
    let LayerKind::Group { layers } = &layer.kind else { panic!("{id} is not open") };
    layers[0].id.clone()
}

#[test]
fn the_other_uses_follow_while_one_is_open_and_all_take_what_is_kept() {
    let surface = Surface::new(cube(40.0), 64);
    let d = three();
    let open = done(&d, Edit::OpenUse { layer: "l4".into() });
    assert_eq!(evaluated(&open, &surface).channels, evaluated(&d, &surface).channels, "opening changes nothing");
    assert_eq!(used(&open, "l2").0.dials, recipe().dials, "nor what the others are turned by");
    // A colour, and a dial that is new.
    let layer = inner(&open, "l4");
    let target = of_channel(&layer, "base_color", "color");
    let open = done(&open, Edit::SetParam { target, value: Some("#2040c0".into()) });
    let open = done(
        &open,
        Edit::MakeDial {
            target: of_layer(&layer, "opacity"),
            label: "Strength".into(),
            group: String::new(),
            low: None,
            high: None,
        },
    );
    let now = used(&open, "l2").0.clone();
    assert_eq!(
        now.dials.iter().map(|d| (d.id.as_str(), d.label.as_str())).collect::<Vec<_>>(),
        [("d1", "Wear"), ("d2", "Strength")]
    );
    assert_eq!(now.dials[0].default, Value::Number(0.5), "what the open use stands at is no default");
    assert_eq!(used(&open, "l3").1["d1"], Param::from(0.9), "what was set stays");
    // The same as if each had been given the recipe by hand.
    let mut by_hand = d.clone();
    for id in ["l2", "l3", "l4"] {
        by_hand = done(&by_hand, Edit::FollowRecipe { layer: id.into(), recipe: std::sync::Arc::new(now.clone()) });
    }
    assert_eq!(evaluated(&open, &surface).channels, evaluated(&by_hand, &surface).channels);
    let said = apply(&open, &Edit::OpenUse { layer: "l2".into() }).unwrap_err().to_string();
    assert!(said.contains("“Rust” is open"), "{said}");

    // Kept: all follow it, and the project's dial drives the one that was open again.
    let kept = opened_recipe(&open).unwrap().expect("it is open").after(&recipe());
    let closed = done(&open, Edit::CloseUse { kept: Some(std::sync::Arc::new(kept.clone())) });
    for id in ["l2", "l3", "l4"] {
        assert_eq!(used(&closed, id).0, &kept);
    }
    assert_eq!(used(&closed, "l4").1["d1"], Param::from(Drive::plain("d1")));
    assert_eq!(closed.dials.len(), 2, "Age, and the dial that was made: what came with the recipe is gone");
    assert_eq!(evaluated(&closed, &surface).channels, evaluated(&open, &surface).channels);
    assert!(closed.opened.is_none());
}

#[test]
fn dropped_it_was_never_opened_but_for_what_was_turned_elsewhere() {
    let d = three();
    let open = done(&d, Edit::OpenUse { layer: "l3".into() });
    let target = of_channel(&inner(&open, "l3"), "base_color", "color");
    let changed = done(&open, Edit::SetParam { target, value: Some("#2040c0".into()) });
    assert_eq!(done(&changed, Edit::CloseUse { kept: None }), d);
    // Removing what is open drops it as well.
    let gone = done(&changed, Edit::RemoveLayer { layer: "l3".into() });
    assert_eq!(gone, done(&d, Edit::RemoveLayer { layer: "l3".into() }));
    let turned =
        done(&changed, Edit::TurnDial { layer: Some("l2".into()), dial: "d1".into(), value: Value::Number(0.1) });
    let dropped = done(&turned, Edit::CloseUse { kept: None });
    assert_eq!(used(&dropped, "l2"), (&recipe(), &[("d1".to_owned(), Param::from(0.1))].into()));
    let said = apply(&d, &Edit::CloseUse { kept: None }).unwrap_err().to_string();
    assert!(said.contains("No recipe is open"), "{said}");
}

#[test]
fn a_dial_that_goes_while_it_is_open_goes_from_the_other_uses() {
    let open = done(&three(), Edit::OpenUse { layer: "l2".into() });
    let id = open.opened.as_ref().expect("open").dials["d1"].clone();
    let without = done(&open, Edit::RemoveDial { dial: id });
    assert!(used(&without, "l3").0.dials.is_empty() && used(&without, "l3").1.is_empty());
    let dropped = done(&without, Edit::CloseUse { kept: None });
    assert_eq!(used(&dropped, "l3").1["d1"], Param::from(0.9), "dropped, it has what it was turned to");
}

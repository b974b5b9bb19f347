//! Documents and their edits: what is allowed, what is refused and why, and that no sequence of edits makes an invalid document.

mod common;

use common::{coat, document, group, of_layer, of_step, step};
use dustcoat_core::document::{
    Dial, Document, Edit, EditError, LayerKind, Target, apply, check, driven, label, layers,
};
use dustcoat_core::mask::Join;
use dustcoat_core::setting::{DialDrive, Param, Value};
use proptest::prelude::*;

fn opacity_of(layer: &str) -> Target {
    of_layer(layer, "opacity")
}

fn wear() -> Dial {
    Dial {
        id: String::new(),
        label: "Wear".into(),
        group: String::new(),
        unit: String::new(),
        min: 0.0,
        max: 10.0,
        default: Value::Number(2.0),
        value: Value::Number(2.0),
        of: None,
    }
}

fn start() -> Document {
    document(vec![
        coat("l1", "#808080", vec![]),
        group(
            "l2",
            vec![coat(
                "l3",
                "#aa0000",
                vec![step(Join::Replace, "perlin", &[]), step(Join::Multiply, "threshold", &[])],
            )],
        ),
        coat("l4", "#ffffff", vec![step(Join::Replace, "edges", &[])]),
    ])
}

fn done(d: &Document, edit: Edit) -> Document {
    let after = apply(d, &edit).unwrap_or_else(|e| panic!("{edit:?}: {e}"));
    check(&after).unwrap();
    after
}

fn says(d: &Document, edit: Edit, words: &str) {
    let error = apply(d, &edit).map(|_| ()).unwrap_err().to_string();
    assert!(error.contains(words), "“{error}” should speak of “{words}”");
}

fn order(d: &Document) -> Vec<&str> {
    layers(&d.layers).iter().map(|l| l.id.as_str()).collect()
}

#[test]
fn layers_are_laid_moved_grouped_copied_and_taken_away() {
    let d = start();
    let laid = done(
        &d,
        Edit::AddLayer { inside: Some("l2".into()), index: 0, layer: coat("", "#00ff00", vec![]), dials: vec![] },
    );
    assert_eq!(order(&laid), ["l1", "l2", "l5", "l3", "l4"], "a fresh id, under what was there");
    let moved = done(&laid, Edit::MoveLayer { layer: "l5".into(), inside: None, index: 3 });
    assert_eq!(order(&moved), ["l1", "l2", "l3", "l4", "l5"]);
    let boxed = done(&moved, Edit::GroupLayer { layer: "l4".into(), name: "Box".into() });
    assert_eq!(order(&boxed), ["l1", "l2", "l3", "l6", "l4", "l5"]);
    let copied = done(&boxed, Edit::DuplicateLayer { layer: "l2".into() });
    assert_eq!(layers(&copied.layers).len(), 8, "with what it holds");
    let gone = done(&copied, Edit::RemoveLayer { layer: "l2".into() });
    assert_eq!(layers(&gone.layers).len(), 6);
    says(&d, Edit::MoveLayer { layer: "l2".into(), inside: Some("l2".into()), index: 0 }, "itself");
    says(&d, Edit::MoveLayer { layer: "l4".into(), inside: Some("l1".into()), index: 0 }, "into a group");
    says(&d, Edit::RemoveLayer { layer: "l99".into() }, "l99");
}

#[test]
fn values_out_of_range_are_refused_by_name_and_place() {
    let d = start();
    let target = of_step("l3", "s1", "size");
    says(&d, Edit::SetParam { target: target.clone(), value: Some((-3.0).into()) }, "Clouds");
    says(&d, Edit::SetParam { target: target.clone(), value: Some(f64::NAN.into()) }, "Size");
    says(&d, Edit::SetParam { target: target.clone(), value: Some("#ff0000".into()) }, "Size");
    says(&d, Edit::SetParam { target: Target { key: "colour".into(), ..target.clone() }, value: None }, "colour");
    says(&d, Edit::SetDraftSize { size: 1000 }, "power of two");
    says(&d, Edit::Rename { name: "  ".into() }, "name");
    let set = done(&d, Edit::SetParam { target: target.clone(), value: Some(12.0.into()) });
    let back = done(&set, Edit::SetParam { target, value: None });
    assert_eq!(back, d, "no value is the default again");
}

#[test]
fn a_dial_drives_settings_is_turned_and_leaves_their_values_behind() {
    let d = start();
    let made = done(&d, Edit::MakeDial { target: opacity_of("l4"), dial: wear(), low: Some(0.2), high: Some(1.0) });
    let id = made.dials[0].id.clone();
    assert_eq!(driven(&made, &id), ["Coat l4 › Opacity"]);
    let drive = Param::Dial(DialDrive { dial: id.clone(), low: Some(1.0), high: Some(0.0) });
    let both = done(&made, Edit::SetParam { target: opacity_of("l1"), value: Some(drive) });
    let turned = done(&both, Edit::TurnDial { layer: None, dial: id.clone(), value: Value::Number(5.0) });
    says(&both, Edit::TurnDial { layer: None, dial: id.clone(), value: Value::Number(11.0) }, "range");
    says(&both, Edit::TurnDial { layer: None, dial: id.clone(), value: Value::Text("#ffffff".into()) }, "Wear");
    let gone = done(&turned, Edit::RemoveDial { dial: id });
    assert!(gone.dials.is_empty());
    let opacity = |d: &Document, l: &str| match layers(&d.layers).into_iter().find(|x| x.id == l).unwrap().opacity {
        Param::Const(Value::Number(n)) => n,
        ref other => panic!("{other:?} is not a plain number"),
    };
    assert!((opacity(&gone, "l4") - 0.6).abs() < 1e-9, "half way from 0.2 to 1");
    assert!((opacity(&gone, "l1") - 0.5).abs() < 1e-9);
}

#[test]
fn a_dial_that_is_gone_can_not_drive() {
    let mut d = start();
    let drive = Param::Dial(DialDrive { dial: "d9".into(), low: None, high: None });
    says(&d, Edit::SetParam { target: opacity_of("l1"), value: Some(drive.clone()) }, "dial that is gone");
    d.layers[0].opacity = drive;
    let error = check(&d).unwrap_err();
    assert!(matches!(&error, EditError::DialGone { place, .. } if place == "Coat l1"), "{error}");
    let mut d = start();
    d.layers[0].id = "l4".into();
    assert!(check(&d).unwrap_err().to_string().contains("twice"));
    d.format = "dustcoat/99".into();
    assert!(check(&d).unwrap_err().to_string().contains("dustcoat/99"));
}

#[test]
fn what_undo_takes_back_is_named_in_the_words_of_the_document() {
    let d = start();
    let size = of_step("l3", "s1", "size");
    let named = |e: Edit| label(&d, &e);
    assert_eq!(named(Edit::SetParam { target: size, value: Some(3.0.into()) }), "Clouds size");
    assert_eq!(named(Edit::SetParam { target: opacity_of("l4"), value: None }), "Coat l4 opacity");
    assert_eq!(named(Edit::RemoveLayer { layer: "l4".into() }), "remove Coat l4");
    assert_eq!(
        named(Edit::AddStep { layer: "l4".into(), index: 0, step: step(Join::Add, "perlin", &[]) }),
        "add Clouds"
    );
}

#[test]
fn documents_are_read_back_as_they_were_written() {
    let d = done(&start(), Edit::MakeDial { target: opacity_of("l4"), dial: wear(), low: Some(0.0), high: Some(1.0) });
    let json = serde_json::to_string(&d).unwrap();
    assert_eq!(serde_json::from_str::<Document>(&json).unwrap(), d);
    let short =
        r#"{"format":"dustcoat/1","name":"Short","layers":[{"name":"Steel","kind":"coat","finish":{"channels":{}}}]}"#;
    let short: Document = serde_json::from_str(short).unwrap();
    assert_eq!((short.draft_size, short.layers[0].shown), (1024, true), "what is left out stands at its default");
}

fn any_edit() -> impl Strategy<Value = Edit> {
    let id = prop::sample::select(vec!["l1", "l2", "l3", "l4", "l5", "l6", "l7", "nope"]).prop_map(String::from);
    let inside = prop::option::of(id.clone());
    let step_id = prop::sample::select(vec!["s1", "s2", "s3"]).prop_map(String::from);
    let kind = prop::sample::select(vec!["perlin", "edges", "levels", "even", "bogus"]);
    let number = prop_oneof![-2.0..30.0f64, Just(f64::NAN), Just(f64::INFINITY)];
    let target = (
        id.clone(),
        prop::option::of(step_id.clone()),
        prop::option::of(Just("roughness".to_owned())),
        prop::sample::select(vec!["opacity", "amount", "size", "value", "x"]),
    )
        .prop_map(|(l, step, channel, key)| Target {
            layer: Some(l),
            step,
            channel,
            reading: None,
            key: key.into(),
            inner: None,
        });
    prop_oneof![
        (inside.clone(), 0..9usize).prop_map(|(inside, index)| Edit::AddLayer {
            inside,
            index,
            layer: coat("", "#123456", vec![]),
            dials: vec![]
        }),
        (inside.clone(), 0..9usize).prop_map(|(inside, index)| Edit::AddLayer {
            inside,
            index,
            layer: group("", vec![]),
            dials: vec![]
        }),
        id.clone().prop_map(|layer| Edit::RemoveLayer { layer }),
        (id.clone(), inside, 0..9usize).prop_map(|(layer, inside, index)| Edit::MoveLayer { layer, inside, index }),
        id.clone().prop_map(|layer| Edit::DuplicateLayer { layer }),
        id.clone().prop_map(|layer| Edit::GroupLayer { layer, name: "Box".into() }),
        (id.clone(), 0..5usize, kind).prop_map(|(layer, index, kind)| Edit::AddStep {
            layer,
            index,
            step: step(Join::Add, kind, &[])
        }),
        (id.clone(), step_id.clone()).prop_map(|(layer, step)| Edit::RemoveStep { layer, step }),
        (id, step_id, 0..5usize).prop_map(|(layer, step, index)| Edit::MoveStep { layer, step, index }),
        (target.clone(), number.clone()).prop_map(|(target, n)| Edit::SetParam { target, value: Some(n.into()) }),
        (target, number).prop_map(|(target, n)| Edit::MakeDial { target, dial: wear(), low: Some(n), high: Some(1.0) }),
        prop::sample::select(vec!["d1", "d2"]).prop_map(|d| Edit::RemoveDial { dial: d.into() }),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 200, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn no_sequence_of_edits_makes_an_invalid_document(edits in prop::collection::vec(any_edit(), 1..25)) {
        let mut d = start();
        for edit in edits {
            let _ = label(&d, &edit);
            match apply(&d, &edit) {
                Ok(next) => {
                    prop_assert!(check(&next).is_ok(), "{edit:?} made it invalid: {:?}", check(&next));
                    d = next;
                }
                Err(error) => prop_assert!(error.to_string().len() > 20, "a sentence, not a code"),
            }
        }
        let holders = layers(&d.layers).iter().filter(|l| matches!(l.kind, LayerKind::Group { .. })).count();
        prop_assert!(holders <= layers(&d.layers).len());
    }
}

//! Documents and their edits: what is allowed, what is refused and why, and that no sequence of edits makes an invalid document.

use crate::common::{coat, document, driven_by, group, of_layer, of_step, step};
use dustcoat_core::document::{
    Dial, Document, Edit, EditError, LayerKind, Palette, Place, Target, apply, check, driven, label, layers,
};
use dustcoat_core::mask::{Join, Step};
use dustcoat_core::setting::{Drive, Param, Swatch, Value};
use proptest::prelude::*;

fn opacity_of(layer: &str) -> Target {
    of_layer(layer, "opacity")
}

fn wear() -> Dial {
    Dial::number("", "Wear", "", (0.0, 10.0), 2.0)
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
    let made = driven_by(&d, wear(), &opacity_of("l4"), 0.2, 1.0);
    let id = made.dials[0].id.clone();
    assert_eq!(driven(&made, &id), ["Coat l4 › Opacity"]);
    let drive = Param::Drive(Drive::ranged(&id, 1.0, 0.0));
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
    let drive = Param::Drive(Drive::plain("d9"));
    says(&d, Edit::SetParam { target: opacity_of("l1"), value: Some(drive.clone()) }, "dial that is gone");
    d.layers[0].opacity = drive;
    let error = check(&d).unwrap_err();
    assert!(matches!(&error, EditError::Drive { place, .. } if place == "Coat l1"), "{error}");
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
fn every_edit_that_a_page_sends_is_taken_and_named() {
    let mut d = start();
    d.layers[0].name = "Dock paint".into();
    let mut d = driven_by(&d, wear(), &opacity_of("l1"), 0.0, 1.0);
    // In turn, each on what the ones before have made; what each is called to undo it.
    let sent = [
        (r#"{"edit":"rename","name":"Shutter"}"#, "rename"),
        (r#"{"edit":"set_draft_size","size":512}"#, "draft size"),
        (r#"{"edit":"keep_variant","name":"Worn"}"#, "keep the variant Worn"),
        (r#"{"edit":"take_variant","name":"Worn"}"#, "take the variant Worn"),
        (r#"{"edit":"remove_variant","name":"Worn"}"#, "forget the variant Worn"),
        (r#"{"edit":"keep_place","place":{"name":"Hinge","eye":[9,1,2],"target":[0,0,0]}}"#, "keep the place Hinge"),
        (r#"{"edit":"remove_place","name":"Hinge"}"#, "forget the place Hinge"),
        (
            r##"{"edit":"keep_palette","palette":{"name":"Quay","colors":[{"color":"#2b585e","weight":1}]}}"##,
            "keep the palette Quay",
        ),
        (r#"{"edit":"remove_palette","name":"Quay"}"#, "forget the palette Quay"),
        (
            r#"{"edit":"add_layer","inside":null,"index":0,"layer":{"name":"Lime","kind":"coat","finish":{"channels":{}}}}"#,
            "lay Lime",
        ),
        (
            r#"{"edit":"add_layer","inside":null,"index":0,"layer":{"name":"Hue","kind":"adjust","finish":{"channels":{}}}}"#,
            "adjust with Hue",
        ),
        (r#"{"edit":"move_layer","layer":"l1","inside":null,"index":0}"#, "move Dock paint"),
        (r#"{"edit":"duplicate_layer","layer":"l1"}"#, "duplicate Dock paint"),
        (r#"{"edit":"group_layer","layer":"l1","name":"Old"}"#, "group Dock paint"),
        (r#"{"edit":"set_layer","layer":"l1","publish":"Paint"}"#, "publish the mask of Dock paint"),
        (r#"{"edit":"set_layer","layer":"l1","publish":""}"#, "take back the mask of Dock paint"),
        (r#"{"edit":"set_layer","layer":"l1","shown":false}"#, "hide Dock paint"),
        (r#"{"edit":"set_layer","layer":"l1","shown":true}"#, "show Dock paint"),
        (r#"{"edit":"set_channel","layer":"l1","channel":"metallic","on":false}"#, "Metallic off"),
        (r#"{"edit":"set_channel","layer":"l1","channel":"sheen_color","on":true}"#, "Sheen on"),
        (r#"{"edit":"add_step","layer":"l1","index":0,"step":{"kind":"perlin"}}"#, "add Clouds"),
        (r#"{"edit":"add_steps","layer":"l1","index":1,"steps":[{"kind":"edges"},{"kind":"invert"}]}"#, "add 2 steps"),
        (r#"{"edit":"move_step","layer":"l1","step":"s1","index":2}"#, "move Clouds"),
        (r#"{"edit":"set_step","layer":"l1","step":"s1","on":false}"#, "Clouds off"),
        (r#"{"edit":"set_step","layer":"l1","step":"s1","join":"add"}"#, "Clouds join"),
        (r#"{"edit":"set_param","target":{"layer":"l1","step":"s1","key":"size"},"value":12}"#, "Clouds size"),
        (
            r#"{"edit":"set_param","target":{"layer":"l1","channel":"roughness","key":"value"},"value":0.3}"#,
            "Roughness value",
        ),
        (r#"{"edit":"set_param","target":{"reading":"occlusion","key":"rays"},"value":64}"#, "Occlusion rays"),
        (r#"{"edit":"remove_step","layer":"l1","step":"s1"}"#, "remove Clouds"),
        (r#"{"edit":"turn_dial","dial":"d1","value":0.5}"#, "turn Wear"),
        (r#"{"edit":"remove_dial","dial":"d1"}"#, "remove dial Wear"),
        (r#"{"edit":"tell_parts","by":"picture","tolerance":0.2}"#, "tolerance of the parts"),
        (r#"{"edit":"tell_parts","by":"materials"}"#, "how parts are told"),
        (r#"{"edit":"set_part","part":"lid","was":"lid","name":"Lid"}"#, "rename part lid"),
        (r##"{"edit":"set_part","part":"lid","was":"Lid","color":"#8fa89f"}"##, "colour of part Lid"),
        (r#"{"edit":"settle_swap"}"#, "put away what the swap left open"),
        (r#"{"edit":"set_finer","finer":null}"#, "take off the finer mesh"),
        (r#"{"edit":"set_layer","layer":"l1","name":"Old paint"}"#, "rename Dock paint"),
        (r#"{"edit":"remove_layer","layer":"l1"}"#, "remove Old paint"),
    ];
    for (json, name) in sent {
        let edit: Edit = serde_json::from_str(json).unwrap_or_else(|e| panic!("{json}: {e}"));
        assert_eq!(label(&d, &edit), name, "{json}");
        d = apply(&d, &edit).unwrap_or_else(|e| panic!("{json}: {e}"));
    }
}

#[test]
fn steps_that_are_put_in_leave_what_stands_before_them() {
    let line = |json: &str| serde_json::from_str::<Vec<Step>>(json).unwrap();
    let put = |d: &Document, index: usize, steps: &str| {
        apply(d, &Edit::AddSteps { layer: "l1".into(), index, steps: line(steps) }).unwrap()
    };
    let joins = |d: &Document| d.layers[0].mask.steps.iter().map(|s| s.join).collect::<Vec<_>>();
    let two = r#"[{"kind":"edges","join":"replace"},{"kind":"perlin","join":"replace"}]"#;
    let d = put(&document(vec![coat("l1", "#336699", vec![])]), 0, two);
    assert_eq!(joins(&d), [Join::Replace, Join::Replace], "a line begins as it is written");
    // In between or at the end the first of them multiplies where it would take the place of all before; how others join is theirs to say.
    assert_eq!(joins(&put(&d, 1, two)), [Join::Replace, Join::Multiply, Join::Replace, Join::Replace]);
    assert_eq!(joins(&put(&d, 9, r#"[{"kind":"worley","join":"add"}]"#)), [Join::Replace, Join::Replace, Join::Add]);
}

#[test]
fn palettes_are_kept_kept_anew_and_refused_in_words() {
    let palette = |name: &str, colors: &[(&str, f64)]| Palette {
        name: name.into(),
        colors: colors.iter().map(|(c, w)| Swatch { color: (*c).into(), weight: *w }).collect(),
    };
    let keep = |p: Palette| Edit::KeepPalette { palette: p };
    let d = done(&start(), keep(palette("Quay", &[("#2b585e", 0.7), ("#c8b48a", 0.3)])));
    let d = done(&d, keep(palette("Rust", &[("#7d3a24", 1.0)])));
    let d = done(&d, keep(palette("Quay", &[("#104050", 1.0)])));
    let names: Vec<(&str, usize)> = d.study.palettes.iter().map(|p| (p.name.as_str(), p.colors.len())).collect();
    assert_eq!(names, [("Quay", 1), ("Rust", 1)], "one of that name is kept anew, in its place");
    let json = serde_json::to_string(&d).unwrap();
    assert_eq!(serde_json::from_str::<Document>(&json).unwrap(), d);
    assert!(!serde_json::to_string(&start()).unwrap().contains("study"), "what is empty isn't written");
    says(&d, keep(palette("Quay", &[])), "1 to 16");
    says(&d, keep(palette("Quay", &[("#104050", 1.0); 17])), "1 to 16");
    says(&d, keep(palette("Quay", &[("blue", 1.0)])), "Palette Quay: “Colour 1”");
    says(&d, keep(palette("Quay", &[("#104050", f64::NAN)])), "Weight of colour 1");
    says(&d, keep(palette(" ", &[("#104050", 1.0)])), "needs a name");
    says(&d, Edit::RemovePalette { name: "Chalk".into() }, "Chalk");
    assert_eq!(done(&d, Edit::RemovePalette { name: "Quay".into() }).study.palettes.len(), 1);
}

#[test]
fn documents_are_read_back_as_they_were_written() {
    let d = driven_by(&start(), wear(), &opacity_of("l4"), 0.0, 1.0);
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
            key: key.into(),
            ..Target::default()
        });
    let formula = prop::sample::select(vec!["Wear / 10", "Wear +", "1 / 0", "clamp(Wear, 0, 1)", "Weather"])
        .prop_map(String::from);
    let dial = prop::sample::select(vec!["d1", "d2"]).prop_map(String::from);
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
        (target.clone(), number).prop_map(|(target, n)| Edit::MakeDial {
            target,
            label: "Wear".into(),
            group: String::new(),
            low: Some(n),
            high: Some(1.0)
        }),
        (target, formula.clone()).prop_map(|(target, text)| Edit::SetFormula { target, text }),
        (dial.clone(), formula).prop_map(|(dial, text)| Edit::FollowFormula { dial, text: Some(text) }),
        (dial.clone(), 0..4usize).prop_map(|(dial, index)| Edit::MoveDial { dial, index, group: "Weather".into() }),
        dial.prop_map(|dial| Edit::RemoveDial { dial }),
        any_kept(),
    ]
}

/// Keeping, taking and forgetting what a document keeps under names.
fn any_kept() -> impl Strategy<Value = Edit> {
    let name = prop::sample::select(vec!["Worn", "New", ""]).prop_map(String::from);
    let color = prop::sample::select(vec!["#2b585e", "#c0182", "verdigris"]).prop_map(String::from);
    let weight = prop_oneof![0.0..1.2f64, Just(f64::NAN)];
    let colors = prop::collection::vec((color, weight).prop_map(|(color, weight)| Swatch { color, weight }), 0..3);
    let eye = prop::array::uniform3(prop_oneof![-9.0..9.0f32, Just(f32::INFINITY)]);
    prop_oneof![
        name.clone().prop_map(|name| Edit::KeepVariant { name, on: None }),
        name.clone().prop_map(|name| Edit::TakeVariant { name }),
        name.clone().prop_map(|name| Edit::RemoveVariant { name }),
        (name.clone(), eye).prop_map(|(name, eye)| Edit::KeepPlace { place: Place { name, eye, target: [0.0; 3] } }),
        name.clone().prop_map(|name| Edit::RemovePlace { name }),
        (name.clone(), colors).prop_map(|(name, colors)| Edit::KeepPalette { palette: Palette { name, colors } }),
        name.prop_map(|name| Edit::RemovePalette { name }),
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

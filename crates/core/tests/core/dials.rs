//! Dials: of every kind, following formulas, driving the dials of recipes in use; formulas against an evaluator of the test's own.

use crate::common::{coat, cube, document, driven_by, evaluated, group, of_channel, of_layer, of_step, step};
use dustcoat_core::bake::Surface;
use dustcoat_core::document::{
    Dial, DialOption, Document, Edit, Layer, LayerKind, ShownWhen, Target, apply, check, copied, derived, dials_of,
    driven, standings,
};
use dustcoat_core::mask::Join;
use dustcoat_core::recipe::Recipe;
use dustcoat_core::setting::formula::Formula;
use dustcoat_core::setting::{DialKind, Drive, Param, Value};
use proptest::prelude::*;

pub fn done(d: &Document, edit: Edit) -> Document {
    apply(d, &edit).unwrap_or_else(|e| panic!("{edit:?}: {e}"))
}

pub fn says(d: &Document, edit: Edit, wanted: &str) {
    let said = apply(d, &edit).expect_err("it is refused").to_string();
    assert!(said.contains(wanted), "{said}");
}

fn start() -> Document {
    document(vec![
        coat("l1", "#808080", vec![]),
        coat("l2", "#7a3010", vec![step(Join::Replace, "perlin", &[]), step(Join::Multiply, "threshold", &[])]),
    ])
}

fn stands(d: &Document, target: &Target) -> Value {
    standings(d).into_iter().find(|s| s.target == *target).map(|s| s.value).expect("it is driven")
}

fn make(target: &Target, label: &str) -> Edit {
    let (label, group) = (label.into(), "Weather".into());
    Edit::MakeDial { target: target.clone(), label, group, low: None, high: None }
}

pub fn turn(d: &Document, dial: &str, value: Value) -> Document {
    done(d, Edit::TurnDial { layer: None, dial: dial.into(), value })
}

fn switch(label: &str) -> Dial {
    Dial::new("", label, DialKind::Switch, Value::Bool(false))
}

fn follow(dial: &str, text: &str) -> Edit {
    Edit::FollowFormula { dial: dial.into(), text: Some(text.into()) }
}

#[test]
fn any_setting_becomes_a_dial_of_its_own_kind_and_nothing_moves() {
    let wanted = [
        (of_step("l2", "s1", "size"), DialKind::Number),
        (of_step("l2", "s1", "seed"), DialKind::Seed),
        (of_step("l2", "s1", "placement"), DialKind::Choice),
        (of_channel("l2", "base_color", "color"), DialKind::Color),
        (of_channel("l2", "base_color", "blend"), DialKind::Choice),
        (of_layer("l2", "opacity"), DialKind::Number),
    ];
    let surface = Surface::new(cube(60.0), 64);
    let before = evaluated(&start(), &surface).channels;
    let mut d = start();
    for (target, kind) in &wanted {
        d = done(&d, make(target, &target.key));
        let dial = d.dials.last().unwrap();
        assert_eq!(dial.kind(), *kind, "{}", target.key);
        assert_eq!(stands(&d, target), dial.value, "{}", target.key);
    }
    assert_eq!(evaluated(&d, &surface).channels, before);
    // With ends of its own it is turned to where the setting stands.
    let cut = of_step("l2", "s2", "cut");
    let was = stands(&done(&d, make(&cut, "Cut")), &cut);
    let (label, group) = ("Wear".into(), String::new());
    let ranged = done(&d, Edit::MakeDial { target: cut.clone(), label, group, low: Some(0.9), high: Some(0.1) });
    let (Value::Number(was), Value::Number(now)) = (was, stands(&ranged, &cut)) else { panic!("numbers") };
    assert!((was - now).abs() < 1e-9, "{was} and {now}");
}

#[test]
fn switches_and_choices_set_what_takes_them_and_nothing_else() {
    let blend = of_channel("l2", "base_color", "blend");
    let d = done(&start(), make(&blend, "Blend"));
    let options: Vec<String> = d.dials[0].options.iter().map(|o| o.key.clone()).collect();
    let d = turn(&d, "d1", Value::Text(options[1].clone()));
    assert_eq!(stands(&d, &blend), Value::Text(options[1].clone()));
    says(
        &d,
        Edit::TurnDial { layer: None, dial: "d1".into(), value: Value::Text("sideways".into()) },
        "among its options",
    );
    let opacity = of_layer("l2", "opacity");
    let plain = |dial: &str| Some(Param::from(Drive::plain(dial)));
    says(&d, Edit::SetParam { target: opacity.clone(), value: plain("d1") }, "is a choice");
    let d = driven_by(&d, switch("Salted"), &opacity, 0.1, 0.6);
    assert_eq!(stands(&d, &opacity), Value::Number(0.1));
    assert_eq!(stands(&turn(&d, "d2", Value::Bool(true)), &opacity), Value::Number(0.6));
    says(&d, Edit::SetParam { target: opacity, value: plain("d2") }, "is a switch");
}

#[test]
fn formulas_follow_dials_through_renames_and_let_go_of_those_that_go() {
    let (opacity, cut) = (of_layer("l2", "opacity"), of_step("l2", "s2", "cut"));
    let d = driven_by(&start(), Dial::number("", "Wear", "", (0.0, 10.0), 2.0), &cut, 0.9, 0.1);
    let d = done(&d, Edit::AddDial { dial: switch("Salt line") });
    let formula = |text: &str| Edit::SetFormula { target: opacity.clone(), text: text.into() };
    let d = done(&d, formula("0.5 + Wear / 20 - 0.25 * {Salt line}"));
    assert_eq!(stands(&d, &opacity), Value::Number(0.6));
    let d = turn(&d, "d2", Value::Bool(true));
    assert_eq!(stands(&d, &opacity), Value::Number(0.35));
    let renamed = done(&d, Edit::SetDial { dial: Dial { label: "step".into(), ..d.dials[0].clone() } });
    let standing = standings(&renamed).into_iter().find(|s| s.target == opacity).unwrap();
    assert_eq!(standing.formula.as_deref(), Some("0.5 + {step} / 20 - 0.25 * {Salt line}"));
    assert_eq!(standing.value, Value::Number(0.35));
    assert_eq!(driven(&d, "d1"), ["Coat l2 › Opacity", "Coat l2 › Threshold › Cut"]);
    let one = done(&d, Edit::RemoveDial { dial: "d2".into() });
    assert_eq!(one.layers[1].opacity, Drive::formula("0.5 + {d1} / 20 - 0.25 * 1").into());
    let none = done(&one, Edit::RemoveDial { dial: "d1".into() });
    assert_eq!(none.layers[1].opacity, Param::from(0.35));
    for (text, wanted) in [
        ("Waer + 1", "There is no dial “Waer”"),
        ("Wear +", "is missing"),
        ("wobble(1)", "no function"),
        ("clamp(Wear)", "Write clamp(x, low, high)"),
    ] {
        says(&d, formula(text), wanted);
    }
    says(&d, Edit::SetFormula { target: of_channel("l2", "base_color", "color"), text: "1".into() }, "takes none");
    let bounded = done(&d, formula("1/0"));
    let said = standings(&bounded).into_iter().find(|s| s.target == opacity).unwrap().bounded.unwrap();
    assert!(said.contains("infinite; 1 is the most"), "{said}");
}

#[test]
fn a_dial_that_follows_a_formula_is_not_turned_and_circles_are_named() {
    let mut d = start();
    for label in ["Wear", "Rust", "Salt"] {
        d = done(&d, Edit::AddDial { dial: Dial::number("", label, "", (0.0, 1.0), 0.5) });
    }
    let d = done(&done(&d, follow("d2", "Wear * 0.5")), follow("d3", "Rust + 0.1"));
    let value = |d: &Document, dial: &str| derived(&d.dials)[dial].value.clone();
    assert_eq!(value(&d, "d3"), Value::Number(0.35));
    let worn = turn(&d, "d1", Value::Number(1.0));
    assert_eq!((value(&worn, "d2"), value(&worn, "d3")), (Value::Number(0.5), Value::Number(0.6)));
    assert_eq!(derived(&worn.dials)["d3"].formula, "Rust + 0.1");
    assert_eq!(driven(&d, "d2"), ["Salt"], "a dial that follows is driven as well");
    says(&d, Edit::TurnDial { layer: None, dial: "d2".into(), value: Value::Number(0.1) }, "follows a formula");
    says(&d, follow("d1", "Salt"), "Wear → Salt → Rust → Wear");
    says(&d, follow("d1", "1 - Wear"), "Wear → Wear");
    let let_go = done(&worn, Edit::FollowFormula { dial: "d2".into(), text: None });
    assert_eq!(let_go.dials[1].value, Value::Number(0.5), "it stays where it was led");
    assert_eq!(value(&let_go, "d3"), Value::Number(0.6));
    let beyond = done(&worn, follow("d2", "1 / (Wear - 1)"));
    assert_eq!(value(&beyond, "d2"), Value::Number(1.0), "what is infinite stands at the end");
    assert!(derived(&beyond.dials)["d2"].bounded.as_ref().is_some_and(|s| s.contains("infinite")));
    // What it followed goes: its number stays.
    let gone = done(&worn, Edit::RemoveDial { dial: "d1".into() });
    assert_eq!(gone.dials[0].formula.as_deref(), Some("1 * 0.5"));
    // Variants hold what is turned, and what follows goes along.
    let kept = done(&worn, Edit::KeepVariant { name: "Worn".into(), on: None });
    assert_eq!(kept.variants[0].values.keys().collect::<Vec<_>>(), ["d1"]);
    let back = done(&turn(&kept, "d1", Value::Number(0.0)), Edit::TakeVariant { name: "Worn".into() });
    assert_eq!(value(&back, "d3"), Value::Number(0.6));
}

#[test]
fn dials_are_moved_into_groups_and_described() {
    let mut d = start();
    for label in ["Wear", "Rust", "Salt"] {
        d = done(&d, Edit::AddDial { dial: Dial::number("", label, "", (0.0, 1.0), 0.5) });
    }
    let d = done(&d, Edit::MoveDial { dial: "d3".into(), index: 0, group: "Sea".into() });
    let order: Vec<&str> = d.dials.iter().map(|x| x.label.as_str()).collect();
    assert_eq!((order, d.dials[0].group.as_str()), (vec!["Salt", "Wear", "Rust"], "Sea"));
    let d = done(&d, Edit::AddDial { dial: switch("Salted") });
    let when = |dial: &str, is: Value| Some(ShownWhen { dial: dial.into(), is });
    let shown = Dial { when: when("d4", Value::Bool(true)), help: "How far up.".into(), ..d.dials[0].clone() };
    let d = done(&d, Edit::SetDial { dial: shown.clone() });
    assert_eq!(d.dials[0].when, shown.when);
    let set = |change: Dial| Edit::SetDial { dial: change };
    says(&d, set(Dial { when: when("d1", Value::Number(1.0)), ..shown.clone() }), "a switch or a choice");
    says(&d, set(Dial { when: when("d9", Value::Bool(true)), ..shown.clone() }), "is gone");
    says(&d, set(Dial { step: 9.0, ..shown.clone() }), "its step");
    says(&d, set(Dial { log: true, ..shown.clone() }), "begins above 0");
    says(&d, set(Dial { kind: Some(DialKind::Choice), ..shown.clone() }), "2 to 64 options");
    let option = |key: &str| DialOption { key: key.into(), label: key.into() };
    let twice = Dial {
        options: vec![option("a"), option("a")],
        ..Dial::new("", "C", DialKind::Choice, Value::Text("a".into()))
    };
    says(&d, Edit::AddDial { dial: twice }, "a key of its own");
    let gone = done(&d, Edit::RemoveDial { dial: "d4".into() });
    assert_eq!(gone.dials[0].when, None, "what showed it is gone: it is always shown");
    // A part goes along with its name.
    let part = Dial::new("", "The metal", DialKind::Part, Value::Text("Body".into()));
    let d = done(&d, Edit::AddDial { dial: part });
    let rename = Edit::SetPart { part: "body".into(), was: "Body".into(), name: Some("Casting".into()), color: None };
    assert_eq!(done(&d, rename).dials.last().unwrap().value, Value::Text("Casting".into()));
}

/// A recipe of one coat whose opacity follows `Rust`, which follows `Wear`, both shown by `Salted`.
fn recipe() -> Recipe {
    let mut d = document(vec![group("l1", vec![coat("l2", "#7a3010", vec![])])]);
    for dial in [
        Dial::number("", "Wear", "", (0.0, 1.0), 0.25),
        Dial::number("", "Rust", "", (0.0, 1.0), 0.0),
        switch("Salted"),
    ] {
        d = done(&d, Edit::AddDial { dial });
    }
    let d = done(&d, follow("d2", "1 - Wear"));
    let shown = Dial { when: Some(ShownWhen { dial: "d3".into(), is: Value::Bool(true) }), ..d.dials[0].clone() };
    let d = done(&d, Edit::SetDial { dial: shown });
    let d = done(&d, Edit::SetParam { target: of_layer("l2", "opacity"), value: Some(Drive::plain("d2").into()) });
    Recipe::of_layer(&d, Some("l1"), "Rust").unwrap()
}

#[test]
fn a_recipe_takes_what_its_dials_follow_and_its_uses_are_driven_from_outside() {
    let recipe = recipe();
    assert_eq!(recipe.dials.iter().map(|d| d.label.as_str()).collect::<Vec<_>>(), ["Wear", "Rust"]);
    assert_eq!(recipe.dials[0].when, None, "the switch drives nothing of it and stays behind");
    let mut layers: Vec<Layer> = vec![coat("l1", "#808080", vec![])];
    layers.extend((2..5).map(|i| Layer { id: format!("l{i}"), ..recipe.to_use() }));
    let d = done(&document(layers), Edit::AddDial { dial: Dial::number("", "Age", "years", (0.0, 40.0), 10.0) });
    let of = |layer: &str| Target { dial: Some("d1".into()), key: "value".into(), ..of_layer(layer, "value") };
    let mut d = d;
    for layer in ["l2", "l3", "l4"] {
        d = done(&d, Edit::SetFormula { target: of(layer), text: "Age / 40".into() });
    }
    assert_eq!(stands(&d, &of("l3")), Value::Number(0.25));
    assert_eq!(driven(&d, "d1"), ["Rust › Wear", "Rust › Wear", "Rust › Wear"]);
    assert_eq!(dials_of(&d, "l4"), ["d1"]);
    // All uses answer one dial of the project: the same as each turned by hand.
    let surface = Surface::new(cube(60.0), 64);
    let aged = turn(&d, "d1", Value::Number(30.0));
    let mut by_hand = aged.clone();
    for layer in ["l2", "l3", "l4"] {
        let edit = Edit::TurnDial { layer: Some(layer.into()), dial: "d1".into(), value: Value::Number(0.75) };
        by_hand = done(&by_hand, edit);
    }
    assert_eq!(evaluated(&aged, &surface).channels, evaluated(&by_hand, &surface).channels);
    assert_ne!(evaluated(&aged, &surface).channels, evaluated(&d, &surface).channels);
    // The dial goes: each use keeps what it stood at. A copied use takes the dial along.
    let gone = done(&aged, Edit::RemoveDial { dial: "d1".into() });
    let LayerKind::Use { values, .. } = &gone.layers[1].kind else { panic!("a use") };
    assert_eq!(values["d1"], Param::from(0.75));
    let text = copied(&aged, "l2").unwrap();
    let pasted = done(&start(), Edit::PasteLayer { inside: None, index: 9, copied: text });
    assert_eq!(pasted.dials[0].label, "Age");
    assert_eq!(stands(&pasted, &of(&pasted.layers.last().unwrap().id)), Value::Number(0.75));
    let led = Target { dial: Some("d2".into()), ..of("l2") };
    says(
        &d,
        Edit::TurnDial { layer: Some("l2".into()), dial: "d2".into(), value: Value::Number(0.5) },
        "follows a formula",
    );
    let reset = done(&d, Edit::SetParam { target: led, value: None });
    check(&reset).unwrap();
    says(&d, Edit::SetParam { target: Target { dial: Some("d9".into()), ..of("l2") }, value: None }, "no dial “d9”");
}

#[test]
fn a_layer_takes_its_dials_along_and_lets_go_of_what_follows_them() {
    let came = [
        Dial::number("d1", "Age", "", (0.0, 1.0), 0.4),
        Dial { formula: Some("{d1} / 2".into()), ..Dial::number("d2", "Wear", "", (0.0, 1.0), 0.0) },
        Dial { id: "d3".into(), ..switch("Salted") },
    ];
    let mut layer = coat("", "#7a3010", vec![]);
    layer.opacity = Drive::formula("{d2} + 0 * {d3}").into();
    let add = Edit::AddLayer { inside: None, index: 9, layer, dials: came.into() };
    let d = done(&start(), add);
    let laid = d.layers.last().unwrap().id.clone();
    // A dial of the project's own follows one that came along, and is shown by another.
    let d = done(&d, Edit::AddDial { dial: Dial::number("", "Rust", "", (0.0, 1.0), 0.0) });
    let own = d.dials.last().unwrap().clone();
    let when = ShownWhen { dial: d.dials[2].id.clone(), is: Value::Bool(true) };
    let d = done(&d, Edit::SetDial { dial: Dial { when: Some(when), ..own.clone() } });
    let d = done(&d, follow(&own.id, "1 - Age"));
    let gone = done(&d, Edit::RemoveLayer { layer: laid });
    let labels: Vec<&str> = gone.dials.iter().map(|x| x.label.as_str()).collect();
    assert_eq!(labels, ["Rust"], "what only drives what goes, goes as well");
    assert_eq!((gone.dials[0].formula.as_deref(), &gone.dials[0].when), (Some("1 - 0.4"), &None));
}

/// An expression that the test evaluates by itself.
#[derive(Debug, Clone)]
enum Tree {
    Number(f64),
    Dial(usize),
    Negative(Box<Tree>),
    Two(char, Box<Tree>, Box<Tree>),
    Call(&'static str, Vec<Tree>),
}

const DIALS: [f64; 3] = [0.25, -3.0, 12.5];

impl Tree {
    /// With parentheses only where the schoolbook needs them; `above` is how tightly what holds it binds.
    fn text(&self, above: u8) -> String {
        let (text, own) = match self {
            Tree::Number(n) => (n.to_string(), 9),
            Tree::Dial(i) => (format!("{{d{i}}}"), 9),
            Tree::Negative(x) => (format!("-{}", x.text(4)), 3),
            Tree::Two(o, a, b) => {
                let own = match o {
                    '<' => 0,
                    '+' | '-' => 1,
                    '*' | '/' => 2,
                    _ => 5,
                };
                // What is on the far side of its own direction needs parentheses even if it binds as tightly.
                let (left, right) = if *o == '^' { (own + 1, own) } else { (own, own + 1) };
                let left = if *o == '<' { own + 1 } else { left };
                (format!("{} {o} {}", a.text(left), b.text(right)), own)
            }
            Tree::Call(name, all) => {
                (format!("{name}({})", all.iter().map(|x| x.text(0)).collect::<Vec<_>>().join(", ")), 9)
            }
        };
        if own < above { format!("({text})") } else { text }
    }

    /// Its value where each power and each sine, which two libraries may round differently, is off by `ulps`.
    fn value(&self, ulps: f64) -> f64 {
        let off = 1.0 + ulps * f64::EPSILON;
        match self {
            Tree::Number(n) => *n,
            Tree::Dial(i) => DIALS[*i],
            Tree::Negative(x) => -x.value(ulps),
            Tree::Two(o, a, b) => {
                let (a, b) = (a.value(ulps), b.value(ulps));
                match o {
                    '<' => f64::from(u8::from(a < b)),
                    '+' => a + b,
                    '-' => a - b,
                    '*' => a * b,
                    '/' => a / b,
                    _ => a.powf(b) * off,
                }
            }
            Tree::Call(name, all) => {
                let v: Vec<f64> = all.iter().map(|x| x.value(ulps)).collect();
                match *name {
                    "min" => v[0].min(v[1]),
                    "max" => v[0].max(v[1]),
                    "mix" => v[0] * (1.0 - v[2]) + v[1] * v[2],
                    "floor" => v[0].floor(),
                    "abs" => v[0].abs(),
                    "sqrt" => v[0].sqrt(),
                    _ => v[0].sin() * off,
                }
            }
        }
    }
}

fn any_tree() -> impl Strategy<Value = Tree> {
    let leaf = prop_oneof![
        (0..1000u32).prop_map(|n| Tree::Number(f64::from(n) / 8.0)),
        (0..DIALS.len()).prop_map(Tree::Dial),
    ];
    leaf.prop_recursive(4, 24, 3, |inner| {
        let boxed = inner.clone().prop_map(Box::new);
        let one = prop::sample::select(vec!["floor", "abs", "sqrt", "sin"]);
        let two = prop::sample::select(vec!["min", "max"]);
        prop_oneof![
            boxed.clone().prop_map(Tree::Negative),
            (prop::sample::select(vec!['+', '-', '*', '/', '^', '<']), boxed.clone(), boxed)
                .prop_map(|(o, a, b)| Tree::Two(o, a, b)),
            (one, inner.clone()).prop_map(|(name, x)| Tree::Call(name, vec![x])),
            (two, inner.clone(), inner.clone()).prop_map(|(name, a, b)| Tree::Call(name, vec![a, b])),
            (inner.clone(), inner.clone(), inner).prop_map(|(a, b, t)| Tree::Call("mix", vec![a, b, t])),
        ]
    })
}

proptest! {
    #[test]
    fn formulas_agree_with_another_evaluator(tree in any_tree()) {
        let text = tree.text(0);
        prop_assume!(text.len() <= dustcoat_core::setting::formula::LONGEST);
        let formula = Formula::read(&text).map_err(|e| TestCaseError::fail(format!("{text}: {e}")))?;
        let dial = |id: &str| id.strip_prefix('d')?.parse().ok().map(|i: usize| DIALS[i]);
        let (got, wanted) = (formula.value(&dial).unwrap(), tree.value(0.0));
        let alike = |a: f64, b: f64| a == b || a.is_nan() && b.is_nan() || (a - b).abs() <= 1e-9 * b.abs().max(1.0);
        // The sine of 1e53 or a floor at its step has no answer that two libraries could agree on.
        prop_assume!([-4.0, 4.0].iter().all(|&ulps| alike(tree.value(ulps), wanted)));
        let same = alike(got, wanted);
        prop_assert!(same, "{text} is {got}, not {wanted}");
    }

    #[test]
    fn no_text_breaks_the_reader(text in "\\PC{0,80}") {
        if let Err(e) = Formula::read(&text) {
            prop_assert!(e.at + e.length <= text.encode_utf16().count(), "{text}: {e:?}");
        }
    }
}

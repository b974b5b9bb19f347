//! Variants that build on each other, and six to choose from.

use std::collections::{BTreeMap, BTreeSet};

use crate::common::{coat, document, driven_by, of_layer};
use crate::dials::{done, says, turn};
use dustcoat_core::document::{Dial, DialOption, Document, Edit, LadderSide, Reach, check, rungs, six, whole_variant};
use dustcoat_core::setting::{DialKind, Value};

/// Three dials that drive three coats' opacities, in a document with variants.
fn three() -> Document {
    let mut d = document((1..=3).map(|i| coat(&format!("l{i}"), "#7a3010", vec![])).collect());
    for (i, label) in ["Wear", "Salt", "Grime"].iter().enumerate() {
        d = driven_by(
            &d,
            Dial::number("", label, "", (0.0, 1.0), 0.5),
            &of_layer(&format!("l{}", i + 1), "opacity"),
            0.0,
            1.0,
        );
    }
    d
}

fn keep(d: &Document, name: &str, on: Option<&str>) -> Document {
    done(d, Edit::KeepVariant { name: name.into(), on: on.map(str::to_owned) })
}

fn take(d: &Document, name: &str) -> Document {
    done(d, Edit::TakeVariant { name: name.into() })
}

#[test]
fn a_variant_builds_on_another_and_holds_what_differs() {
    let hide = |d: &Document, layer: &str| {
        done(d, Edit::SetLayer { layer: layer.into(), name: None, shown: Some(false), publish: None })
    };
    let d = keep(&three(), "New", None);
    let worn = hide(&turn(&d, "d1", Value::Number(0.9)), "l3");
    let d = keep(&worn, "Worn", Some("New"));
    assert_eq!(d.variants[1].values, [("d1".to_owned(), Value::Number(0.9))].into());
    assert_eq!(d.variants[1].shown, [("l3".to_owned(), false)].into());
    let d = keep(&turn(&d, "d2", Value::Number(0.1)), "Salted", Some("Worn"));
    assert_eq!(d.variants[2].values.len(), 1);
    // Taken, each brings all that it is made of, and which layers are shown.
    let new = take(&d, "New");
    assert!(new.dials.iter().all(|x| x.value == Value::Number(0.5)) && new.layers[2].shown);
    let salted = take(&new, "Salted");
    let stands: Vec<&Value> = salted.dials.iter().map(|x| &x.value).collect();
    assert_eq!(stands, [&Value::Number(0.9), &Value::Number(0.1), &Value::Number(0.5)]);
    assert!(!salted.layers[2].shown);
    // What is changed in the one that others build on reaches them, but not what they say themselves.
    let set = |d: &Document, name: &str, dial: &str, value: Option<f64>| {
        done(d, Edit::SetVariant { name: name.into(), dial: dial.into(), value: value.map(Value::Number) })
    };
    let changed = set(&set(&d, "New", "d3", Some(0.7)), "New", "d1", Some(0.2));
    assert_eq!(whole_variant(&changed, "Salted").values["d3"], Value::Number(0.7));
    assert_eq!(whole_variant(&changed, "Salted").values["d1"], Value::Number(0.9));
    let follows = set(&changed, "Worn", "d1", None);
    assert_eq!(whole_variant(&follows, "Salted").values["d1"], Value::Number(0.2));
    says(&d, Edit::SetVariant { name: "New".into(), dial: "d1".into(), value: Some(Value::Number(7.0)) }, "range");
    // One that others build on goes: they stay what they are. Kept anew, one goes on building on what it built on.
    let gone = done(&d, Edit::RemoveVariant { name: "Worn".into() });
    assert_eq!(gone.variants[1].on.as_deref(), Some("New"));
    assert_eq!(whole_variant(&gone, "Salted"), whole_variant(&d, "Salted"));
    let none = done(&gone, Edit::RemoveVariant { name: "New".into() });
    assert_eq!(whole_variant(&none, "Salted"), whole_variant(&d, "Salted"));
    let anew = keep(&turn(&d, "d1", Value::Number(0.8)), "Worn", None);
    assert_eq!(anew.variants[1].on.as_deref(), Some("New"));
    says(&d, Edit::KeepVariant { name: "New".into(), on: Some("Salted".into()) }, "New → Salted → Worn → New");
    says(&d, Edit::KeepVariant { name: "Other".into(), on: Some("Nothing".into()) }, "no variant “Nothing”");
    // A layer that goes is forgotten.
    let gone = done(&d, Edit::RemoveLayer { layer: "l3".into() });
    assert!(gone.variants.iter().all(|v| !v.shown.contains_key("l3")));
}

#[test]
fn six_to_choose_from_are_drawn_as_far_as_each_dial_takes_part() {
    let mut d = three();
    for dial in [
        Dial {
            options: ["a", "b", "c"].map(|k| DialOption { key: k.into(), label: k.into() }).into(),
            ..Dial::new("", "Kind", DialKind::Choice, Value::Text("a".into()))
        },
        Dial::new("", "Paint", DialKind::Color, Value::Text("#2f605d".into())),
        Dial { max: 99.0, ..Dial::new("", "Seed", DialKind::Seed, Value::Number(3.0)) },
        Dial::new("", "Salted", DialKind::Switch, Value::Bool(false)),
    ] {
        d = done(&d, Edit::AddDial { dial });
    }
    let d = done(&d, Edit::FollowFormula { dial: "d2".into(), text: Some("Wear / 2".into()) });
    let reach = |r: Reach| d.dials.iter().map(|x| (x.id.clone(), r)).collect();
    let little: BTreeMap<_, _> = reach(Reach::Little);
    let lot: BTreeMap<_, _> = reach(Reach::Lot);
    assert!(six(&d, &reach(Reach::Held), 1).iter().all(BTreeMap::is_empty));
    assert_eq!(six(&d, &little, 7), six(&d, &little, 7), "the same seed draws the same six");
    assert_ne!(six(&d, &little, 7), six(&d, &little, 8));
    let spread = |reaches, dial: &str| {
        let all = (0..20).flat_map(|seed| six(&d, reaches, seed));
        let far = |v: &Value| if let Value::Number(n) = v { (n - 0.5).abs() } else { f64::NAN };
        all.map(|c| far(&c[dial])).fold(0.0, f64::max)
    };
    assert!((0.1..0.1501).contains(&spread(&little, "d1")), "{}", spread(&little, "d1"));
    assert!(spread(&lot, "d1") > 0.4);
    for seed in 0..20 {
        for (choice, reaches) in six(&d, &little, seed)
            .iter()
            .map(|c| (c, "a little"))
            .chain(six(&d, &lot, seed).iter().map(|c| (c, "a lot")))
        {
            assert!(!choice.contains_key("d2"), "what follows is not drawn");
            let mut turned = d.clone();
            for (dial, value) in choice {
                turned = turn(&turned, dial, value.clone());
            }
            check(&turned).unwrap_or_else(|e| panic!("{reaches}: {e}"));
        }
    }
    let paints: BTreeSet<String> = six(&d, &lot, 1).iter().map(|c| format!("{:?}", c["d5"])).collect();
    assert!(paints.len() > 4, "{paints:?}");
}

#[test]
fn a_ladder_steps_numbers_evenly_or_in_ratios_and_goes_through_what_a_choice_has() {
    let mut d = three();
    d.dials[1] = Dial { min: 1.0, max: 100.0, log: true, value: Value::Number(5.0), ..d.dials[1].clone() };
    d.dials[1].default = Value::Number(5.0);
    let seed = Dial { max: 10.0, ..Dial::new("d4", "Chance", DialKind::Seed, Value::Number(3.0)) };
    let options = ["a", "b"].map(|key| DialOption { key: key.into(), label: key.to_uppercase() });
    let choice = Dial { options: options.into(), ..Dial::new("d5", "Kind", DialKind::Choice, Value::Text("a".into())) };
    d.dials.extend([seed, choice, Dial::new("d6", "Lit", DialKind::Switch, Value::Bool(true))]);
    check(&d).unwrap();
    let side = |dial: &str, steps: usize| LadderSide { dial: dial.into(), from: None, to: None, steps: Some(steps) };
    let labels = |side: &LadderSide| rungs(&d, side).unwrap().into_iter().map(|r| r.label).collect::<Vec<_>>();
    assert_eq!(labels(&side("d1", 3)), ["Wear 0", "Wear 0.5", "Wear 1"]);
    assert_eq!(labels(&side("d2", 3)), ["Salt 1", "Salt 10", "Salt 100"], "in even ratios");
    assert_eq!(labels(&side("d4", 4)), ["Chance 0", "Chance 3", "Chance 7", "Chance 10"], "seeds are whole");
    assert_eq!(labels(&side("d5", 9)), ["Kind A", "Kind B"]);
    assert_eq!(labels(&side("d6", 9)), ["Lit off", "Lit on"]);
    let down = LadderSide { from: Some(0.8), to: Some(0.2), ..side("d1", 2) };
    assert_eq!(labels(&down), ["Wear 0.8", "Wear 0.2"], "also from the higher end");
    for (side, says) in [
        (side("d1", 13), "2 to 12 steps"),
        (side("d9", 3), "d9"),
        (LadderSide { to: Some(1.5), ..side("d1", 3) }, "within its range"),
        (LadderSide { from: Some(f64::NAN), ..side("d1", 3) }, "within its range"),
    ] {
        let said = rungs(&d, &side).unwrap_err().to_string();
        assert!(said.contains(says), "{said}");
    }
    let led = done(&d, Edit::FollowFormula { dial: "d3".into(), text: Some("Wear / 2".into()) });
    assert!(rungs(&led, &side("d3", 3)).unwrap_err().to_string().contains("follows a formula"));
}

#[test]
fn a_variant_says_of_a_layer_that_it_is_shown_hidden_or_left_alone() {
    let d = keep(&three(), "New", None);
    let d = keep(&d, "Worn", Some("New"));
    let show = |d: &Document, name: &str, shown: Option<bool>| {
        done(d, Edit::ShowInVariant { name: name.into(), layer: "l2".into(), shown })
    };
    let hidden = show(&d, "New", Some(false));
    assert!(!whole_variant(&hidden, "Worn").shown["l2"], "what builds on it goes along");
    assert!(!take(&hidden, "Worn").layers[1].shown);
    let back = show(&hidden, "Worn", Some(true));
    assert!(take(&back, "Worn").layers[1].shown && !take(&back, "New").layers[1].shown);
    assert_eq!(show(&back, "Worn", None).variants[1].shown.get("l2"), None);
    let alone = show(&hidden, "New", None);
    assert_eq!(whole_variant(&alone, "New").shown.get("l2"), None);
    says(&d, Edit::ShowInVariant { name: "New".into(), layer: "l9".into(), shown: Some(true) }, "l9");
}

//! Settings: what a dial or a formula makes of them, and palettes as text.

use dustcoat_core::setting::*;

fn state(value: Value, kind: DialKind) -> DialState {
    let options = vec!["even".into(), "odd".into()];
    DialState { label: "Wear".into(), kind, min: 0.0, max: 10.0, log: false, options, value }
}

fn dials() -> DialStates {
    let all = [
        ("d", Value::Number(5.0), DialKind::Number),
        ("s", Value::Bool(true), DialKind::Switch),
        ("c", Value::Text("odd".into()), DialKind::Choice),
        ("k", Value::Text("#ff0000".into()), DialKind::Color),
    ];
    all.into_iter().map(|(id, value, kind)| (id.to_owned(), state(value, kind))).collect()
}

#[test]
fn a_dial_is_laid_on_the_settings_own_range() {
    let spec = ParamSpec::share("amount", "Amount", 1.0, "");
    let at = |drive: Drive| resolve_one(&spec, Some(&drive.into()), &dials());
    assert_eq!(at(Drive::ranged("d", 0.75, 0.25)), Value::Number(0.5));
    assert_eq!(at(Drive::plain("d")), Value::Number(1.0), "bounded to the range");
    assert_eq!(at(Drive::plain("gone")), Value::Number(1.0));
    assert_eq!(at(Drive::ranged("s", 0.2, 0.8)), Value::Number(0.8), "a switch goes from end to end");
    let way = |way| {
        let Drive::Dial(drive) = Drive::ranged("d", 0.1, 0.9) else { unreachable!() };
        match at(Drive::Dial(DialDrive { way, ..drive })) {
            Value::Number(n) => n,
            _ => f64::NAN,
        }
    };
    assert!((way(Way::Even) - 0.5).abs() < 1e-12 && (way(Way::Smooth) - 0.5).abs() < 1e-12);
    assert!((way(Way::Ratios) - 0.3).abs() < 1e-12, "the geometric mean");
    assert!((way(Way::Stepped) - 0.5).abs() < 1e-12);
    let log =
        DialState { min: 0.1, log: true, value: Value::Number(1.0), ..state(Value::Number(1.0), DialKind::Number) };
    let states = DialStates::from([("d".into(), log)]);
    assert_eq!(Drive::ranged("d", 0.0, 1.0).value(&spec, &states), Value::Number(0.5), "1 is half way from 0.1 to 10");
}

#[test]
fn a_formula_sets_a_number_and_says_when_it_is_bounded() {
    let spec = ParamSpec::share("amount", "Amount", 0.3, "");
    let at = |text: &str| resolve_one(&spec, Some(&Drive::formula(text).into()), &dials());
    let said = |text: &str| Drive::formula(text).bounded(&spec, &dials()).unwrap_or_default();
    assert_eq!(at("{d} / 10 + 0.25 * {c}"), Value::Number(0.75));
    assert_eq!(said("{d} / 10"), "");
    assert_eq!(at("1/0"), Value::Number(1.0));
    assert_eq!(said("1/0"), "The formula gives something infinite; 1 is the most.");
    assert_eq!(at("-{d}"), Value::Number(0.0));
    assert_eq!(said("-{d}"), "The formula gives -5; 0 is the least.");
    assert_eq!(at("sqrt(-1)"), Value::Number(0.3));
    assert_eq!(said("sqrt(-1)"), "The formula gives no number; 0.3 is taken.");
    assert_eq!(at("{gone} + 1"), Value::Number(0.3));
}

#[test]
fn what_can_not_drive_is_refused_with_the_reason() {
    let (share, color) = (ParamSpec::share("amount", "Amount", 0.3, ""), ParamSpec::color("c", "Color", "#808080", ""));
    let why = |drive: Drive, spec: &ParamSpec| drive.check(spec, &dials()).unwrap_err().to_string();
    assert_eq!(why(Drive::plain("k"), &share), "the dial “Wear” is a colour, and that can't set it");
    assert_eq!(why(Drive::plain("c"), &share), "the dial “Wear” is a choice, and that can't set it");
    assert!(why(Drive::formula("{k}"), &share).contains("is a colour"));
    assert!(why(Drive::formula("{d}"), &color).contains("takes none"));
    assert!(why(Drive::ranged("d", 0.0, 7.0), &share).contains("a number from 0 to 1"));
    assert!(why(Drive::formula("{d} +"), &share).contains("is missing"));
    assert!(why(Drive::formula("{x}"), &share).contains("gone (“x”)"));
    let choice = ParamSpec::choice("kind", "Kind", &[("even", "Even"), ("odd", "Odd"), ("none", "None")], "");
    assert!(Drive::plain("c").check(&choice, &dials()).is_ok());
    assert_eq!(Drive::plain("c").value(&choice, &dials()), Value::Text("odd".into()));
    let fewer = ParamSpec::choice("kind", "Kind", &[("even", "Even")], "");
    assert!(Drive::plain("c").check(&fewer, &dials()).is_err(), "an option that it doesn't know");
}

#[test]
fn a_dial_that_goes_leaves_what_it_gave() {
    let spec = ParamSpec::number("size", "Size", "mm", (0.0, 100.0), 1.0, "");
    let without = |drive: Drive, dial: &str| drive.without(dial, &spec, &dials());
    assert_eq!(without(Drive::formula("{d} * 3 - {d}"), "d"), Param::from(10.0));
    assert_eq!(without(Drive::formula("{d} * 3 - {s}"), "d"), Drive::formula("5 * 3 - {s}").into());
    assert_eq!(without(Drive::ranged("d", 0.0, 50.0), "d"), Param::from(25.0));
}

#[test]
fn formulas_are_written_by_label_and_kept_by_id() {
    let mut all = dials();
    let again = |label: &str| DialState { label: label.into(), ..state(Value::Number(1.0), DialKind::Number) };
    all.retain(|id, _| id == "d");
    all.insert("e".into(), again("Salt line"));
    all.insert("f".into(), again("step"));
    let text = "mix(0, 1, Wear) * {Salt line} + {step}";
    let kept = formula_from_labels(text, &all).unwrap();
    assert_eq!(kept, "mix(0, 1, {d}) * {{e}} + {f}".replace("{{e}}", "{e}"));
    assert_eq!(formula_to_labels(&kept, &all), text);
    assert_eq!(formula_from_labels("wear", &all).unwrap(), "{d}", "however it is spelt");
    let e = formula_from_labels("1 + Waer", &all).unwrap_err();
    assert_eq!((e.at, e.length, e.why.as_str()), (4, 4, "There is no dial “Waer”"));
    all.insert("g".into(), again("Wear"));
    let e = formula_from_labels("Wear", &all).unwrap_err();
    assert_eq!(e.why, "Two dials are called “Wear”: write {Wear (d)} or {Wear (g)}");
    assert_eq!(formula_to_labels("{g}", &all), "{Wear (g)}");
    assert_eq!(formula_from_labels("{Wear (g)}", &all).unwrap(), "{g}");
}

#[test]
fn values_out_of_range_are_refused_with_what_would_be_right() {
    let spec = ParamSpec::length("size", "Size", (0.1, 1000.0), 40.0, "");
    for bad in [Value::Number(f64::NAN), Value::Number(0.0), Value::Number(1e9), Value::Text("a".into())] {
        let said = spec.check(&bad).unwrap_err().to_string();
        assert!(said.contains("“Size” takes a number from 0.1 to 1000"), "{said}");
    }
    assert!(spec.check(&Value::Number(38.0)).is_ok());
}

#[test]
fn a_palette_is_read_as_it_is_written_and_nothing_else_is() {
    let written = "#5b6e52 0.6, #8a3b1f 0.4, #000000 0";
    assert_eq!(write_palette(&read_palette(written).unwrap()), written);
    assert_eq!(write_palette(&read_palette("#5B6E52,#8a3b1f 0.25").unwrap()), "#5b6e52 1, #8a3b1f 0.25");
    let long = vec!["#101010"; MOST_COLORS + 1].join(",");
    for wrong in
        ["", ",", "red", "#5b6e52 2", "#5b6e52 -1", "#5b6e52 x", "#5b6e52 1 1", "#5b6e52 0", "#5b6e52 NaN", &long]
    {
        assert_eq!(read_palette(wrong), None, "{wrong}");
    }
}

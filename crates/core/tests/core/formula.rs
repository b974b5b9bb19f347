//! Formulas: how they are read, what is said of a wrong one, and their names.

use dustcoat_core::setting::formula::*;

fn value(text: &str) -> f64 {
    let dial = |name: &str| [("Wear", 0.25), ("d1", 4.0), ("Salt line", 2.0)].into_iter().find(|d| d.0 == name);
    let formula = Formula::read(text).unwrap_or_else(|e| panic!("{text}: {e}"));
    formula.value(&|name| dial(name).map(|d| d.1)).unwrap_or_else(|| panic!("{text}: a dial is missing"))
}

#[test]
fn operators_bind_as_in_a_schoolbook() {
    let all = [
        ("1 + 2 * 3", 7.0),
        ("(1 + 2) * 3", 9.0),
        ("2 ^ 3 ^ 2", 512.0),
        ("-2 ^ 2", -4.0),
        ("2 ^ -1", 0.5),
        ("8 / 4 / 2", 1.0),
        ("1 − 2 − 3", -4.0),
        ("2 × 3 · 4 ÷ 6", 4.0),
        ("1 + 1 < 3", 1.0),
        ("1 ≥ 2", 0.0),
        ("3 = 3", 1.0),
        (".5 + 1e-1", 0.6),
        ("--1", 1.0),
        ("mix(1, 3, Wear)", 1.5),
        ("{Salt line} * {d1}", 8.0),
        ("clamp(7, 0, 1) + step(0.5, Wear)", 1.0),
        ("smoothstep(0, 1, 0.5)", 0.5),
        ("max(1, 2, 3) - min(4, 5)", -1.0),
        ("round(10 * sin(pi / 2))", 10.0),
        ("mod(-1, 3) + fract(-0.25)", 2.75),
        ("atan(1, 1) == atan(1)", 1.0),
    ];
    for (text, wanted) in all {
        assert!((value(text) - wanted).abs() < 1e-12, "{text} is {}, not {wanted}", value(text));
    }
}

#[test]
fn what_is_wrong_is_said_with_its_place() {
    let all = [
        ("", 0, "is missing"),
        ("1 +", 3, "is missing"),
        ("2 * * 3", 4, "is missing"),
        ("Wear Wear", 5, "“W” can't stand here"),
        ("(1 + 2", 0, "not closed"),
        ("min(1, (2)", 3, "not closed"),
        ("{Wear", 0, "not closed"),
        ("1 < 2 < 3", 6, "can't stand here"),
        ("é + wobble(2)", 4, "no function “wobble”"),
        ("clamp(1, 2)", 0, "Write clamp(x, low, high): it can't be worked out of 2 values"),
        ("sin()", 0, "out of nothing"),
        ("1 $ 2", 2, "“$” can't stand here"),
        ("1)", 1, "“)” can't stand here"),
    ];
    for (text, at, why) in all {
        let e = Formula::read(text).expect_err(text);
        assert!(e.why.contains(why), "{text}: {e}");
        assert_eq!(e.at, at, "{text}: {e}");
    }
    let deep = format!("{}1{}", "(".repeat(40), ")".repeat(40));
    let e = Formula::read(&deep).unwrap_err();
    assert!(e.why.contains("More than 32 parentheses") && e.at == 32, "{e:?}");
    let e = Formula::read(&"1+".repeat(50_000)).unwrap_err();
    assert!(e.why.contains("at most"), "{e}");
}

#[test]
fn the_longest_rows_of_signs_and_powers_are_read_on_a_small_stack() {
    let work = || {
        assert!(Formula::read(&"-".repeat(LONGEST)).is_err());
        assert_eq!(value(&format!("{}1", "-".repeat(LONGEST - 2))), 1.0);
        assert_eq!(value(&format!("{}1", "1^".repeat(LONGEST / 2 - 1))), 1.0);
        let depth = DEEPEST - 1;
        assert_eq!(value(&format!("{}1{}", "abs(".repeat(depth), ")".repeat(depth))), 1.0);
    };
    std::thread::Builder::new().stack_size(1 << 20).spawn(work).unwrap().join().unwrap();
}

#[test]
fn names_go_to_ids_and_back() {
    let formula = Formula::read("Wear*2 + {Salt line} - Wear").unwrap();
    assert_eq!(formula.dials().collect::<Vec<_>>(), ["Wear", "Salt line", "Wear"]);
    let ids = |name: &str| Ok(braced(if name == "Wear" { "d1" } else { "d2" }));
    let kept = formula.renamed(&ids).unwrap();
    assert_eq!(kept, "{d1}*2 + {d2} - {d1}");
    let labels = |id: &str| Ok(written(if id == "d1" { "Use" } else { "Salt line" }));
    assert_eq!(Formula::read(&kept).unwrap().renamed(&labels).unwrap(), "Use*2 + {Salt line} - Use");
    let e = formula.renamed(&|n| if n == "Wear" { Ok("x".into()) } else { Err("gone".into()) }).unwrap_err();
    assert_eq!((e.at, e.length), (9, 11));
    assert_eq!(written("step"), "{step}", "a label that is a function's name");
    assert_eq!(written("2nd"), "{2nd}");
}

#[test]
fn what_has_no_number_is_told_from_what_is_none() {
    let none = |_: &str| None;
    assert_eq!(Formula::read("a + 1").unwrap().value(&none), None);
    assert_eq!(Formula::read("1/0").unwrap().value(&none), Some(f64::INFINITY));
    assert!(Formula::read("sqrt(-1)").unwrap().value(&none).unwrap().is_nan());
}

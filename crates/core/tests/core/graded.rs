//! Numbers that a mask drives: the same as constants where the mask is even, their own account where it is not, and bounded.

use crate::common::{coat, cube, document, evaluated_with, of_channel, of_step, plate, step};
use dustcoat_core::bake::Surface;
use dustcoat_core::catalog::{Entry, catalog};
use dustcoat_core::document::{Document, Edit, Target, apply, check, standings};
use dustcoat_core::evaluate::{Cache, Context, Measured, mask, steps};
use dustcoat_core::mask::{Join, Step};
use dustcoat_core::raster::Plane;
use dustcoat_core::setting::{Param, ParamSpec, ParamType, Settings, Value};
use dustcoat_core::task::{Cancel, silent};
use serde_json::json;

fn by(kind: &str, settings: serde_json::Value, low: f64, high: f64) -> Param {
    serde_json::from_value(json!({"mask": {"kind": kind, "settings": settings}, "low": low, "high": high})).unwrap()
}

fn evenly(value: f64, low: f64, high: f64) -> Param {
    by("even", json!({"value": value}), low, high)
}

fn mask_of(steps: Vec<Step>, surface: &Surface) -> Plane {
    mask_in(&document(vec![coat("l1", "#ffffff", steps)]), surface)
}

fn mask_in(document: &Document, surface: &Surface) -> Plane {
    check(document).unwrap();
    let (cache, cancel) = (Cache::new(1 << 28), Cancel::default());
    let context = Context { surface, measured: Measured::NONE, cache: &cache, cancel: &cancel, progress: &silent };
    mask(document, "l1", &context).unwrap().0.to_vec()
}

/// A step of that kind with one number changed; what its effect hangs on is set so that it has one.
fn with(entry: &Entry, spec: &ParamSpec, value: Param) -> Step {
    let mut settings: Settings = [(spec.key.to_owned(), value)].into();
    if let Some(choice) = spec.when.1.first() {
        settings.insert(spec.when.0.into(), (*choice).into());
    }
    let join = if entry.family == "shaper" { Join::Replace } else { Join::Multiply };
    Step { settings, ..step(join, entry.kind, &[]) }
}

#[test]
fn an_even_mask_drives_every_number_of_every_step_like_a_constant() {
    let surface = Surface::new(cube(60.0), 32);
    let base = || step(Join::Replace, "perlin", &[("size", 30.0.into())]);
    let mut checked = 0;
    for entry in catalog().iter().filter(|e| ["pattern", "source", "shaper", "reading"].contains(&e.family)) {
        let numbers = entry.params.iter().filter(|p| matches!(p.kind, ParamType::Number | ParamType::Integer));
        for spec in numbers.filter(|_| entry.measured.is_empty()) {
            let Value::Number(default) = spec.default else { panic!("{}", spec.key) };
            let low = spec.max.min(default * 1.5 + 1.0).floor().max(spec.min);
            for (at, number) in [(0.0, low), (1.0, default)] {
                let driven = mask_of(vec![base(), with(entry, spec, evenly(at, low, default))], &surface);
                let constant = mask_of(vec![base(), with(entry, spec, number.into())], &surface);
                let off = driven.iter().zip(&constant).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
                assert!(off < 1e-5, "{} › {} at {number}: {off}", entry.kind, spec.key);
                checked += 1;
            }
        }
    }
    assert!(checked > 300, "{checked}");
}

/// Values of a gradient along x over a plate of 100 mm.
fn along_x() -> serde_json::Value {
    json!({"size": 100})
}

#[test]
fn each_texel_is_cut_where_its_own_number_says() {
    let surface = Surface::new(plate(100.0), 128);
    let cut = by("gradient", along_x(), 0.2, 0.8);
    let line = vec![
        step(Join::Replace, "perlin", &[("size", 25.0.into())]),
        step(Join::Replace, "threshold", &[("cut", cut), ("softness", 0.3.into())]),
    ];
    let before = mask_of(vec![line[0].clone()], &surface);
    let after = mask_of(line, &surface);
    for (i, (b, a)) in before.iter().zip(&after).enumerate() {
        let cut = 0.2 + 0.6 * (surface.atlas.px[i] + 50.0) / 100.0;
        let t = ((b - cut) / 0.3 + 0.5).clamp(0.0, 1.0);
        let expected = t * t * (3.0 - 2.0 * t);
        assert!((a - expected).abs() < 5e-3, "{a} against {expected}");
    }
}

#[test]
fn an_amount_follows_its_mask_exactly() {
    let surface = Surface::new(plate(100.0), 64);
    let mut half = step(Join::Subtract, "even", &[("value", 0.5.into())]);
    half.amount = by("gradient", along_x(), 1.0, 0.0);
    for (m, x) in mask_of(vec![half], &surface).iter().zip(&surface.atlas.px) {
        let amount = 1.0 - (x + 50.0) / 100.0;
        assert!((m - (1.0 - 0.5 * amount)).abs() < 1e-5);
    }
}

#[test]
fn a_border_moves_as_far_as_the_mask_says_at_each_place() {
    let surface = Surface::new(plate(100.0), 256);
    let upright = json!({"size": 100, "turn_y": 90});
    let t =
        mask_of(vec![step(Join::Replace, "gradient", &[("size", 100.0.into()), ("turn_y", 90.0.into())])], &surface);
    assert!(t.iter().any(|t| *t < 0.02) && t.iter().any(|t| *t > 0.98), "the mask runs from 0 to 1 over the plate");
    let line = vec![
        step(Join::Replace, "gradient", &[("size", 100.0.into())]),
        step(Join::Replace, "threshold", &[("softness", 0.0.into())]),
        step(Join::Replace, "grow", &[("by", by("gradient", upright, -10.0, 20.0)), ("softness", 0.1.into())]),
    ];
    for (i, m) in mask_of(line, &surface).iter().enumerate() {
        let to_border = surface.atlas.px[i] + (-10.0 + 30.0 * t[i]);
        if to_border.abs() > 1.2 {
            assert_eq!(*m > 0.5, to_border > 0.0, "{to_border} mm from the border");
            assert!(*m == 0.0 || *m == 1.0, "hard but at the border: {m}");
        }
    }
}

#[test]
fn wider_blur_where_the_mask_is_full_and_none_where_it_is_empty() {
    let surface = Surface::new(plate(100.0), 128);
    let noise = step(Join::Replace, "perlin", &[("size", 6.0.into()), ("contrast", 3.0.into())]);
    let radius = by("gradient", along_x(), 0.02, 8.0);
    let plain = mask_of(vec![noise.clone()], &surface);
    let blurred = mask_of(vec![noise, step(Join::Replace, "blur", &[("radius", radius)])], &surface);
    let spread = |m: &Plane, from: f32, to: f32| {
        let x = &surface.atlas.px;
        let there: Vec<f32> = m.iter().zip(x).filter(|(_, x)| (from..to).contains(*x)).map(|(m, _)| *m).collect();
        let mean = there.iter().sum::<f32>() / there.len() as f32;
        (there.iter().map(|v| (v - mean) * (v - mean)).sum::<f32>() / there.len() as f32).sqrt()
    };
    assert!(spread(&blurred, -50.0, -48.0) > 0.9 * spread(&plain, -50.0, -48.0));
    assert!(spread(&blurred, 30.0, 50.0) < 0.35 * spread(&plain, 30.0, 50.0));
}

#[test]
fn patterns_keep_their_spread_between_two_sizes() {
    let surface = Surface::new(plate(400.0), 256);
    let size = by("gradient", json!({"size": 400}), 8.0, 40.0);
    let m = mask_of(vec![step(Join::Replace, "perlin", &[("size", size)])], &surface);
    for from in [-200.0f32, -150.0, -100.0, -50.0, 0.0] {
        let x = &surface.atlas.px;
        let there: Vec<f32> =
            m.iter().zip(x).filter(|(_, x)| (from..from + 50.0).contains(*x)).map(|(m, _)| *m).collect();
        let mean = there.iter().sum::<f32>() / there.len() as f32;
        let spread = (there.iter().map(|v| (v - mean) * (v - mean)).sum::<f32>() / there.len() as f32).sqrt();
        assert!((0.4..0.6).contains(&mean) && (0.12..0.24).contains(&spread), "at {from}: {mean}, {spread}");
    }
}

/// A published mask below, and a line above whose numbers follow it and a part.
fn driven_document() -> Document {
    let mut chips = coat("l1", "#111111", vec![step(Join::Replace, "perlin", &[])]);
    chips.publish = Some("chips".into());
    let width = by("follow", json!({"name": "chips"}), 1.0, 6.0);
    let amount = by("part", json!({"part": "plate"}), 0.2, 0.9);
    let mut rim = step(Join::Replace, "rim", &[("width", width)]);
    rim.amount = amount;
    document(vec![chips, coat("l2", "#eeeeee", vec![step(Join::Replace, "worley", &[]), rim])])
}

#[test]
fn names_circles_and_tiles_reach_into_the_masks_that_drive() {
    let d = driven_document();
    let surface = Surface::new(plate(100.0), 64);
    let (cache, cancel) = (Cache::new(1 << 28), Cancel::default());
    let context =
        Context { surface: &surface, measured: Measured::NONE, cache: &cache, cancel: &cancel, progress: &silent };
    let whole = mask(&d, "l2", &context).unwrap().0;
    let texels: Vec<u32> = (0..surface.atlas.len() as u32).step_by(7).collect();
    let subset = surface.subset(&texels);
    let (_, last) = steps::after_each(&d, "l2", &context, &texels, &subset).unwrap().pop().unwrap();
    assert!(last.iter().zip(&texels).all(|(v, i)| *v == whole[*i as usize]));

    let rename = Edit::SetLayer { layer: "l1".into(), name: None, shown: None, publish: Some("flakes".into()) };
    let renamed = apply(&d, &rename).unwrap();
    assert!(serde_json::to_string(&renamed).unwrap().contains("flakes"));
    assert_eq!(mask(&renamed, "l2", &context).unwrap().0, whole);

    let target = of_step("l1", "s1", "size");
    let own = by("follow", json!({"name": "chips"}), 10.0, 20.0);
    let said = apply(&d, &Edit::SetParam { target, value: Some(own) }).unwrap_err().to_string();
    assert!(said.contains("Coat l1 → Coat l1"), "{said}");
}

#[test]
fn what_a_mask_cannot_drive_is_refused_with_a_reason() {
    let d = driven_document();
    let target = |channel: Option<&str>, key: &str, inner: Option<&str>| Target {
        inner: inner.map(str::to_owned),
        ..channel.map_or_else(|| of_step("l2", "s2", key), |c| of_channel("l2", c, key))
    };
    let says = |target: Target, value: Param, wanted: &str| {
        let said = apply(&d, &Edit::SetParam { target, value: Some(value) }).unwrap_err().to_string();
        assert!(said.contains(wanted), "{said}");
    };
    says(target(None, "side", None), evenly(0.5, 0.0, 1.0), "only numbers");
    says(target(None, "width", None), by("blur", json!({}), 1.0, 2.0), "brings nothing in by itself");
    says(target(None, "width", None), by("nonsense", json!({}), 1.0, 2.0), "nonsense");
    says(target(None, "width", None), by("even", json!({"x": 1}), 1.0, 2.0), "x");
    says(target(None, "width", None), evenly(0.5, -4.0, 2.0), "“Width” takes a number from 0.05");
    says(target(Some("roughness"), "blend", None), evenly(0.5, 0.0, 1.0), "numbers of the steps");
    says(target(None, "width", Some("name")), evenly(0.5, 0.0, 1.0), "can't");
    says(target(None, "softness", Some("value")), 0.5.into(), "mask that drives");
    let mut third = step(Join::Replace, "levels", &[]);
    for key in ["black", "white", "gamma"] {
        third.settings.insert(key.into(), evenly(0.5, 0.2, 0.9));
    }
    let add = Edit::AddStep { layer: "l2".into(), index: 2, step: third };
    assert!(apply(&d, &add).unwrap_err().to_string().contains("two numbers of a step already are"));
}

#[test]
fn a_dial_reaches_the_mask_that_drives_and_lets_go_of_it() {
    let target = Target { inner: Some("part".into()), ..of_step("l2", "s2", "amount") };
    let d = apply(&driven_document(), &Edit::SetParam { target: target.clone(), value: Some("lid".into()) }).unwrap();
    let width = Target { key: "width".into(), inner: None, ..target };
    let drive = by("even", json!({"value": 0.25}), 1.0, 5.0);
    let d = apply(&d, &Edit::SetParam { target: width.clone(), value: Some(drive) }).unwrap();
    let value = Target { inner: Some("value".into()), ..width };
    let label = "Roughness of the wall".to_owned();
    let make = Edit::MakeDial { target: value.clone(), label, group: String::new(), low: None, high: None };
    let made = apply(&d, &make).unwrap();
    let stood = |d: &Document| standings(d).into_iter().find(|s| s.target == value).map(|s| s.value);
    assert_eq!(made.dials[0].value, stood(&made).unwrap(), "nothing moves when a dial is made");
    let made = apply(&made, &Edit::TurnDial { layer: None, dial: "d1".into(), value: Value::Number(0.75) }).unwrap();
    let standing = standings(&made);
    assert!(standing.iter().any(|s| s.target == value && s.value == Value::Number(0.75)), "{standing:?}");
    let surface = Surface::new(plate(100.0), 64);
    let cache = Cache::new(1 << 28);
    let turn = |d: &Document, to: f64| {
        apply(d, &Edit::TurnDial { layer: None, dial: "d1".into(), value: Value::Number(to) }).unwrap()
    };
    evaluated_with(&made, &surface, &cache);
    let e = evaluated_with(&turn(&made, 0.2), &surface, &cache);
    assert!(e.computed.contains(&"a step of Coat l2".to_owned()), "{:?}", e.computed);
    assert!(!e.computed.iter().any(|c| c == "distances" || c == "pattern of Coat l2"), "{:?}", e.computed);
    let released = apply(&made, &Edit::RemoveDial { dial: "d1".into() }).unwrap();
    assert!(check(&released).is_ok() && standings(&released).is_empty());
}

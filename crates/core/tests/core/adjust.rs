//! Layers that change what lies below: against another implementation of OKLCh, against closed forms, and by shells.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use crate::common::{add_box, coat, document, evaluated, plate, step};
use dustcoat_core::bake::Surface;
use dustcoat_core::document::{Document, Edit, Layer, LayerKind, apply, check, label};
use dustcoat_core::finish::Finish;
use dustcoat_core::finish::preset::ADJUSTMENTS;
use dustcoat_core::finish::vary::{self, Variation};
use dustcoat_core::mask::Join;
use dustcoat_core::mesh::{Piece, Soup};
use dustcoat_core::setting::{Param, parse_hex};
use palette::{FromColor, LinSrgb, Oklch};
use serde_json::{Value, json};

/// Sixteen boxes in a row: each is a shell.
fn boxes() -> Arc<Piece> {
    let mut soup = Soup::default();
    for i in 0..16 {
        let (x, w) = (i as f32 * 30.0, 1.0 / 16.0);
        add_box(&mut soup, [x, 0.0, 0.0], [x + 20.0, 20.0, 20.0], [i as f32 * w, 0.0, (i + 1) as f32 * w, 1.0]);
    }
    Arc::new(Piece::build(soup).unwrap())
}

fn adjusting(channels: Value) -> Layer {
    serde_json::from_value(json!({"id": "a1", "name": "Adjust", "kind": "adjust", "finish": {"channels": channels}}))
        .unwrap()
}

fn over(color: &str, layer: Layer) -> Document {
    let d = document(vec![coat("l1", color, vec![]), layer]);
    check(&d).unwrap();
    d
}

fn changed(color: &str, settings: Value) -> [f32; 3] {
    let surface = Surface::new(plate(20.0), 64);
    let d = over(color, adjusting(json!({"base_color": {"on": true, "settings": settings}})));
    let (e, n) = (evaluated(&d, &surface), surface.atlas.len());
    [0, 1, 2].map(|c| e.channels["base_color"][c * n + 11])
}

#[test]
fn hue_chroma_and_lightness_are_those_of_another_implementation() {
    for hex in ["#884422", "#2b585e", "#c0c0a0", "#7f9f3a"] {
        for (hue, chroma, lightness) in [(0.0, 1.0, 0.05), (35.0, 1.0, 0.0), (-120.0, 0.6, -0.1), (180.0, 1.1, 0.02)] {
            let got = changed(hex, json!({"hue": hue, "chroma": chroma, "lightness": lightness}));
            let [r, g, b] = parse_hex(hex).unwrap();
            let mut wanted = Oklch::from_color(LinSrgb::new(r, g, b));
            wanted.hue += hue as f32;
            wanted.chroma *= chroma as f32;
            wanted.l += lightness as f32;
            let wanted = LinSrgb::from_color(wanted);
            for (got, wanted) in got.iter().zip([wanted.red, wanted.green, wanted.blue]) {
                assert!(
                    (got - wanted.clamp(0.0, 1.0)).abs() < 2e-3,
                    "{hex} by {hue} {chroma} {lightness}: {got} not {wanted}"
                );
            }
        }
    }
    let near = |(a, b): (&f32, &f32)| (a - b).abs() < 1e-7;
    let same = changed("#336699", json!({}));
    assert!(same.iter().zip(&parse_hex("#336699").unwrap()).all(near), "to begin with nothing is changed: {same:?}");
}

#[test]
fn levels_gamma_and_contrast_are_their_formulas_on_colours_and_numbers() {
    let v = parse_hex("#808080").unwrap()[0];
    let near = |a: f32, b: f32| assert!((a - b).abs() < 1e-5, "{a} not {b}");
    near(changed("#808080", json!({"black": 0.1, "white": 0.5}))[0], (v - 0.1) / 0.4);
    near(changed("#808080", json!({"gamma": 2.0}))[1], v.sqrt());
    let (grey, other) = (v, parse_hex("#c0c0c0").unwrap()[0]);
    near(changed("#c0c0c0", json!({"contrast": 0.5}))[2], grey + (other - grey) * 0.5);
    let surface = Surface::new(plate(20.0), 64);
    let settings = json!({
        "roughness": {"on": true, "settings": {"plus": 0.5, "gamma": 2.0}},
        "height": {"on": true, "settings": {"times": -2.0, "plus": 0.25, "amount": 0.5}}
    });
    let e = evaluated(&over("#808080", adjusting(settings)), &surface);
    near(e.channels["roughness"][3], 0.75f32.sqrt());
    near(e.channels["height"][3], 0.5 + (0.5 * -2.0 + 0.25 - 0.5) * 0.5);
}

#[test]
fn an_adjustment_keeps_to_its_mask_and_hides_nothing() {
    let surface = Surface::new(plate(200.0), 128);
    let mut layer = adjusting(json!({"base_color": {"on": true, "settings": {"lightness": 0.2}}}));
    let mut half = step(Join::Replace, "perlin", &[("size", 40.0.into())]);
    half.id = "s1".into();
    layer.mask.steps = vec![half];
    let d = over("#336699", layer);
    let e = evaluated(&d, &surface);
    let flat = evaluated(&document(vec![coat("l1", "#336699", vec![])]), &surface);
    let moved = |i: usize| e.channels["base_color"][i] - flat.channels["base_color"][i];
    let all = (0..surface.atlas.len()).map(moved);
    let (least, most) = all.fold((f32::MAX, f32::MIN), |(l, h), v| (l.min(v), h.max(v)));
    assert!(least >= 0.0 && least < 0.3 * most && most > 0.02, "{least} {most}");
    let shares: BTreeMap<&str, f64> = e.coverage.iter().map(|c| (c.layer.as_str(), c.visible)).collect();
    assert_eq!(shares["l1"], 1.0, "the coat below is seen all the same");
    assert!((shares["a1"] - e.coverage[1].mask).abs() < 1e-6);
}

#[test]
fn every_shell_differs_a_little_and_is_of_one_colour() {
    let surface = Surface::new(boxes(), 256);
    let vary = ADJUSTMENTS.iter().find(|a| a.kind == "vary_shell").unwrap();
    let mut layer = adjusting(json!({}));
    let LayerKind::Adjust { finish } = &mut layer.kind else { unreachable!() };
    *finish = vary.finish();
    let e = evaluated(&over("#7d5a3c", layer), &surface);
    let n = surface.atlas.len();
    let mut by_shell: BTreeMap<u32, BTreeSet<[u32; 4]>> = BTreeMap::new();
    for i in 0..n {
        let shell = surface.piece.shell_of[surface.atlas.triangle[i] as usize];
        let c = [0, 1, 2].map(|c| e.channels["base_color"][c * n + i].to_bits());
        by_shell.entry(shell).or_default().insert([c[0], c[1], c[2], e.channels["roughness"][i].to_bits()]);
    }
    assert_eq!(by_shell.len(), 16);
    assert!(by_shell.values().all(|colors| colors.len() == 1), "a shell is of one tone");
    let tones: BTreeSet<_> = by_shell.values().flatten().collect();
    assert_eq!(tones.len(), 16, "and no two are alike");
    let base = parse_hex("#7d5a3c").unwrap();
    for tone in tones {
        let apart = (0..3).map(|c| (f32::from_bits(tone[c]) - base[c]).abs()).fold(0.0, f32::max);
        assert!(apart < 0.12, "they differ a little: {apart}");
    }
}

#[test]
fn every_ready_adjustment_is_one_that_a_document_takes_and_edits_name_it() {
    for a in ADJUSTMENTS {
        let layer = Layer { name: a.label.into(), ..adjusting(serde_json::to_value(a.finish().channels).unwrap()) };
        let d = document(vec![coat("l1", "#808080", vec![])]);
        let edit = Edit::AddLayer { inside: None, index: 1, layer, dials: vec![] };
        assert_eq!(label(&d, &edit), format!("adjust with {}", a.label));
        let d = apply(&d, &edit).unwrap_or_else(|e| panic!("{}: {e}", a.kind));
        assert_eq!(d.layers.len(), 2);
    }
    let bad = |channels: Value| check(&document(vec![adjusting(channels)])).unwrap_err().to_string();
    assert!(bad(json!({"base_color": {"on": true, "settings": {"hue": 400}}})).contains("180"));
    assert!(bad(json!({"base_color": {"on": true, "settings": {"color": "#112233"}}})).contains("color"));
    assert!(bad(json!({"gloss": {"on": true}})).contains("gloss"));
}

#[test]
fn contrast_of_colours_turns_on_the_mid_grey_that_is_seen() {
    // sRGB 128 stays; what is lighter gets lighter, what is darker darker.
    let grey = |hex: &str, contrast: f64| changed(hex, json!({"contrast": contrast}))[0];
    assert!((grey("#808080", 3.0) - grey("#808080", 1.0)).abs() < 1e-5);
    assert!(grey("#a0a0a0", 1.5) > grey("#a0a0a0", 1.0) && grey("#606060", 1.5) < grey("#606060", 1.0));
    // Shares turn on their half.
    let surface = Surface::new(plate(20.0), 64);
    let d = over("#808080", adjusting(json!({"roughness": {"on": true, "settings": {"contrast": 2.0}}})));
    let rough = evaluated(&d, &surface).channels["roughness"][11];
    assert!((rough - 0.0).abs() < 1e-6, "0.25 lies a quarter below the half: {rough}");
}

#[test]
fn a_variation_is_read_off_what_it_wrote_and_off_nothing_that_says_more() {
    let all = ADJUSTMENTS.iter().filter_map(|a| Variation::of(&a.finish())).collect::<Vec<_>>();
    let default = |key: &str| vary::specs().into_iter().find(|s| s.key == key).unwrap().default;
    for v in &all {
        let read = [v.hue, v.chroma, v.lightness, v.roughness].map(dustcoat_core::setting::Value::Number);
        assert_eq!(read, ["hue", "chroma", "lightness", "roughness"].map(default), "to the bit, or *reset* is offered");
    }
    let by: Vec<&str> = all.iter().map(|v| v.by.as_str()).collect();
    assert_eq!(by, ["shell", "part_value", "use", "worley", "perlin"], "a plain adjustment is none");
    let one = Variation { hue: 20.0, chroma: 0.0, lightness: 0.25, roughness: 0.3, by: "perlin".into(), seed: 40 };
    let clouds = ADJUSTMENTS.iter().find(|a| a.kind == "vary_cloud").unwrap().finish();
    let written = one.finish(&clouds);
    assert_eq!(Variation::of(&written), Some(one.clone()));
    // What else was set of the clouds stays while they are clouds, and goes with them.
    let mut wide = clouds.clone();
    for used in wide.channels.values_mut() {
        for param in used.settings.values_mut() {
            let Param::Mask(drive) = param else { panic!("all of it varies") };
            drive.mask.settings.insert("size".into(), 400.0.into());
        }
    }
    let size = |f: &Finish| match &f.channels["roughness"].settings["plus"] {
        Param::Mask(drive) => drive.mask.settings.get("size").cloned(),
        _ => None,
    };
    assert_eq!(size(&one.finish(&wide)), Some(400.0.into()));
    assert_eq!(size(&Variation { by: "shell".into(), ..one.clone() }.finish(&wide)), None);
    // One that leans to a side, has another number set, or seeds of its own is set number by number, and not written over.
    let mut more = written.clone();
    more.channels.get_mut("base_color").unwrap().settings.insert("contrast".into(), 1.2.into());
    let mut leaning = written.clone();
    if let Some(Param::Mask(drive)) = leaning.channels.get_mut("base_color").unwrap().settings.get_mut("hue") {
        drive.high += 1.0;
    }
    let mut d = Document::new("Varied");
    for finish in [more, leaning] {
        assert_eq!(Variation::of(&finish), None);
        d.layers = vec![Layer { kind: LayerKind::Adjust { finish: finish.clone() }, ..coat("l1", "#808080", vec![]) }];
        assert!(apply(&d, &Edit::Vary { layer: "l1".into(), variation: one.clone() }).is_err());
    }
    d.layers = vec![Layer { kind: LayerKind::Adjust { finish: clouds }, ..coat("l1", "#808080", vec![]) }];
    let far = Variation { hue: 1e9, lightness: -3.0, ..one };
    let LayerKind::Adjust { finish } =
        apply(&d, &Edit::Vary { layer: "l1".into(), variation: far }).unwrap().layers.remove(0).kind
    else {
        panic!("it stays an adjustment")
    };
    let bounded = Variation::of(&finish).unwrap();
    assert_eq!((bounded.hue, bounded.lightness), (180.0, 0.0), "bounded to what can be set");
}

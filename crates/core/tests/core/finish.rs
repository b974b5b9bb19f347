//! Finishes: ramps along masks, blend modes, how relief meets what lies below, and what is refused.

use crate::common::{coat, cube, document, evaluated, evaluated_with, of_channel, plate, step};
use dustcoat_core::bake::Surface;
use dustcoat_core::document::{Document, Edit, Layer, LayerKind, Target, apply, check, colors};
use dustcoat_core::evaluate::{Cache, needs, packing, texture};
use dustcoat_core::finish::channel::CHANNELS;
use dustcoat_core::mask::Join;
use dustcoat_core::setting::{DialStates, Param, parse_hex};
use serde_json::json;

fn param(value: serde_json::Value) -> Param {
    serde_json::from_value(value).unwrap()
}

/// A coat with some settings of its channels given.
fn laid(id: &str, given: &[(&str, &str, Param)]) -> Layer {
    let mut layer = coat(id, "#808080", vec![]);
    let LayerKind::Coat { finish } = &mut layer.kind else { unreachable!() };
    for (channel, key, value) in given {
        finish.channels.get_mut(*channel).unwrap().settings.insert((*key).into(), value.clone());
    }
    layer
}

fn along(kind: &str, settings: serde_json::Value, stops: serde_json::Value, between: &str) -> Param {
    param(json!({"along": {"kind": kind, "settings": settings}, "stops": stops, "between": between}))
}

#[test]
fn a_colour_is_read_along_a_reading_in_linear_light() {
    let surface = Surface::new(cube(80.0), 128);
    let stops = json!([{"at": 0.0, "value": "#203040"}, {"at": 1.0, "value": "#e0c080"}]);
    let ramp = along("altitude", json!({"low": 0, "high": 80}), stops, "linear");
    let d = document(vec![laid("l1", &[("base_color", "color", ramp)])]);
    check(&d).unwrap();
    let e = evaluated(&d, &surface);
    let (low, high) = (parse_hex("#203040").unwrap(), parse_hex("#e0c080").unwrap());
    let n = surface.atlas.len();
    for i in (0..n).step_by(37) {
        let t = ((surface.atlas.py[i] + 40.0) / 80.0).clamp(0.0, 1.0);
        for c in 0..3 {
            let wanted = low[c] + (high[c] - low[c]) * t;
            assert!((e.channels["base_color"][c * n + i] - wanted).abs() < 1e-5);
        }
    }
    assert_eq!(colors(&d.layers[0], &DialStates::new()), ["#203040", "#e0c080"], "the section shows all of it");
}

#[test]
fn a_coat_changes_with_its_own_mask_and_numbers_vary() {
    let surface = Surface::new(cube(80.0), 64);
    let mut layer = laid(
        "l1",
        &[
            ("roughness", "value", param(json!({"mask": {"kind": "own"}, "low": 0.9, "high": 0.2}))),
            (
                "metallic",
                "amount",
                param(json!({"mask": {"kind": "altitude", "settings": {"high": 80}}, "low": 0, "high": 1})),
            ),
        ],
    );
    layer.mask.steps = coat("x", "#000000", vec![step(Join::Replace, "even", &[("value", 0.5.into())])]).mask.steps;
    let e = evaluated(&document(vec![layer]), &surface);
    // Half of the way from the bare piece's 0.6 to what the half mask reads: 0.55.
    assert!(e.channels["roughness"].iter().all(|r| (r - (0.6 + (0.55 - 0.6) * 0.5)).abs() < 1e-5));
    for (m, y) in e.channels["metallic"].iter().zip(&surface.atlas.py) {
        assert!((m - 0.5 * ((y + 40.0) / 80.0).clamp(0.0, 1.0)).abs() < 1e-5);
    }
}

#[test]
fn blend_modes_meet_what_lies_below() {
    let surface = Surface::new(plate(50.0), 64);
    let base = laid("l1", &[("roughness", "value", 0.5.into())]);
    let over = laid("l2", &[("roughness", "value", 0.4.into()), ("roughness", "blend", "multiply".into())]);
    let mut half = over.clone();
    half.opacity = 0.5.into();
    for (top, wanted) in [(over, 0.2), (half, 0.35)] {
        let e = evaluated(&document(vec![base.clone(), top]), &surface);
        assert!(e.channels["roughness"].iter().all(|r| (r - wanted).abs() < 1e-6));
    }
}

#[test]
fn relief_is_buried_replaced_or_raised_from_its_neutral_level() {
    let surface = Surface::new(plate(50.0), 64);
    let below = || laid("l1", &[("height", "value", 2.0.into())]);
    let cases: &[(&str, f64, f64, f32)] = &[
        ("adds", 0.0, 0.0, 3.0),
        ("adds", 0.0, 0.25, 2.75),
        ("adds", 0.5, 0.0, 2.0),
        ("adds", 1.0, 0.0, 1.0),
        ("replaces", 0.0, 0.25, 0.75),
        ("maximum", 0.0, 0.0, 2.0),
        ("maximum", 1.0, 0.0, 1.0),
    ];
    for (relief, bury, neutral, wanted) in cases {
        let top = laid(
            "l2",
            &[
                ("height", "value", 1.0.into()),
                ("height", "relief", (*relief).into()),
                ("height", "bury", (*bury).into()),
                ("height", "neutral", (*neutral).into()),
            ],
        );
        let h = evaluated(&document(vec![below(), top]), &surface).channels["height"][7];
        assert!((h - wanted).abs() < 1e-5, "{relief}, bury {bury}, neutral {neutral}: {h} instead of {wanted}");
    }
}

#[test]
fn only_the_channel_that_reads_it_hangs_on_a_ramp() {
    let surface = Surface::new(plate(50.0), 64);
    let stops = json!([{"at": 0.3, "value": 0.1}, {"at": 0.7, "value": 0.9}]);
    let rough = along("perlin", json!({"size": 12}), stops, "smooth");
    let d = document(vec![laid("l1", &[("roughness", "value", rough)])]);
    let cache = Cache::new(1 << 28);
    let first = evaluated_with(&d, &surface, &cache);
    assert!(
        first.channels["roughness"].iter().any(|r| *r < 0.2) && first.channels["roughness"].iter().any(|r| *r > 0.8)
    );
    let target = |channel: &str, key: &str, inner: Option<&str>| Target {
        inner: inner.map(str::to_owned),
        ..of_channel("l1", channel, key)
    };
    let set = |d: &Document, t: Target, v: Param| apply(d, &Edit::SetParam { target: t, value: Some(v) }).unwrap();
    let coloured = set(&d, target("base_color", "color", None), "#ff0000".into());
    assert_eq!(evaluated_with(&coloured, &surface, &cache).computed, ["channel base_color"]);
    let turned = set(&coloured, target("roughness", "value", Some("size")), 20.0.into());
    let e = evaluated_with(&turned, &surface, &cache);
    assert_eq!(e.computed, ["pattern of Coat l1", "channel roughness"]);
    assert_ne!(e.channels["roughness"], first.channels["roughness"]);
    let starved = evaluated_with(&turned, &surface, &Cache::new(1 << 10));
    assert_eq!(starved.channels["roughness"], e.channels["roughness"], "kept or not, the same");
}

#[test]
fn what_a_finish_reads_is_measured_and_never_goes_round() {
    let stops = json!([{"at": 0, "value": "#000000"}, {"at": 1, "value": "#ffffff"}]);
    let edges = along("edges", json!({"radius": "broad"}), stops.clone(), "linear");
    let d = document(vec![laid("l1", &[("base_color", "color", edges)])]);
    let piece = cube(40.0);
    assert_eq!(needs(&d, &piece).iter().map(|k| k.kind).collect::<Vec<_>>(), ["curvature"]);

    // What lies below the upper coat is coloured by the upper coat's mask.
    let follow = along("follow", json!({"name": "wear"}), stops, "linear");
    let mut upper = coat("l2", "#222222", vec![step(Join::Replace, "below", &[("channel", "base_color".into())])]);
    upper.publish = Some("wear".into());
    let said = check(&document(vec![laid("l1", &[("base_color", "color", follow)]), upper])).unwrap_err().to_string();
    assert!(said.contains("in a circle") && said.contains("Coat l1") && said.contains("Coat l2"), "{said}");
}

#[test]
fn ramps_that_cannot_be_are_refused_with_a_reason() {
    let stop = |at: f64| json!({"at": at, "value": 0.5});
    let says = |layer: Layer, wanted: &str| {
        let said = check(&document(vec![layer])).unwrap_err().to_string();
        assert!(said.contains(wanted), "{said}");
    };
    let rough =
        |stops: serde_json::Value| laid("l1", &[("roughness", "value", along("even", json!({}), stops, "linear"))]);
    says(rough(json!([])), "1 to 16 stops");
    says(rough(json!((0..17).map(|i| stop(f64::from(i) / 16.0)).collect::<Vec<_>>())), "1 to 16 stops");
    says(rough(json!([stop(0.5), stop(0.2)])), "in the order of their places");
    says(rough(json!([stop(1.5)])), "from 0 to 1");
    says(rough(json!([{"at": 0, "value": "#ffffff"}])), "“Value” takes a number");
    says(rough(json!([{"at": 0, "value": 7}])), "“Value” takes a number from 0 to 1");
    let ramp = along("even", json!({}), json!([stop(0.0)]), "linear");
    says(laid("l1", &[("roughness", "blend", ramp.clone())]), "only what a coat lays down");
    says(laid("l1", &[("roughness", "amount", ramp.clone())]), "only what a coat lays down");
    says(coat("l1", "#000000", vec![step(Join::Replace, "threshold", &[("cut", ramp)])]), "only what a coat lays down");
    says(coat("l1", "#000000", vec![step(Join::Replace, "own", &[])]), "not a kind of mask step");
    let own = param(json!({"mask": {"kind": "own"}, "low": 0, "high": 1}));
    says(coat("l1", "#000000", vec![step(Join::Replace, "threshold", &[("cut", own)])]), "the mask that it makes");
}

/// A coat that lays further channels down besides the usual four.
fn with_more(id: &str, more: serde_json::Value) -> Layer {
    let mut layer = coat(id, "#808080", vec![]);
    let LayerKind::Coat { finish } = &mut layer.kind else { unreachable!() };
    for (channel, settings) in more.as_object().unwrap() {
        let used = serde_json::from_value(json!({"on": true, "settings": settings})).unwrap();
        finish.channels.insert(channel.clone(), used);
    }
    layer
}

#[test]
fn every_channel_lays_its_value_over_the_bare_piece_by_its_weight() {
    let surface = Surface::new(plate(20.0), 64);
    // Directions are no values that are mixed; those of fine normals have tests of their own.
    for channel in CHANNELS.iter().filter(|c| !c.always && !c.kind.ends_with("normal")) {
        let (value, spec) = if channel.bare.len() == 3 { (json!("#4080c0"), "color") } else { (json!(0.25), "value") };
        let value = if ["ior"].contains(&channel.kind) { json!(1.25) } else { value };
        let bare = document(vec![coat("l1", "#808080", vec![])]);
        assert!(
            !evaluated(&bare, &surface).channels.contains_key(channel.kind),
            "{} costs nothing unlaid",
            channel.kind
        );
        let mut layer = with_more("l1", json!({channel.kind: {spec: value}}));
        layer.opacity = 0.5.into();
        let d = document(vec![layer]);
        check(&d).unwrap();
        let e = evaluated(&d, &surface);
        let wanted = match &value {
            serde_json::Value::String(hex) => parse_hex(hex).unwrap().to_vec(),
            number => vec![number.as_f64().unwrap() as f32],
        };
        let n = surface.atlas.len();
        for (c, (bare, value)) in channel.bare.iter().zip(&wanted).enumerate() {
            let mixed = bare + (value - bare) * 0.5;
            let got = e.channels[channel.kind][c * n + 9];
            assert!((got - mixed).abs() < 1e-5, "{}: {got}, not {mixed}", channel.kind);
        }
        let highest = wanted.iter().chain(channel.bare).copied().fold(f32::MIN, f32::max);
        assert_eq!(e.highest[channel.kind], highest);
    }
}

#[test]
fn packed_textures_hold_what_gltf_wants_of_them() {
    let surface = Surface::new(plate(20.0), 64);
    let mut d = document(vec![with_more(
        "l1",
        json!({
            "opacity": {"value": 0.5}, "occlusion": {"value": 0.5},
            "emissive": {"color": "#ff8000"}, "emissive_strength": {"value": 20},
            "clearcoat": {"value": 1.0}, "clearcoat_roughness": {"value": 0.2},
            "sheen_color": {"color": "#336699"}, "sheen_roughness": {"value": 0.6},
            "anisotropy": {"value": 0.4}, "anisotropy_rotation": {"value": 90},
            "specular": {"value": 0.5}, "specular_color": {"color": "#ff0000"},
            "ior": {},
            "transmission": {"value": 1.0}, "thickness": {"value": 8}
        }),
    )]);
    let LayerKind::Coat { finish } = &mut d.layers[0].kind else { unreachable!() };
    let ramp = param(
        json!({"along": {"kind": "gradient", "settings": {}}, "stops": [{"at": 0.0, "value": 1.5}, {"at": 1.0, "value": 2.0}]}),
    );
    finish.channels.get_mut("ior").unwrap().settings = [("value".to_owned(), ramp)].into();
    check(&d).unwrap();
    let e = evaluated(&d, &surface);
    let texel = |key: &str| packing::find(key).unwrap().bytes(&surface, &e)[4 * 700..4 * 700 + 4].to_vec();
    let factor = |key: &str| packing::find(key).unwrap().factor(&e.highest);
    assert_eq!((texel("emissive"), factor("emissive")), (vec![255, 128, 0, 255], 20.0));
    assert_eq!(texel("clearcoat")[..2], [255, 51]);
    assert_eq!(texel("sheen"), [0x33, 0x66, 0x99, 153]);
    // KHR_materials_anisotropy: a direction of +Y is (127 or 128, 255).
    let grain = texel("anisotropy");
    assert!(grain[0].abs_diff(128) <= 1 && grain[1..] == [255, 102, 255], "{grain:?}");
    assert_eq!((texel("transmission")[..2].to_vec(), factor("transmission")), (vec![255, 255], 8.0));
    assert_eq!((texel("specular")[..3].to_vec(), factor("specular")), (vec![255, 0, 0], 2.0));
    // What the shader makes of one IOR and a weight is the reflectance of the texel's own.
    let (r, own) = (
        |n: f32| ((n - 1.0) / (n + 1.0)) * ((n - 1.0) / (n + 1.0)),
        e.channels["ior"][surface.atlas.lookup[700] as usize],
    );
    assert!((f32::from(texel("specular")[3]) / 255.0 * r(2.0) - 0.5 * r(own)).abs() < 0.004 * r(2.0));
    assert_eq!(texture::base_color(&surface, &e)[4 * 700 + 3], 128, "opacity is alpha");
    assert_eq!(texture::orm(&surface, &e, None)[4 * 700], 128, "its own hollows are dark");
    let too_much = document(vec![with_more("l1", json!({"emissive_strength": {"value": 1e12}}))]);
    let refused = check(&too_much).unwrap_err().to_string();
    assert!(refused.contains("10000") || refused.contains("10,000") || refused.contains("10 000"), "{refused}");
}

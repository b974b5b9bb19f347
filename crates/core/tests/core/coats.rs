//! What coats take their values from besides ramps along masks: weighted palettes, pictures, grain, uses; fine normals; and layers carried to other projects.

use std::collections::BTreeMap;
use std::io::Cursor;
use std::sync::Arc;

use crate::common::{coat, document, evaluated, group, of_channel, plate, sphere};
use crate::dials::{done, says, turn};
use dustcoat_core::bake::Surface;
use dustcoat_core::bake::frame::frame;
use dustcoat_core::document::{self, Dial, Document, Edit, EditError, Layer, LayerKind, Target, apply, copied};
use dustcoat_core::evaluate::texture;
use dustcoat_core::finish::channel;
use dustcoat_core::finish::preset::PALETTES;
use dustcoat_core::mesh::intake::{Intake, PictureUse};
use dustcoat_core::raster::srgb::decode;
use dustcoat_core::recipe::Recipe;
use dustcoat_core::setting::{Between, DialKind, Drive, PALETTE, Param, Value};
use glam::Vec3;
use image::{DynamicImage, ImageFormat, Rgb, RgbImage};
use serde_json::json;

fn of(value: serde_json::Value) -> Layer {
    let mut layer = json!({"id": "l1", "name": "Coat", "kind": "coat"});
    layer["finish"] = json!({"channels": value});
    serde_json::from_value(layer).unwrap()
}

/// A plate with a picture for masks, called p.png.
fn with_picture(picture: RgbImage) -> Surface {
    let mut png = Cursor::new(Vec::new());
    DynamicImage::ImageRgb8(picture).write_to(&mut png, ImageFormat::Png).unwrap();
    let used = PictureUse { hash: "h".into(), file: "p.png".into(), purpose: "mask".into(), ..PictureUse::default() };
    let intake = Intake { pictures: vec![used], ..Intake::default() };
    let piece = plate(100.0).take_in(&intake, &|_| Some(png.get_ref().clone()));
    Surface::new(Arc::new(piece), 128)
}

#[test]
fn a_palette_is_taken_as_often_as_its_weights_say() {
    let surface = Surface::new(plate(400.0), 256);
    // Cells far smaller than the plate: thousands of draws.
    let colors = json!({"along": {"kind": "worley", "settings": {"output": "cell", "size": 5}}, "between": "palette",
        "stops": [{"at": 0.5, "value": "#ff0000"}, {"at": 0.0, "value": "#00ff00"}, {"at": 0.25, "value": "#0000ff"}, {"at": 0.25, "value": "#ffffff"}]});
    let d = document(vec![of(json!({"base_color": {"on": true, "settings": {"color": colors}}}))]);
    document::check(&d).unwrap();
    let e = evaluated(&d, &surface);
    let (c, n) = (&e.channels["base_color"], surface.atlas.len());
    let share = |rgb: [f32; 3]| (0..n).filter(|i| (0..3).all(|k| c[k * n + i] == rgb[k])).count() as f64 / n as f64;
    let (red, green, blue, white) =
        (share([1.0, 0.0, 0.0]), share([0.0, 1.0, 0.0]), share([0.0, 0.0, 1.0]), share([1.0; 3]));
    assert!(
        (red - 0.5).abs() < 0.04 && (blue - 0.25).abs() < 0.04 && (white - 0.25).abs() < 0.04,
        "{red} {blue} {white}"
    );
    assert!(
        green == 0.0 && (red + blue + white - 1.0).abs() < 1e-9,
        "what weighs nothing is never taken, and nothing is mixed"
    );
    for p in PALETTES {
        let layer = json!({"id": "l1", "name": p.label, "kind": "coat", "finish": p.finish()});
        document::check(&document(vec![serde_json::from_value(layer).unwrap()]))
            .unwrap_or_else(|e| panic!("{}: {e}", p.kind));
    }
    let empty = json!({"along": {"kind": "shell"}, "between": "palette", "stops": [{"at": 0.0, "value": "#ff0000"}]});
    let wrong = document(vec![of(json!({"base_color": {"on": true, "settings": {"color": empty}}}))]);
    assert!(document::check(&wrong).unwrap_err().to_string().contains("one of them above 0"));
}

/// Cells that take colours by their weights: half red, half blue.
fn of_two() -> Document {
    let colors = json!({"along": {"kind": "worley", "settings": {"output": "cell", "size": 5}}, "between": "palette",
        "stops": [{"at": 0.5, "value": "#ff0000"}, {"at": 0.5, "value": "#0000ff"}]});
    document(vec![of(json!({"base_color": {"on": true, "settings": {"color": colors}}}))])
}

#[test]
fn all_colours_of_a_palette_follow_one_dial() {
    let surface = Surface::new(plate(400.0), 128);
    let whole = Target { inner: Some(PALETTE.into()), ..of_channel("l1", "base_color", "color") };
    let make =
        Edit::MakeDial { target: whole.clone(), label: "Coats".into(), group: String::new(), low: None, high: None };
    let d = done(&of_two(), make);
    let dial = d.dials[0].clone();
    assert_eq!((dial.kind(), &dial.value), (DialKind::Palette, &Value::Text("#ff0000 0.5, #0000ff 0.5".into())));
    let seen = |d: &Document| evaluated(d, &surface).channels;
    assert_eq!(seen(&d), seen(&of_two()), "nothing moves as it is made");
    // Turned, all its colours are others, and as many as it says.
    let greens = Value::Text("#00ff00 1, #008000 1, #004000 0".into());
    let green = turn(&d, &dial.id, greens.clone());
    let (c, n) = (seen(&green)["base_color"].clone(), surface.atlas.len());
    assert!((0..n).all(|i| c[i] == 0.0 && c[n + i] > 0.0 && c[2 * n + i] == 0.0));
    assert_eq!(document::standings(&green)[0].value, greens);
    // Released, or with the dial gone, its colours stay what they were; so they do in a recipe and on its use.
    let released = done(&green, Edit::SetParam { target: whole.clone(), value: Some(Param::Const(greens.clone())) });
    let gone = done(&green, Edit::RemoveDial { dial: dial.id.clone() });
    assert!(released.layers == gone.layers && gone.dials.is_empty());
    assert_eq!(seen(&gone), seen(&green));
    let recipe = Recipe::of_layer(&green, Some("l1"), "Patches").unwrap();
    let used =
        done(&document(vec![]), Edit::AddLayer { inside: None, index: 0, layer: recipe.to_use(), dials: vec![] });
    assert_eq!(seen(&used), seen(&green));
    let back = Edit::TurnDial { layer: Some("l1".into()), dial: recipe.dials[0].id.clone(), value: dial.value.clone() };
    assert_eq!(seen(&done(&used, back)), seen(&of_two()), "another palette is laid on this use");
    // What is no palette is refused in words, and so is one that is led while it is a plain ramp.
    let wrong = |value: &str| Edit::TurnDial { layer: None, dial: dial.id.clone(), value: Value::Text(value.into()) };
    says(&d, wrong("red 1"), "its colours with their weights");
    let mut plain = d.clone();
    if let Some((finish, _)) = plain.layers[0].kind.finish_mut()
        && let Some(Param::Ramp(ramp)) = finish.channels.get_mut("base_color").and_then(|c| c.settings.get_mut("color"))
    {
        ramp.between = Between::Linear;
    }
    assert!(document::check(&plain).unwrap_err().to_string().contains("a palette sets its colours, and it is none"));
    let size = Target { inner: Some("size".into()), ..of_channel("l1", "base_color", "color") };
    says(&d, Edit::SetParam { target: size, value: Some(Drive::plain(&dial.id).into()) }, "a palette");
}

#[test]
fn a_picture_lays_its_own_colours() {
    // Left red, right a grey that sRGB tells from linear.
    let surface =
        with_picture(RgbImage::from_fn(64, 64, |x, _| if x < 32 { Rgb([200, 30, 10]) } else { Rgb([128; 3]) }));
    let colors = json!({"colors": {"kind": "colors", "settings": {"picture": "p.png", "size": 100, "repeat": "once", "placement": "planar", "axis": "y"}}});
    let d = document(vec![of(json!({"base_color": {"on": true, "settings": {"color": colors}}}))]);
    document::check(&d).unwrap();
    let e = evaluated(&d, &surface);
    let (c, n) = (&e.channels["base_color"], surface.atlas.len());
    let at = |x: f32| {
        let i = (0..n).find(|i| (surface.atlas.px[*i] - x).abs() < 1.0 && surface.atlas.pz[*i].abs() < 1.0).unwrap();
        [c[i], c[n + i], c[2 * n + i]]
    };
    let sides = [at(-25.0), at(25.0)];
    let (red, grey) = ([200, 30, 10].map(|v| decode(v as f32 / 255.0)), [decode(128.0 / 255.0); 3]);
    let near = |a: [f32; 3], b: [f32; 3]| a.iter().zip(b).all(|(a, b)| (a - b).abs() < 0.004);
    assert!(
        (near(sides[0], red) && near(sides[1], grey)) || (near(sides[1], red) && near(sides[0], grey)),
        "{sides:?}"
    );
    // A number is no colour, and colours are no mask.
    let rough = document(vec![of(json!({"roughness": {"on": true, "settings": {"value": colors}}}))]);
    let said = document::check(&rough).unwrap_err().to_string();
    assert!(said.contains("Roughness") && said.contains("takes a number"), "{said}");
    let driven = json!({"mask": {"kind": "colors", "settings": {"picture": "p.png"}}, "low": 0.0, "high": 1.0});
    let masked = document(vec![of(json!({"roughness": {"on": true, "settings": {"amount": driven}}}))]);
    let said = document::check(&masked).unwrap_err().to_string();
    assert!(said.contains("are no mask"), "{said}");
    // A picture that is gone leaves the default, and the document stays as it is.
    let gone = Surface::new(plate(100.0), 64);
    assert_eq!(
        evaluated(&d, &gone).channels["base_color"][0],
        (channel::find("base_color").unwrap().value())
            .check(&Value::Text("#808080".into()))
            .map(|()| decode(128.0 / 255.0))
            .unwrap()
    );
}

#[test]
fn fine_normals_lean_as_the_picture_says_and_add_to_the_relief() {
    // Everywhere the same lean: red above the middle.
    let lean = Vec3::new(0.6, 0.0, 0.8);
    let byte = |v: f32| ((v * 0.5 + 0.5) * 255.0).round() as u8;
    let surface = with_picture(RgbImage::from_pixel(16, 16, Rgb([byte(lean.x), byte(lean.y), byte(lean.z)])));
    let colors = json!({"colors": {"kind": "colors", "settings": {"picture": "p.png", "repeat": "tiles"}}});
    let with = |settings: serde_json::Value| {
        let mut all = json!({"color": colors.clone()});
        all.as_object_mut().unwrap().extend(settings.as_object().unwrap().clone());
        let e = evaluated(&document(vec![of(json!({"normal": {"on": true, "settings": all}}))]), &surface);
        Vec3::from(e.normals(&surface)[surface.atlas.len() / 2])
    };
    let whole = with(json!({}));
    assert!((whole - lean).length() < 0.01, "{whole}");
    let half = with(json!({"amount": 0.5}));
    assert!((half - Vec3::Z.lerp(lean, 0.5).normalize()).length() < 0.01, "{half}");
    let steep = with(json!({"strength": 2.0}));
    assert!((steep - Vec3::new(1.2, 0.0, 0.8).normalize()).length() < 0.01, "{steep}");
    // Twice the same lean by reoriented mapping turns twice as far; in place of it, no further.
    let twice = |how: &str| {
        let coat = |id: &str, how: &str| {
            let settings = json!({"color": colors.clone(), "how": how});
            Layer { id: id.into(), ..of(json!({"normal": {"on": true, "settings": settings}})) }
        };
        let e = evaluated(&document(vec![coat("l1", "adds"), coat("l2", how)]), &surface);
        Vec3::from(e.normals(&surface)[0])
    };
    let angle = |n: Vec3| n.x.atan2(n.z).to_degrees();
    assert!(
        (angle(twice("adds")) - 2.0 * angle(lean)).abs() < 1.0 && (angle(twice("replaces")) - angle(lean)).abs() < 1.0
    );
    // It is in the picture of normals that is handed off.
    let e = evaluated(&document(vec![of(json!({"normal": {"on": true, "settings": {"color": colors}}}))]), &surface);
    let bytes = texture::normal(&surface, &e, texture::GreenAxis::Up);
    assert!(bytes.chunks_exact(4).filter(|p| p[0] > 190).count() > surface.atlas.len() / 2);
}

#[test]
fn grain_runs_around_the_axis_on_every_chart() {
    let surface = Surface::new(sphere(50.0), 128);
    for (runs, wanted) in [("around", 0), ("across", 1), ("along", 2)] {
        let value = json!({"along": {"kind": "grain", "settings": {"runs": runs}}, "stops": [{"at": 0, "value": -180}, {"at": 1, "value": 180}]});
        let e = evaluated(
            &document(vec![of(json!({"anisotropy_rotation": {"on": true, "settings": {"value": value}}}))]),
            &surface,
        );
        let angle = &e.channels["anisotropy_rotation"];
        for i in (0..surface.atlas.len()).step_by(97) {
            let a = &surface.atlas;
            let (p, n) = (Vec3::new(a.px[i], a.py[i], a.pz[i]), Vec3::new(a.nx[i], a.ny[i], a.nz[i]));
            if Vec3::new(p.x, 0.0, p.z).length() < 5.0 {
                continue;
            }
            let (t, b) = frame(&surface, i);
            let (sin, cos) = angle[i].to_radians().sin_cos();
            let runs = t * cos + b * sin;
            let around = Vec3::Y.cross(p).normalize();
            let way = [around, n.cross(around), (Vec3::Y - n * n.y).normalize()][wanted];
            assert!(runs.dot(way) > 0.999, "{runs} at {p}");
        }
    }
}

#[test]
fn a_recipe_used_twice_differs_by_use_and_stays_the_same_in_itself() {
    let value = json!({"mask": {"kind": "use", "settings": {"seed": 3}}, "low": 0.0, "high": 1.0});
    let inner = of(json!({"roughness": {"on": true, "settings": {"value": value}}}));
    let recipe = Recipe::of_layer(&document(vec![inner]), Some("l1"), "Coat").unwrap();
    let used = |id: &str| Layer { id: id.into(), ..recipe.to_use() };
    let surface = Surface::new(plate(50.0), 64);
    let rough = |id: &str| {
        let e = evaluated(&document(vec![used(id)]), &surface);
        let plane = &e.channels["roughness"];
        assert!(plane.iter().all(|v| v == &plane[0]), "one value for the whole use");
        plane[0]
    };
    let all: Vec<f32> = ["l1", "l2", "l3", "l4"].map(rough).to_vec();
    assert!(all.iter().enumerate().all(|(i, a)| all[i + 1..].iter().all(|b| (a - b).abs() > 1e-3)), "{all:?}");
    assert_eq!(rough("l2"), all[1]);
}

fn dial(label: &str) -> Dial {
    serde_json::from_value(json!({"label": label, "min": 0.0, "max": 1.0, "default": 0.25, "value": 0.75})).unwrap()
}

/// A group with a published mask that is followed, a driven opacity and a stop that a dial drives.
fn carried() -> Document {
    let mut inner = of(json!({"roughness": {"on": true, "settings": {"value": {
        "along": {"kind": "perlin"},
        "stops": [{"at": 0.0, "value": 0.1}, {"at": 1.0, "value": 0.5, "by": {"dial": "d1", "low": 0.0, "high": 1.0}}]
    }}}}));
    inner.publish = Some("chips".into());
    let mut top = coat("l2", "#aabbcc", vec![]);
    top.opacity = Param::Drive(Drive::ranged("d2", 0.0, 0.5));
    top.mask =
        serde_json::from_value(json!({"steps": [{"id": "s1", "kind": "follow", "settings": {"name": "chips"}}]}))
            .unwrap();
    let mut d = document(vec![group("l3", vec![inner, top]), coat("l4", "#010203", vec![])]);
    d.dials = vec![
        Dial { id: "d1".into(), ..dial("Dullness") },
        Dial { id: "d2".into(), ..dial("Fade") },
        Dial { id: "d3".into(), ..dial("Other") },
    ];
    document::check(&d).unwrap();
    d
}

#[test]
fn a_copied_layer_brings_its_dials_its_masks_and_what_it_looks_like() {
    let from = carried();
    let text = copied(&from, "l3").unwrap();
    let to =
        apply(&Document::new("Elsewhere"), &Edit::PasteLayer { inside: None, index: 0, copied: text.clone() }).unwrap();
    assert_eq!(
        to.dials.iter().map(|d| (d.label.as_str(), d.value.clone())).collect::<Vec<_>>(),
        [("Dullness", Value::Number(0.75)), ("Fade", Value::Number(0.75))]
    );
    let surface = Surface::new(plate(50.0), 64);
    let alone = Document { layers: from.layers[..1].to_vec(), ..from.clone() };
    let (a, b) = (evaluated(&alone, &surface), evaluated(&to, &surface));
    assert_eq!(a.channels, b.channels, "it looks as it did");
    // Pasted twice, ids, dials and published names stay apart.
    let again = apply(&to, &Edit::PasteLayer { inside: None, index: 9, copied: text }).unwrap();
    assert_eq!(again.dials.len(), 4);
    let ids: BTreeMap<_, _> =
        document::layers(&again.layers).into_iter().map(|l| (l.id.clone(), l.publish.clone())).collect();
    assert_eq!(ids.len(), 6);
    assert_eq!(ids.values().flatten().count(), 1);
    // What came with the layer goes with it; the other stays. A copy shares its dials: they go with the last of both.
    let remove = |d: &Document, id: &str| apply(d, &Edit::RemoveLayer { layer: id.into() }).unwrap();
    let (first, second) = (again.layers[0].id.as_str(), again.layers[1].id.as_str());
    assert_eq!(remove(&again, second).dials.len(), 2);
    let doubled = apply(&remove(&again, second), &Edit::DuplicateLayer { layer: first.into() }).unwrap();
    let one = remove(&doubled, first);
    assert_eq!(one.dials.len(), 2);
    assert!(remove(&one, &one.layers[0].id).dials.is_empty());
}

#[test]
fn what_was_copied_elsewhere_is_converted_or_refused_with_a_sentence() {
    let paste =
        |text: &str| apply(&Document::new("Here"), &Edit::PasteLayer { inside: None, index: 0, copied: text.into() });
    let old = json!({"format": "dustcoat/1", "layer": {"id": "x", "name": "Old", "kind": "group", "layers": []}});
    assert_eq!(paste(&old.to_string()).unwrap().layers[0].name, "Old");
    let newer = json!({"format": "dustcoat/9", "layer": {}});
    assert!(matches!(paste(&newer.to_string()).unwrap_err(), EditError::Format { .. }));
    for (text, word) in [
        ("", "no layer of Dust Coat"),
        ("[1, 2]", "no layer of Dust Coat"),
        (r#"{"format": "dustcoat/2", "layer": {"name": "Half"}}"#, "kind"),
    ] {
        let said = paste(text).unwrap_err().to_string();
        assert!(said.contains(word) && said.contains("Copy the layer again"), "{said}");
    }
    let strange = json!({"format": "dustcoat/2", "layer": {"name": "New", "kind": "coat", "finish": {"channels": {"glitter": {"on": true}}}}});
    assert!(paste(&strange.to_string()).unwrap_err().to_string().contains("glitter"));
    assert!(copied(&carried(), "nobody").is_err());
}

#[test]
fn stops_follow_their_dials_and_keep_what_they_had_when_these_go() {
    let d = carried();
    let value = |d: &Document| {
        let LayerKind::Group { layers } = &d.layers[0].kind else { panic!() };
        let LayerKind::Coat { finish } = &layers[0].kind else { panic!() };
        let Some(Param::Ramp(r)) = finish.channels["roughness"].settings.get("value").cloned() else { panic!() };
        (r.stops[1].value.clone(), r.stops[1].by.is_some())
    };
    let turned = apply(&d, &Edit::TurnDial { layer: None, dial: "d1".into(), value: Value::Number(0.3) }).unwrap();
    assert_eq!(value(&turned), (Value::Number(0.3), true));
    assert_eq!(document::driven(&turned, "d1").len(), 1, "{:?}", document::driven(&turned, "d1"));
    let gone = apply(&turned, &Edit::RemoveDial { dial: "d1".into() }).unwrap();
    assert_eq!(value(&gone), (Value::Number(0.3), false));
    let missing = apply(&d, &Edit::SetDial { dial: Dial { id: "d9".into(), ..dial("Nobody") } });
    assert!(missing.is_err());
}

#[test]
fn contrived_documents_are_bounded_or_refused_with_a_sentence() {
    let said = |d: &Document| document::check(d).unwrap_err().to_string();
    let many = document((0..300).map(|i| coat(&format!("l{i}"), "#808080", vec![])).collect());
    assert!(said(&many).contains("300 layers") && said(&many).contains("256"), "{}", said(&many));
    let deep = (0..40).fold(coat("c", "#808080", vec![]), |inner, i| group(&format!("g{i}"), vec![inner]));
    assert!(said(&document(vec![deep])).contains("the most is 24"));
    let stopless = json!({"along": {"kind": "perlin"}, "stops": []});
    let d = document(vec![of(json!({"base_color": {"on": true, "settings": {"color": stopless}}}))]);
    assert!(said(&d).contains("1 to 16 stops"), "{}", said(&d));
    let blinding = of(json!({"emissive_strength": {"on": true, "settings": {"value": 1e12}}}));
    assert!(said(&document(vec![blinding])).contains("Emissive strength"));
    // Perfectly smooth is fine, and stays finite where it is drawn.
    let mirror = document(vec![of(
        json!({"roughness": {"on": true, "settings": {"value": 0}}, "metallic": {"on": true, "settings": {"value": 1}}}),
    )]);
    document::check(&mirror).unwrap();
    let surface = Surface::new(plate(50.0), 64);
    let e = evaluated(&mirror, &surface);
    let settings =
        dustcoat_core::still::shoot::StillSettings { width: 16, height: 16, samples: 8, ..Default::default() };
    let picture =
        dustcoat_core::still::shoot::shoot(&surface, &e, &settings, &Default::default(), &dustcoat_core::task::silent)
            .unwrap();
    assert_eq!(picture[0].len(), 16 * 16 * 4);
    assert!(!picture[0].contains(&0) || picture[0].iter().any(|b| *b > 40), "it is not black");
}

#[test]
fn a_body_tints_light_as_the_topmost_coat_says() {
    let glass = |id: &str, color: &str, distance: f64| {
        let channels = json!({
            "transmission": {"on": true, "settings": {"value": 1}}, "thickness": {"on": true, "settings": {"value": 20}},
            "attenuation_color": {"on": true, "settings": {"color": color}}, "attenuation_distance": {"on": true, "settings": {"value": distance}}
        });
        Layer { id: id.into(), ..of(channels) }
    };
    let surface = Surface::new(plate(50.0), 64);
    let d = document(vec![glass("l1", "#ff0000", 5.0), glass("l2", "#808080", 10.0)]);
    document::check(&d).unwrap();
    let e = evaluated(&d, &surface);
    let (tint, grey) = (e.highest.tint.unwrap(), decode(128.0 / 255.0));
    assert!(tint.distance == 10.0 && tint.color.iter().all(|c| (c - grey).abs() < 1e-6), "{tint:?}");
    // Twice the distance: the square (Beer and Lambert).
    let through = dustcoat_core::still::material::Materials::new(&surface, &e).at(0).within();
    assert!((through.x - grey * grey).abs() < 1e-5, "{through}");
    let mut hidden = d;
    hidden.layers[1].shown = false;
    assert_eq!(evaluated(&hidden, &surface).highest.tint.unwrap().color, [1.0, 0.0, 0.0]);
    assert_eq!(evaluated(&document(vec![]), &surface).highest.tint, None);
}

#[test]
fn variants_keep_and_bring_back_what_the_dials_stand_at() {
    let turn = |d: &Document, dial: &str, to: f64| {
        apply(d, &Edit::TurnDial { layer: None, dial: dial.into(), value: Value::Number(to) }).unwrap()
    };
    let named = |name: &str| name.to_owned();
    let d = apply(&turn(&carried(), "d1", 0.4), &Edit::KeepVariant { name: named("Worn"), on: None }).unwrap();
    let other = turn(&turn(&d, "d1", 0.9), "d2", 0.1);
    let back = apply(&other, &Edit::TakeVariant { name: named("Worn") }).unwrap();
    assert_eq!(back.dials, d.dials);
    assert_eq!(back.layers, d.layers, "stops that follow dials go along");
    // Kept anew under its name; a range that was narrowed since bounds it; a dial that is gone is forgotten.
    let anew = apply(&other, &Edit::KeepVariant { name: named("Worn"), on: None }).unwrap();
    assert!(anew.variants.len() == 1 && anew.variants[0].values["d1"] == Value::Number(0.9));
    let mut narrow = anew.dials[0].clone();
    (narrow.max, narrow.value, narrow.default) = (0.5, Value::Number(0.2), Value::Number(0.2));
    let narrow = apply(&anew, &Edit::SetDial { dial: narrow }).unwrap();
    let taken = apply(&narrow, &Edit::TakeVariant { name: named("Worn") }).unwrap();
    assert_eq!(taken.dials[0].value, Value::Number(0.5));
    let gone = apply(&anew, &Edit::RemoveDial { dial: "d1".into() }).unwrap();
    assert!(!gone.variants[0].values.contains_key("d1") && gone.variants[0].values.contains_key("d2"));
    let none = apply(&gone, &Edit::RemoveVariant { name: named("Worn") }).unwrap();
    assert!(none.variants.is_empty());
    for edit in [Edit::TakeVariant { name: named("Nobody") }, Edit::RemoveVariant { name: named("Nobody") }] {
        assert!(apply(&d, &edit).unwrap_err().to_string().contains("variant"));
    }
    assert!(apply(&d, &Edit::KeepVariant { name: named("  "), on: None }).is_err());
    assert_eq!(document::label(&d, &Edit::TakeVariant { name: named("Worn") }), "take the variant Worn");
}

#[test]
fn the_clear_layer_has_a_relief_of_its_own() {
    let lean = Vec3::new(0.6, 0.0, 0.8);
    let byte = |v: f32| ((v * 0.5 + 0.5) * 255.0).round() as u8;
    let surface = with_picture(RgbImage::from_pixel(16, 16, Rgb([byte(lean.x), byte(lean.y), byte(lean.z)])));
    let colors = json!({"colors": {"kind": "colors", "settings": {"picture": "p.png", "repeat": "tiles"}}});
    let channels = json!({"clearcoat": {"on": true, "settings": {"value": 1}}, "clearcoat_normal": {"on": true, "settings": {"color": colors}}});
    let e = evaluated(&document(vec![of(channels)]), &surface);
    let at = dustcoat_core::still::material::Materials::new(&surface, &e).at(surface.atlas.len() / 2);
    assert!((at.clearcoat_normal - lean).length() < 0.01, "{}", at.clearcoat_normal);
    assert_eq!(e.normals(&surface)[0], [0.0, 0.0, 1.0], "what lies below stays flat");
    let packed = dustcoat_core::evaluate::packing::find("clearcoat_normal").unwrap();
    let middle = surface.atlas.texel[surface.atlas.len() / 2] as usize;
    assert!(packed.bytes(&surface, &e)[4 * middle].abs_diff(byte(0.6)) <= 1);
}

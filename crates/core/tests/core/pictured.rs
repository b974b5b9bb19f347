//! Finishes from pictures: what a set is told to be, and the coat that it makes.

use std::sync::Arc;

use crate::common::{document, evaluated, plate};
use dustcoat_core::bake::Surface;
use dustcoat_core::document::pictured::{SHOWS, Shows, Told, finish, name, tell};
use dustcoat_core::document::{Edit, apply, check};
use dustcoat_core::evaluate::Evaluation;
use dustcoat_core::handoff::png;
use dustcoat_core::mesh::Intake;
use dustcoat_core::mesh::intake::PictureUse;
use dustcoat_core::raster::picture::Picture;
use dustcoat_core::setting::Value;
use serde_json::json;

fn file(pixel: impl Fn(u32, u32) -> [u8; 3]) -> Vec<u8> {
    let rgba: Vec<u8> = (0..32 * 32)
        .flat_map(|i| {
            let [r, g, b] = pixel(i % 32, i / 32);
            [r, g, b, 255]
        })
        .collect();
    png::rgba8(&rgba, 32, 32)
}

fn told(files: &[(&str, Vec<u8>)]) -> Vec<Told> {
    let pictures: Vec<Picture> = files.iter().map(|(name, bytes)| Picture::decode(name, bytes).unwrap()).collect();
    tell(&files.iter().map(|(name, _)| *name).zip(&pictures).collect::<Vec<_>>())
}

fn shown(files: &[(&str, Vec<u8>)]) -> Vec<Shows> {
    told(files).into_iter().map(|t| t.shows).collect()
}

#[test]
fn names_say_what_pictures_show_and_what_a_set_is_called() {
    let grey = file(|_, _| [90; 3]);
    let cases = [
        ("metal_plate_rough_2k.png", Shows::Roughness),
        ("Quay Stone-BaseColor.jpg", Shows::Color),
        ("stone_NormalDX.png", Shows::NormalsDown),
        ("stone_normal_dx.png", Shows::NormalsDown),
        ("stone_Normal.png", Shows::Normals),
        ("stone_gloss.png", Shows::Gloss),
        ("stone_ORM.png", Shows::Packed),
        ("rough_stone_height16.png", Shows::Height),
        ("stone-ao.png", Shows::Occlusion),
        ("stone_opacity.png", Shows::Opacity),
        ("coal.emissive.png", Shows::Emissive),
        ("stone_metalness.png", Shows::Metallic),
    ];
    for (name, shows) in cases {
        assert_eq!(shown(&[(name, grey.clone())]), [shows], "{name}");
    }
    assert_eq!(name(&["quay_stone_color.png", "quay_stone_rough.png"]), "Quay stone");
    assert_eq!(name(&["limewash_color.png"]), "Limewash");
    assert_eq!(name(&["quay_1001_color.png", "quay_1001_orm.png"]), "Quay");
    assert_eq!((name(&["color.png"]), name(&[]), name(&["a.png", "b.png"])), {
        let plain = "From pictures".to_owned();
        (plain.clone(), plain.clone(), plain)
    });
}

#[test]
fn where_names_say_nothing_what_is_in_them_does_and_nothing_is_told_twice() {
    let lean = |x: u32| {
        let slant = (f64::from(x) / 32.0 - 0.5) * 0.8;
        [slant, 0.0, (1.0 - slant * slant).sqrt()].map(|v| ((v * 0.5 + 0.5) * 255.0).round() as u8)
    };
    let set = [
        ("one.png", file(|x, y| [120 + x as u8, 90, 40 + y as u8])),
        ("two.png", file(|x, _| lean(x))),
        ("three.png", file(|x, y| if (x / 4 + y / 4) % 2 == 0 { [250; 3] } else { [3; 3] })),
        ("four.png", file(|x, _| [100 + x as u8; 3])),
        ("five.png", file(|_, y| [60 + 3 * y as u8; 3])),
    ];
    assert_eq!(shown(&set), [Shows::Color, Shows::Normals, Shows::Metallic, Shows::Roughness, Shows::Height]);
    // The name of another one goes before a guess.
    let named = [("four.png", file(|x, _| [100 + x as u8; 3])), ("wall_rough.png", file(|_, _| [90; 3]))];
    assert_eq!(shown(&named), [Shows::Height, Shows::Roughness]);
    let twice = told(&[("a_rough.png", file(|_, _| [9; 3])), ("a_gloss.png", file(|_, _| [9; 3]))]);
    assert!(twice[1].shows == Shows::Nothing && twice[1].why.contains("already"), "{twice:?}");
    for shows in twice.iter().map(|t| t.shows) {
        assert!(SHOWS.iter().any(|(s, label)| *s == shows && !label.is_empty()));
    }
}

/// A plate that wears pictures of one colour each, 80 mm wide, 3 mm from black to white.
fn worn(pictures: &[(&str, Shows, [u8; 3])]) -> (Evaluation, Surface) {
    let used = |(name, _, _): &(&str, Shows, [u8; 3])| PictureUse {
        hash: (*name).into(),
        file: (*name).into(),
        purpose: "mask".into(),
        ..PictureUse::default()
    };
    let intake = Intake { pictures: pictures.iter().map(used).collect(), ..Intake::default() };
    let bytes = |used: &PictureUse| pictures.iter().find(|p| p.0 == used.hash).map(|(_, _, color)| file(|_, _| *color));
    let surface = Surface::new(Arc::new(plate(100.0).take_in(&intake, &bytes)), 64);
    let named: Vec<_> = pictures.iter().map(|(name, shows, _)| ((*name).to_owned(), *shows)).collect();
    let (finish, dial) = finish(&named, 80.0, 3.0, false).unwrap();
    let layer = json!({"id": "", "name": "Set", "kind": "coat", "finish": finish});
    let layer = serde_json::from_value(layer).unwrap();
    let edit = Edit::AddLayer { inside: None, index: 0, layer, dials: vec![dial] };
    let d = apply(&document(vec![]), &edit).unwrap();
    check(&d).unwrap();
    assert_eq!((d.dials.len(), &d.dials[0].value), (1, &Value::Number(80.0)), "its width is a dial");
    assert!(!dustcoat_core::document::driven(&d, &d.dials[0].id).is_empty(), "which drives something");
    (evaluated(&d, &surface), surface)
}

#[test]
fn each_picture_becomes_what_it_shows() {
    let value = |pictures: &[(&str, Shows, [u8; 3])], channel: &str| worn(pictures).0.channels[channel][0];
    let near = |a: f32, b: f32| assert!((a - b).abs() < 0.006, "{a} and {b}");
    let grey = |shows| [("p.png", shows, [64; 3])];
    near(value(&grey(Shows::Roughness), "roughness"), 64.0 / 255.0);
    near(value(&grey(Shows::Gloss), "roughness"), 1.0 - 64.0 / 255.0);
    near(value(&grey(Shows::Metallic), "metallic"), 64.0 / 255.0);
    near(value(&grey(Shows::Height), "height"), (64.0 / 255.0 - 0.5) * 3.0);
    near(value(&grey(Shows::Opacity), "opacity"), 64.0 / 255.0);
    near(value(&grey(Shows::Occlusion), "occlusion"), 64.0 / 255.0);
    let packed = [("orm.png", Shows::Packed, [200, 100, 50])];
    for (channel, wanted) in [("occlusion", 200.0), ("roughness", 100.0), ("metallic", 50.0)] {
        near(value(&packed, channel), wanted / 255.0);
    }
    let color = [("c.png", Shows::Color, [200, 30, 10])];
    near(value(&color, "base_color"), dustcoat_core::raster::srgb::decode(200.0 / 255.0));
    assert_eq!(value(&color, "metallic"), 0.0, "what lies below doesn’t shine through as metal");
    // A lean along green goes the other way where green points down.
    let lean = |shows| {
        let (e, surface) = worn(&[("n.png", shows, [128, 204, 230])]);
        e.normals(&surface)[surface.atlas.len() / 2]
    };
    let (up, down) = (lean(Shows::Normals), lean(Shows::NormalsDown));
    assert!(up[1].abs() + up[0].abs() > 0.3, "{up:?}");
    assert!((up[0] + down[0]).abs() < 0.02 && (up[1] + down[1]).abs() < 0.02, "{up:?} {down:?}");
}

#[test]
fn a_set_that_makes_no_finish_says_why() {
    let set = |all: &[(&str, Shows)]| all.iter().map(|(f, s)| ((*f).to_owned(), *s)).collect::<Vec<_>>();
    let said = |all: &[(&str, Shows)], width, relief| finish(&set(all), width, relief, true).unwrap_err().to_string();
    assert!(said(&[("p.png", Shows::Nothing)], 80.0, 1.0).contains("None of these"));
    for (one, other, channel) in [
        (Shows::Roughness, Shows::Gloss, "Roughness"),
        (Shows::Packed, Shows::Metallic, "Metallic"),
        (Shows::Occlusion, Shows::Packed, "Occlusion"),
        (Shows::Normals, Shows::NormalsDown, "Fine normals"),
        (Shows::Color, Shows::Color, "Base color"),
    ] {
        let said = said(&[("a.png", one), ("b.png", other)], 80.0, 1.0);
        assert!(said.contains("“a.png” and “b.png”") && said.contains(channel), "{said}");
    }
    let color = [("a.png", Shows::Color)];
    for (width, relief, what) in
        [(0.0, 1.0, "width"), (f64::NAN, 1.0, "width"), (1e6, 1.0, "width"), (80.0, 0.0, "black")]
    {
        let said = said(&color, width, relief);
        assert!(said.contains(what) && said.contains("mm"), "{said}");
    }
    // What is told of a set can be laid as it is told.
    let grey = file(|_, _| [90; 3]);
    let files = ["s_orm.png", "s_rough.png", "s_metal.png", "s_nor.png", "s_normal_dx.png"].map(|f| (f, grey.clone()));
    let told: Vec<_> = files.iter().map(|(f, _)| (*f).to_owned()).zip(shown(&files)).collect();
    assert!(finish(&told, 80.0, 1.0, true).is_ok(), "{told:?}");
}

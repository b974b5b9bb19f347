//! Pins: what they cover against closed forms, how they wrap, what they don't reach, and what a finish takes of them.

use std::io::Cursor;
use std::sync::Arc;

use crate::common::{add_box, area, coat, cylinder, document, evaluated, plate, sphere, step};
use dustcoat_core::bake::Surface;
use dustcoat_core::document::{Document, Edit, EditError, LayerKind, adrift, apply, has_by_hand, label, lost_names};
use dustcoat_core::mask::{Join, Step};
use dustcoat_core::mesh::intake::{Intake, PictureUse};
use dustcoat_core::mesh::{Piece, Soup};
use dustcoat_core::pin::{Frame, Shape, Spot};
use dustcoat_core::recipe;
use dustcoat_core::setting::{Param, Value};
use dustcoat_core::stroke::{Point, Points, Stroke, Track};
use glam::Vec3;
use image::{DynamicImage, ImageFormat, Rgba, RgbaImage};
use serde_json::json;

/// A piece with pictures for masks, by their file names.
fn with(piece: &Piece, pictures: &[(&str, RgbaImage)]) -> Arc<Piece> {
    let png = |p: &RgbaImage| {
        let mut out = Cursor::new(Vec::new());
        DynamicImage::ImageRgba8(p.clone()).write_to(&mut out, ImageFormat::Png).unwrap();
        out.into_inner()
    };
    let used = |(file, _): &(&str, RgbaImage)| PictureUse {
        hash: (*file).into(),
        file: (*file).into(),
        purpose: "mask".into(),
        ..PictureUse::default()
    };
    let intake = Intake { pictures: pictures.iter().map(used).collect(), ..Intake::default() };
    Arc::new(piece.take_in(&intake, &|hash| pictures.iter().find(|p| p.0 == hash.hash).map(|p| png(&p.1))))
}

/// Twice as wide as it is high, all of it there: its left half red, its right half green.
fn halves() -> RgbaImage {
    RgbaImage::from_fn(128, 64, |x, _| if x < 64 { Rgba([255, 0, 0, 255]) } else { Rgba([0, 255, 0, 255]) })
}

/// A step that lays `tag.png`, 40 mm wide.
fn pin(spot: Spot, settings: &[(&str, Param)]) -> Step {
    let mut all = vec![("picture", Param::from("tag.png")), ("size", 40.0.into())];
    all.extend_from_slice(settings);
    Step { spot: Some(spot), ..step(Join::Replace, "pin", &all) }
}

fn spot(at: [f64; 3], normal: [f64; 3], up: [f64; 3]) -> Spot {
    Spot { at, normal, up }
}

fn on(on: bool) -> Param {
    Param::Const(Value::Bool(on))
}

/// On the plate, which lies flat: up the picture is away from the viewer.
fn flat(x: f64, z: f64) -> Spot {
    spot([x, 0.0, z], [0.0, 1.0, 0.0], [0.0, 0.0, -1.0])
}

/// How white a black piece is with a white coat that some steps mask.
fn mask(surface: &Surface, steps: Vec<Step>) -> Vec<f32> {
    let d = document(vec![coat("b", "#000000", vec![]), coat("a", "#ffffff", steps)]);
    evaluated(&d, surface).channels["base_color"][..surface.atlas.len()].to_vec()
}

fn at(surface: &Surface, i: usize) -> Vec3 {
    Vec3::new(surface.atlas.px[i], surface.atlas.py[i], surface.atlas.pz[i])
}

fn near(found: f64, wanted: f64, what: &str) {
    assert!((found / wanted - 1.0).abs() < 0.01, "{what}: {found} and not {wanted}");
}

#[test]
fn it_covers_what_its_width_says_wherever_and_however_it_lies() {
    let surface = Surface::new(with(&plate(100.0), &[("tag.png", halves())]), 512);
    near(area(&surface, &mask(&surface, vec![pin(flat(3.0, -7.0), &[])])), 800.0, "40 × 20 mm");
    let turned = mask(&surface, vec![pin(flat(3.0, -7.0), &[("turn", 33.0.into()), ("lies", "thrown".into())])]);
    near(area(&surface, &turned), 800.0, "turned");
    // A pin on a rim: only what has surface under it.
    near(area(&surface, &mask(&surface, vec![pin(flat(50.0, 0.0), &[])])), 400.0, "half in the air");
    // Red to the left, up away from the viewer: the right half of the picture reads 0 in red.
    let red = mask(&surface, vec![pin(flat(0.0, 0.0), &[("channel", "red".into())])]);
    let there = |x: f32, z: f32, mask: &[f32]| {
        let i = (0..mask.len()).min_by(|a, b| {
            let far = |i: usize| at(&surface, i).distance(Vec3::new(x, 0.0, z));
            far(*a).total_cmp(&far(*b))
        });
        mask[i.unwrap()]
    };
    assert!(there(-10.0, 0.0, &red) > 0.99 && there(10.0, 0.0, &red) < 0.01 && there(-10.0, 11.0, &red) < 0.01);
    let turned = mask(&surface, vec![pin(flat(0.0, 0.0), &[("channel", "red".into()), ("turn", 90.0.into())])]);
    assert!(
        there(0.0, 10.0, &turned) > 0.99 && there(0.0, -10.0, &turned) < 0.01,
        "against the clock: left comes down"
    );
    let mirrored = [("channel", "red".into()), ("mirrored", on(true))];
    assert!(there(10.0, 0.0, &mask(&surface, vec![pin(flat(0.0, 0.0), &mirrored)])) > 0.99);
    let negative = [("channel", "red".into()), ("negative", on(true))];
    let negative = mask(&surface, vec![pin(flat(0.0, 0.0), &negative)]);
    assert!(there(10.0, 0.0, &negative) > 0.99 && there(-10.0, 0.0, &negative) < 0.01);
    assert!(there(10.0, 30.0, &negative) < 0.01, "beside the picture there is nothing to turn round");
    // It lies over what the mask is before it, and leaves the rest; with another join it is a mask by itself.
    let even = || step(Join::Replace, "even", &[("value", 0.25.into())]);
    let over = mask(&surface, vec![even(), pin(flat(0.0, 0.0), &[("channel", "red".into())])]);
    let low = there(40.0, 40.0, &over);
    assert!(there(-10.0, 0.0, &over) > 0.99 && there(10.0, 0.0, &over) < 0.01 && (low - 0.25).abs() < 0.01, "{low}");
    let times = Step { join: Join::Multiply, ..pin(flat(0.0, 0.0), &[]) };
    let times = mask(&surface, vec![even(), times]);
    assert!((there(10.0, 0.0, &times) - 0.25).abs() < 0.01 && there(40.0, 40.0, &times) < 0.01);
}

#[test]
fn wrapped_it_keeps_its_lengths_around_what_is_round() {
    // Around a cylinder and from pole to pole of a sphere: as far as the way along the surface, up to most of the way around.
    let shape =
        Shape { half_width: 500.0, half_height: 500.0, depth: 1.0, wrapped: true, mirrored: false, one_shell: false };
    let held = Frame::at(&spot([40.0, 5.0, 0.0], [1.0, 0.0, 0.0], [0.0, 1.0, 0.0]));
    for k in -14..=14 {
        let turn = k as f32 * 0.18;
        let n = Vec3::new(turn.cos(), 0.0, -turn.sin());
        let place = held.place(&shape, n * 40.0 + Vec3::Y * 17.0, n).unwrap();
        assert!((place.x - 40.0 * turn).abs() < 2e-3 && (place.y - 12.0).abs() < 1e-3, "{turn}: {place:?}");
        let round = Frame::at(&spot([0.0, 40.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]));
        let (a, b) = (0.6f32.cos(), 0.6f32.sin());
        let n = Vec3::new(turn.sin() * a, turn.cos(), turn.sin() * b);
        let place = round.place(&shape, n * 40.0, n).unwrap();
        let far = (place.x * place.x + place.y * place.y).sqrt();
        assert!((far - 40.0 * turn.abs()).abs() < 2e-3, "{turn}: {far}");
    }
    let surface = Surface::new(with(&cylinder(40.0), &[("tag.png", halves())]), 1024);
    let side = spot([40.0, 10.0, 0.0], [1.0, 0.0, 0.0], [0.0, 1.0, 0.0]);
    let around = mask(&surface, vec![pin(side, &[("size", 180.0.into())])]);
    near(area(&surface, &around), 180.0 * 90.0, "three quarters around a pipe");
    // Thrown, it is what is seen from the side, as far as that looks the same way: sin 84° of the radius at most.
    let thrown = [("size", 60.0.into()), ("lies", "thrown".into()), ("depth", 40.0.into())];
    let thrown = mask(&surface, vec![pin(side, &thrown)]);
    let arc = 2.0 * 40.0 * (30.0f64 / 40.0).asin();
    near(area(&surface, &thrown), arc * 30.0, "thrown onto a pipe");
    // Over the cut of the UVs at its back nothing is seen of it.
    let back = spot([-40.0, 10.0, 0.0], [-1.0, 0.0, 0.0], [0.0, 1.0, 0.0]);
    near(area(&surface, &mask(&surface, vec![pin(back, &[("size", 90.0.into())])])), 90.0 * 45.0, "over a cut");
    let ball = Surface::new(with(&sphere(30.0), &[("tag.png", halves())]), 512);
    let top = spot([0.0, 30.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, -1.0]);
    let small = mask(&ball, vec![pin(top, &[("size", 10.0.into())])]);
    near(area(&ball, &small), 50.0, "on a ball, where it is small");
}

#[test]
fn it_stays_on_its_side_at_its_depth_and_on_its_shell() {
    // A thin sheet, a step of 10 mm beside it, and a second shell in the same plane.
    let mut soup = Soup::default();
    add_box(&mut soup, [-30.0, -1.0, -30.0], [30.0, 0.0, 30.0], [0.0, 0.0, 0.5, 0.5]);
    add_box(&mut soup, [0.0, 0.0, -5.0], [10.0, 10.0, 5.0], [0.5, 0.0, 1.0, 0.5]);
    add_box(&mut soup, [-30.0, -1.0, 31.0], [30.0, 0.0, 60.0], [0.0, 0.5, 0.5, 1.0]);
    let surface = Surface::new(with(&Piece::build(soup).unwrap(), &[("tag.png", halves())]), 1024);
    let covers = |m: &[f32], test: &dyn Fn(Vec3, f32) -> bool| {
        (0..m.len()).any(|i| m[i] > 0.05 && test(at(&surface, i), surface.atlas.ny[i]))
    };
    let over = mask(&surface, vec![pin(flat(0.0, 0.0), &[("size", 50.0.into())])]);
    assert!(covers(&over, &|p, ny| p.y.abs() < 0.1 && ny > 0.9), "it lies on the sheet");
    assert!(!covers(&over, &|p, ny| ny < -0.9 && p.y < -0.5), "and not on its back");
    assert!(!covers(&over, &|p, ny| p.y > 9.0 && ny > 0.9), "nor on what stands 10 mm higher");
    let deep = mask(&surface, vec![pin(flat(0.0, 0.0), &[("size", 50.0.into()), ("depth", 12.0.into())])]);
    assert!(covers(&deep, &|p, ny| p.y > 9.0 && ny > 0.9), "but as deep as one says");
    let across = |one: bool| mask(&surface, vec![pin(flat(-15.0, 28.0), &[("one_shell", on(one))])]);
    let beyond = |p: Vec3, ny: f32| p.z > 32.0 && ny > 0.9;
    assert!(covers(&across(false), &beyond) && !covers(&across(true), &beyond));
}

#[test]
fn a_finish_takes_colours_numbers_and_normals_as_they_are_pinned() {
    // Leaning to the right of the picture.
    let lean = RgbaImage::from_fn(8, 4, |_, _| Rgba([218, 128, 218, 255]));
    let piece = with(&plate(100.0), &[("tag.png", halves()), ("lean.png", lean)]);
    let surface = Surface::new(piece.clone(), 256);
    let mut layer = coat("a", "#808080", vec![pin(flat(0.0, 0.0), &[("turn", 90.0.into())])]);
    let finish = json!({"channels": {
        "base_color": {"on": true, "settings": {"color": {"colors": {"kind": "pinned_colors"}}}},
        "roughness": {"on": true, "settings": {"value": {"mask": {"kind": "pinned", "settings": {"channel": "green"}}, "low": 0.2, "high": 0.8}}},
        "normal": {"on": true, "settings": {"color": {"colors": {"kind": "pinned_colors", "settings": {"picture": "lean.png"}}}}}
    }});
    layer.kind = LayerKind::Coat { finish: serde_json::from_value(finish).unwrap() };
    let d = document(vec![coat("b", "#000000", vec![]), layer]);
    let e = evaluated(&d, &surface);
    let texels = surface.atlas.len();
    let read = |channel: &str, x: f32, z: f32| -> Vec<f32> {
        let i = surface.atlas.at_uv(0, [x / 100.0 + 0.5, z / 100.0 + 0.5]).unwrap() as usize;
        e.channels[channel].chunks(texels).map(|plane| plane[i]).collect()
    };
    // Turned against the clock, the picture's left half lies towards the viewer.
    let (red, green) = (read("base_color", 0.0, 10.0), read("base_color", 0.0, -10.0));
    assert!(red[0] > 0.99 && red[1] < 0.01 && green[1] > 0.99 && green[0] < 0.01, "{red:?} {green:?}");
    assert!(
        (read("roughness", 0.0, 10.0)[0] - 0.2).abs() < 0.01 && (read("roughness", 0.0, -10.0)[0] - 0.8).abs() < 0.01
    );
    // What leans to the picture's right leans away from the viewer there, which is up the texture.
    let n = read("normal", 0.0, 0.0);
    assert!(n[0].abs() < 0.02 && n[1] > 0.6 && n[2] > 0.6, "{n:?}");
    assert!(read("normal", 30.0, 30.0)[2] > 0.999, "flat beside it");
    // A picture that is gone is told, and shows nothing.
    assert!(lost_names(&d, &piece).is_empty());
    let lost = lost_names(&d, &plate(10.0));
    assert!(
        lost.iter().any(|f| f.what.contains("lean.png")) && lost.iter().any(|f| f.what.contains("tag.png")),
        "{lost:?}"
    );
}

#[test]
fn along_a_stroke_it_is_laid_again_and_again() {
    let surface = Surface::new(with(&plate(100.0), &[("tag.png", halves())]), 512);
    let point = |x: f32| Point { at: Vec3::new(x, 0.0, 0.0), normal: Vec3::Y, pressure: 1.0, tilt: 0.0, time: 0 };
    let track = Track { points: (-40..=40).map(|x| point(x as f32)).collect() };
    let stroke = Stroke { id: "s1".into(), ..Stroke::new(Points::new(&track).unwrap(), 1.0) };
    let row = |changes: &[(&str, Param)]| {
        let mut all = vec![("size", Param::from(4.0)), ("laid", "along".into()), ("spacing", 10.0.into())];
        all.extend_from_slice(changes);
        let one = Step { strokes: Arc::new(vec![stroke.clone()]), spot: None, ..pin(flat(0.0, 0.0), &all) };
        mask(&surface, vec![one])
    };
    let even = row(&[("channel", "red".into())]);
    near(area(&surface, &even), 9.0 * 4.0, "nine of them, of each its left half");
    let covered =
        |m: &[f32], x: f32| (0..m.len()).any(|i| m[i] > 0.5 && at(&surface, i).distance(Vec3::new(x, 0.0, 0.0)) < 0.5);
    assert!(
        covered(&even, -31.0) && !covered(&even, -29.0) && !covered(&even, -35.0),
        "right is the way of the stroke"
    );
    let strewn = |seed: f64| row(&[("scatter", 15.0.into()), ("stray", 180.0.into()), ("seed", seed.into())]);
    let away = |m: &[f32]| (0..m.len()).filter(|i| m[*i] > 0.5 && at(&surface, *i).z.abs() > 5.0).count();
    assert!(away(&strewn(1.0)) > 100 && away(&even) == 0);
    assert!(strewn(1.0) != strewn(2.0) && strewn(3.0) == strewn(3.0));
    let smaller = area(&surface, &row(&[("unlike", 0.8.into())]));
    assert!((9.0 * 8.0 * 0.05..9.0 * 8.0 * 0.95).contains(&smaller), "{smaller}");
}

#[test]
fn it_is_laid_moved_and_taken_off_by_edits_and_stays_with_its_piece() {
    let d =
        document(vec![coat("a", "#808080", vec![step(Join::Replace, "pin", &[]), step(Join::Replace, "even", &[])])]);
    let d = apply(&d, &Edit::Rename { name: "tagged".into() }).unwrap();
    let ids: Vec<String> = d.layers[0].mask.steps.iter().map(|s| s.id.clone()).collect();
    let lay = |step: &str, spot: Option<Spot>| Edit::LayPin { layer: "a".into(), step: step.into(), spot };
    let on = lay(&ids[0], Some(flat(1.0, 2.0)));
    let laid = apply(&d, &on).unwrap();
    assert_eq!(laid.layers[0].mask.steps[0].spot, Some(flat(1.0, 2.0)));
    assert_eq!([label(&d, &on), label(&d, &lay(&ids[0], None))], ["lay a pin", "take a pin off"]);
    assert_eq!(apply(&laid, &lay(&ids[0], None)).unwrap(), d);
    let read: Document = serde_json::from_str(&serde_json::to_string(&laid).unwrap()).unwrap();
    assert_eq!(read, laid);
    assert!(
        matches!(apply(&d, &lay(&ids[1], Some(flat(0.0, 0.0)))), Err(EditError::Place)),
        "an even value lies nowhere"
    );
    for (wrong, says) in [
        (spot([f64::NAN, 0.0, 0.0], [0.0, 1.0, 0.0], [1.0, 0.0, 0.0]), "within a kilometre"),
        (spot([2e7, 0.0, 0.0], [0.0, 1.0, 0.0], [1.0, 0.0, 0.0]), "within a kilometre"),
        (spot([0.0; 3], [0.0; 3], [1.0, 0.0, 0.0]), "point somewhere"),
    ] {
        let error = apply(&d, &lay(&ids[0], Some(wrong))).unwrap_err().to_string();
        assert!(error.contains(says), "{error}");
    }
    // An up along the normal, or a pin without a picture: nothing breaks.
    let odd = apply(&d, &lay(&ids[0], Some(spot([0.0; 3], [0.0, 1.0, 0.0], [0.0, 1.0, 0.0])))).unwrap();
    evaluated(&odd, &Surface::new(plate(20.0), 32));
    // A recipe has an empty pin there, and a slot for its picture.
    let picture = Step { spot: Some(flat(0.0, 0.0)), ..step(Join::Replace, "pin", &[("picture", "tag.png".into())]) };
    let d = apply(&document(vec![coat("a", "#808080", vec![picture])]), &Edit::Rename { name: "t".into() }).unwrap();
    let made = recipe::Recipe::of_layer(&d, Some("a"), "Tag").unwrap();
    let held = &made.layers[0].mask.steps[0];
    assert!(held.spot.is_none() && made.dials.iter().any(|dial| dial.label == "tag.png"), "{:?}", made.dials);
}

#[test]
fn the_same_pin_on_other_uvs_and_sizes_is_the_same_on_the_surface() {
    let laid = |size: u32| {
        let surface = Surface::new(with(&plate(100.0), &[("tag.png", halves())]), size);
        area(&surface, &mask(&surface, vec![pin(flat(7.0, 3.0), &[("turn", 20.0.into()), ("channel", "red".into())])]))
    };
    near(laid(128), laid(1024), "draft and final");
}

#[test]
fn what_finds_no_surface_is_told_and_kept() {
    let point = |x: f32| Point { at: Vec3::new(x, 0.0, 0.0), normal: Vec3::Y, pressure: 1.0, tilt: 0.0, time: 0 };
    let stroke = |from: f32| {
        let track = Track { points: (0..60).map(|i| point(from + i as f32)).collect() };
        Stroke { id: format!("s{from}"), ..Stroke::new(Points::new(&track).unwrap(), 5.0) }
    };
    let drawn = Step {
        strokes: Arc::new(vec![stroke(-30.0), stroke(40.0), stroke(200.0), stroke(300.0)]),
        ..step(Join::Replace, "strokes", &[])
    };
    let d = document(vec![
        coat("drawn", "#ffffff", vec![drawn]),
        coat("on", "#ffffff", vec![pin(flat(10.0, 10.0), &[])]),
        coat("off", "#ffffff", vec![pin(spot([0.0, 9.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, -1.0]), &[])]),
    ]);
    assert!(has_by_hand(&d) && !has_by_hand(&document(vec![])));
    let surface = Surface::new(plate(100.0), 32);
    let told: Vec<String> = adrift(&d, &surface.piece.shape(), surface.bvh()).into_iter().map(|f| f.what).collect();
    // One that lies over the border in part is still there.
    assert_eq!(told.len(), 2, "{told:?}");
    assert!(told[0].contains("2 strokes of Coat drawn › Strokes") && told[1].contains("Coat off › Pin"), "{told:?}");
    // What a pin is laid along is looked for as deep as the pin is, however the brush stood; a dial may drive that.
    let above = |depth: f64| {
        let track = Track { points: vec![Point { at: Vec3::new(0.0, 9.0, 0.0), ..point(0.0) }] };
        let along = Stroke { id: "s1".into(), ..Stroke::new(Points::new(&track).unwrap(), 100.0) };
        let settings = [("laid", "along".into()), ("depth", Param::from(depth))];
        let step = Step { strokes: Arc::new(vec![along]), spot: None, ..pin(flat(0.0, 0.0), &settings) };
        adrift(&document(vec![coat("a", "#ffffff", vec![step])]), &surface.piece.shape(), surface.bvh()).len()
    };
    assert_eq!((above(4.0), above(10.0)), (1, 0));
    // Deeper, it reaches the plate; and points that are gone are told as such.
    let deep = pin(spot([0.0, 9.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, -1.0]), &[("depth", 10.0.into())]);
    assert!(
        adrift(&document(vec![coat("a", "#ffffff", vec![deep])]), &surface.piece.shape(), surface.bvh()).is_empty()
    );
    let lost: Document = serde_json::from_str(&serde_json::to_string(&d).unwrap()).unwrap();
    let told = adrift(&lost, &surface.piece.shape(), surface.bvh());
    assert!(told[0].serious && told[0].what.contains("points of 4 strokes of Coat drawn"), "{told:?}");
}

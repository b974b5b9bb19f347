//! What things are kept under: what they are computed from, and no more.

use std::collections::BTreeMap;
use std::io::Cursor;
use std::sync::Arc;

use crate::common::{add_box, coat, cube, document, quad, step};
use dustcoat_core::bake::{Extent, MEASUREMENTS, MeasurementKey, Surface, measure, measure_coarsely};
use dustcoat_core::document::Document;
use dustcoat_core::evaluate::{Cache, Context, Evaluation, Measured, evaluate, evaluate_channels, needs};
use dustcoat_core::mask::Join;
use dustcoat_core::mesh::intake::{Intake, PartLook, PictureUse};
use dustcoat_core::mesh::{Piece, Soup};
use dustcoat_core::task::{Cancel, silent};
use image::{DynamicImage, GrayImage, ImageFormat, Luma};

fn grey(picture: GrayImage) -> Vec<u8> {
    let mut out = Cursor::new(Vec::new());
    DynamicImage::ImageLuma8(picture).write_to(&mut out, ImageFormat::Png).unwrap();
    out.into_inner()
}

fn used(file: &str, purpose: &str) -> PictureUse {
    PictureUse { hash: file.into(), file: file.into(), purpose: purpose.into(), ..PictureUse::default() }
}

fn on(document: &Document, surface: &Surface, cache: &Cache, measured: &Measured) -> Evaluation {
    let cancel = Cancel::default();
    evaluate(document, &Context { surface, measured, cache, cancel: &cancel, progress: &silent }).unwrap()
}

fn all_measured(document: &Document, surface: &Surface) -> Measured {
    Measured::take(&needs(document, &surface.piece), surface, &Cancel::default(), &silent).unwrap()
}

#[test]
fn another_name_or_another_picture_for_masks_leaves_surface_and_planes_as_they_are() {
    let piece = cube(60.0);
    let surface = Surface::new(piece.clone(), 64);
    let d = document(vec![coat(
        "a",
        "#ffffff",
        vec![step(Join::Replace, "edges", &[]), step(Join::Add, "perlin", &[]), step(Join::Replace, "blur", &[])],
    )]);
    let (cache, measured) = (Cache::new(1 << 26), all_measured(&d, &surface));
    let first = on(&d, &surface, &cache, &measured);
    assert!(!first.computed.is_empty());
    let look = PartLook { name: Some("Hatch".into()), ..PartLook::default() };
    let intake = Intake {
        parts: BTreeMap::from([("+x".to_owned(), look)]),
        pictures: vec![used("grain.png", "mask")],
        ..Intake::default()
    };
    let picture = grey(GrayImage::from_fn(16, 16, |x, _| Luma([x as u8 * 16])));
    let changed = Arc::new(piece.take_in(&intake, &|_| Some(picture.clone())));
    let again = surface.of_state(changed.clone(), None);
    assert!(again.piece.part_named("Hatch").is_some() && std::ptr::eq(surface.bvh(), again.bvh()));
    assert!(std::ptr::eq(surface.seams(), again.seams()));
    let second = on(&d, &again, &cache, &measured);
    assert_eq!(second.computed, Vec::<String>::new(), "nothing is worked out again");
    assert_eq!(second.keys, first.keys);
    // What reads a name or a picture knows of it.
    let part = document(vec![coat("a", "#ffffff", vec![step(Join::Replace, "part", &[("part", "Hatch".into())])])]);
    assert!(on(&part, &surface, &cache, &measured).coverage[0].mask < 0.01, "there is no such part yet");
    assert!((on(&part, &again, &cache, &measured).coverage[0].mask - 1.0 / 6.0).abs() < 0.01);
    let grain =
        document(vec![coat("a", "#ffffff", vec![step(Join::Replace, "picture", &[("picture", "grain.png".into())])])]);
    let before = on(&grain, &again, &cache, &measured).channels["base_color"].clone();
    let other = grey(GrayImage::from_fn(16, 16, |_, y| Luma([y as u8 * 16])));
    let intake = Intake { pictures: vec![PictureUse { hash: "other".into(), ..used("grain.png", "mask") }], ..intake };
    let replaced = surface.of_state(Arc::new(piece.take_in(&intake, &|_| Some(other.clone()))), None);
    assert_ne!(on(&grain, &replaced, &cache, &measured).channels["base_color"], before, "another picture of that name");
}

#[test]
fn a_picture_that_stands_in_is_in_the_key_of_its_reading_alone() {
    let piece = cube(60.0);
    let surface = Surface::new(piece.clone(), 64);
    let d = document(vec![
        coat("a", "#ff0000", vec![step(Join::Replace, "perlin", &[])]),
        coat("b", "#ffffff", vec![step(Join::Replace, "thickness", &[])]),
    ]);
    let cache = Cache::new(1 << 26);
    let bright = |v: u8| {
        let intake = Intake {
            pictures: vec![PictureUse { hash: v.to_string(), ..used("t.png", "thickness") }],
            ..Intake::default()
        };
        let bytes = grey(GrayImage::from_pixel(4, 4, Luma([v])));
        surface.of_state(Arc::new(piece.take_in(&intake, &|_| Some(bytes.clone()))), None)
    };
    let (dark, light) = (on(&d, &bright(20), &cache, Measured::NONE), on(&d, &bright(230), &cache, Measured::NONE));
    assert_ne!(dark.channels["base_color"], light.channels["base_color"]);
    assert!(!light.computed.iter().any(|c| c.contains("Coat a")), "{:?}", light.computed);
}

#[test]
fn a_coarse_measurement_is_in_the_keys_of_what_reads_it_and_in_no_other() {
    let surface = Surface::new(cube(60.0), 64);
    let d = document(vec![
        coat("a", "#ff0000", vec![step(Join::Replace, "edges", &[]), step(Join::Add, "perlin", &[])]),
        coat("b", "#ffffff", vec![step(Join::Replace, "thickness", &[]), step(Join::Multiply, "worley", &[])]),
    ]);
    let real = all_measured(&d, &surface);
    let keys = needs(&d, &surface.piece);
    let hash = |k: &dustcoat_core::bake::MeasurementKey| k.hash(&surface.piece.hash, surface.atlas.size);
    // Thickness is coarse still, curvature is not.
    let mut partly = Measured::default();
    for key in &keys {
        let key = if key.kind == "thickness" { key.provisional() } else { key.clone() };
        let one = Measured::take(std::slice::from_ref(&key), &surface, &Cancel::default(), &silent).unwrap();
        partly.extend(one);
    }
    let cache = Cache::new(1 << 26);
    let coarse = on(&d, &surface, &cache, &partly);
    let done = on(&d, &surface, &cache, &real);
    assert_ne!(coarse.channels["base_color"], done.channels["base_color"]);
    let again: Vec<&String> = done.computed.iter().filter(|c| c.contains("Coat a") || c.contains("pattern")).collect();
    assert!(again.is_empty(), "what knows nothing of thickness stands: {again:?}");
    let fresh = on(&d, &surface, &Cache::new(1 << 26), &real);
    assert_eq!(fresh.channels, done.channels, "nothing coarse is taken for the real thing");
    assert!(keys.iter().all(|k| real.get(&hash(k)).is_some()) && MEASUREMENTS.len() >= keys.len());
}

fn flat(change: impl Fn(&mut Soup)) -> Piece {
    let mut soup = Soup::default();
    let up = |x: f32| [[x, 0.0, 10.0], [x + 10.0, 0.0, 10.0], [x + 10.0, 0.0, 0.0], [x, 0.0, 0.0]];
    quad(&mut soup, "a", up(0.0), [0.1, 0.1, 0.4, 0.4]);
    quad(&mut soup, "b", up(40.0), [0.6, 0.6, 0.9, 0.9]);
    change(&mut soup);
    Piece::build(soup).unwrap()
}

#[test]
fn the_hash_of_a_piece_knows_its_colours_its_sheets_and_what_lies_in_which() {
    let plain = flat(|_| {});
    let colored = flat(|s| s.colors.iter_mut().for_each(|c| *c = Some([200, 10, 10])));
    let otherwise = flat(|s| s.colors.iter_mut().for_each(|c| *c = Some([10, 10, 200])));
    let sheets = flat(|s| s.uvs[6..].iter_mut().for_each(|uv| uv[0] += 1.0));
    let all = [&plain, &colored, &otherwise, &sheets].map(|p| p.hash.clone());
    for (i, a) in all.iter().enumerate() {
        assert!(all.iter().skip(i + 1).all(|b| a != b), "{all:?}");
    }
    assert_eq!(flat(|_| {}).hash, plain.hash);
}

#[test]
fn the_cache_lets_go_of_what_was_not_asked_for_longest_and_takes_every_newcomer() {
    let cache = Cache::new(10 * 4_200);
    let key = |i: usize| format!("plane {i}");
    for i in 0..9 {
        cache.put(key(i), vec![i as f32; 1000]);
    }
    // Asked for often, and then no more.
    (0..50).for_each(|_| (0..9).for_each(|i| assert!(cache.get(&key(i)).is_some())));
    assert!(cache.get(&key(0)).is_some());
    for i in 9..17 {
        cache.put(key(i), vec![i as f32; 1000]);
        assert!(cache.get(&key(i)).is_some(), "a newcomer is there at once");
        assert!(cache.get(&key(0)).is_some(), "what is asked for stays");
    }
    assert!(cache.get(&key(1)).is_none() && cache.bytes() <= 10 * 4_200);
    cache.put("huge".into(), vec![0.0; 100_000]);
    assert!(cache.get("huge").is_none() && cache.get(&key(16)).is_some(), "what can't be held pushes nothing out");
}

#[test]
fn what_is_drawn_down_keeps_its_mean_and_has_keys_of_its_own() {
    let piece = cube(60.0);
    let (large, small) = (Surface::new(piece.clone(), 128), Surface::new(piece, 32));
    let d = document(vec![coat(
        "a",
        "#ffffff",
        vec![step(Join::Replace, "edges", &[]), step(Join::Multiply, "perlin", &[("size", 40.0.into())])],
    )]);
    let keys = needs(&d, &large.piece);
    let whole = all_measured(&d, &large);
    let mut made = 0;
    let drawn = whole.drawn_down(&keys, &large, 32, |_, draw| {
        made += 1;
        Arc::new(draw())
    });
    assert_eq!(made, keys.len());
    let mean = |surface: &Surface, plane: &[f32]| {
        let areas = surface.atlas.area.iter().map(|a| f64::from(*a));
        plane.iter().zip(areas).map(|(v, a)| f64::from(*v) * a).sum::<f64>() / surface.atlas.total_area
    };
    for key in &keys {
        let hash = |k: &MeasurementKey, s: &Surface| k.hash(&s.piece.hash, s.atlas.size);
        let below = drawn.in_force(key.clone(), &small);
        assert_eq!(below.drawn_from, Some(128));
        assert_ne!(hash(&below, &small), hash(key, &small), "one that is measured there is another");
        let (a, b) = (whole.get(&hash(key, &large)).unwrap(), drawn.get(&hash(&below, &small)).unwrap());
        // Of its first plane: all of them are halved alike.
        let (a, b) = (&a[..large.atlas.len()], &b[..small.atlas.len()]);
        assert!((mean(&large, a) - mean(&small, b)).abs() < 0.01, "{} and {}", mean(&large, a), mean(&small, b));
    }
    // Both lie in one cache beside each other, and neither is taken for the other.
    let cache = Cache::new(1 << 26);
    let moving = on(&d, &small, &cache, &drawn);
    let measured_there = on(&d, &small, &cache, &all_measured(&d, &small));
    assert_ne!(moving.keys["base_color"], measured_there.keys["base_color"]);
    assert!((moving.coverage[0].mask - measured_there.coverage[0].mask).abs() < 0.02);
    // Where only a coarse one is at hand, that is what is drawn down.
    let coarse = keys[0].provisional();
    let few = Measured::take(std::slice::from_ref(&coarse), &large, &Cancel::default(), &silent).unwrap();
    let drawn = few.drawn_down(&keys, &large, 32, |_, draw| Arc::new(draw()));
    assert_eq!(drawn.in_force(keys[0].clone(), &small), coarse.drawn_from(128));
}

#[test]
fn channels_alone_are_those_of_a_whole_evaluation() {
    let surface = Surface::new(cube(60.0), 64);
    let d = document(vec![
        coat("a", "#808080", vec![]),
        coat("b", "#803010", vec![step(Join::Replace, "perlin", &[]), step(Join::Replace, "threshold", &[])]),
    ]);
    let (cache, cancel) = (Cache::new(1 << 26), Cancel::default());
    let context =
        Context { surface: &surface, measured: Measured::NONE, cache: &cache, cancel: &cancel, progress: &silent };
    let alone = evaluate_channels(&d, &context).unwrap();
    assert!(alone.coverage.is_empty() && !alone.computed.contains(&"coverage".to_owned()));
    let whole = evaluate(&d, &context).unwrap();
    assert_eq!(whole.computed, ["coverage"], "at rest nothing else is worked out");
    assert_eq!((alone.keys, alone.channels), (whole.keys, whole.channels));
}

/// A plate of 100 mm with a block upon it, which shades it, at half of the square each.
fn plate_with_a_block() -> Arc<Piece> {
    let mut soup = Soup::default();
    let corners = [[-50.0, 0.0, 50.0], [50.0, 0.0, 50.0], [50.0, 0.0, -50.0], [-50.0, 0.0, -50.0]];
    quad(&mut soup, "plate", corners, [0.0, 0.0, 0.5, 0.5]);
    add_box(&mut soup, [-20.0, 0.0, -20.0], [20.0, 30.0, 20.0], [0.0, 0.5, 1.0, 1.0]);
    Arc::new(Piece::build(soup).unwrap())
}

#[test]
fn what_is_measured_in_a_moment_lies_near_what_is_measured_well() {
    let surface = Surface::new(plate_with_a_block(), 512);
    assert!(surface.atlas.len() > 60_000, "large enough to be measured at a smaller size");
    for measurement in MEASUREMENTS {
        let key = MeasurementKey::new(measurement, Extent::of(&surface.piece), &BTreeMap::new());
        let well = measure(measurement, &surface, &key.settings, &Cancel::default(), &silent).unwrap();
        let soon = measure_coarsely(measurement, &surface, &key.provisional().settings, &Cancel::default()).unwrap();
        assert_eq!(soon.len(), well.len(), "{}", measurement.kind);
        let off: f64 = soon.iter().zip(&well).map(|(a, b)| f64::from((a - b).abs())).sum::<f64>() / well.len() as f64;
        assert!(off < 0.04, "{}: {off}", measurement.kind);
        // Not by chance: it tells hollows from what is open as well.
        let (open, hollow) = well.iter().zip(&soon).fold((0.0, 0.0), |(a, b), (w, s)| (a + (w * s), b + w * w));
        assert!((open / hollow - 1.0f32).abs() < 0.05, "{}: {open} and {hollow}", measurement.kind);
    }
}

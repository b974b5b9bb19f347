//! Pictures made elsewhere: they tell parts, stand in for readings, lend normals, and lie in masks.

use std::io::Cursor;
use std::sync::Arc;

use crate::common::{coat, document, evaluated, measured, plate, quad, step};
use dustcoat_core::bake::{Surface, reading};
use dustcoat_core::document::{Document, Edit, PackedChannel, apply, label, told_channels};
use dustcoat_core::finish::relief;
use dustcoat_core::mask::Join;
use dustcoat_core::mesh::intake::{Intake, PartsBy, PictureUse, guess_sheet};
use dustcoat_core::mesh::{Piece, Soup};
use dustcoat_core::raster::picture::Picture;
use dustcoat_core::raster::srgb;
use dustcoat_core::setting::{Param, Settings, Value};
use glam::Vec3;
use image::{DynamicImage, ImageFormat, Rgb, RgbImage, Rgba, RgbaImage};

fn png(picture: RgbImage) -> Vec<u8> {
    let mut out = Cursor::new(Vec::new());
    DynamicImage::ImageRgb8(picture).write_to(&mut out, ImageFormat::Png).unwrap();
    out.into_inner()
}

/// The intake of a piece with one picture, and the piece that it makes.
fn with_picture(piece: &Piece, purpose: &str, picture: RgbImage, change: impl Fn(&mut Intake)) -> Piece {
    let bytes = png(picture);
    let used = PictureUse { hash: "h".into(), file: "p.png".into(), purpose: purpose.into(), ..PictureUse::default() };
    let mut intake = Intake { pictures: vec![used], ..Intake::default() };
    if purpose == "parts" {
        intake.parts_by = PartsBy::Picture;
    }
    change(&mut intake);
    piece.take_in(&intake, &|_| Some(bytes.clone()))
}

#[test]
fn an_id_picture_tells_parts_by_texel_whatever_its_borders_are_blended_like() {
    // Three bands with soft borders of eight texels, and a little patch.
    let bands = [[200, 40, 40], [40, 160, 60], [50, 60, 190]];
    let picture = RgbImage::from_fn(256, 256, |x, y| {
        if (120..134).contains(&x) && (10..24).contains(&y) {
            return Rgb([230, 220, 60]);
        }
        let at = f64::from(y) / 256.0 * 3.0;
        let (band, into) = (at as usize, at.fract());
        let share = ((into - 0.9) / 0.1).clamp(0.0, 1.0) * if band < 2 { 1.0 } else { 0.0 };
        let (a, b) = (bands[band], bands[(band + 1).min(2)]);
        Rgb([0, 1, 2].map(|k| (f64::from(a[k]) * (1.0 - share) + f64::from(b[k]) * share) as u8))
    });
    let piece = with_picture(&plate(100.0), "parts", picture, |_| {});
    assert_eq!(piece.parts.len(), 4, "{:?}", piece.parts);
    let names: Vec<&str> = piece.parts.iter().map(|p| p.name.as_str()).collect();
    for name in ["Red", "Green", "Blue", "Yellow"] {
        assert!(names.contains(&name), "{name} in {names:?}");
    }
    let total: f64 = piece.parts.iter().map(|p| p.area).sum();
    assert!((total - 10_000.0).abs() < 1.0, "the parts share the surface: {total} mm²");
    let surface = Surface::new(Arc::new(piece), 128);
    let a = &surface.atlas;
    let part_at =
        |u: f32, v: f32| surface.piece.parts[a.part[a.at_uv(0, [u, v]).unwrap() as usize] as usize].name.as_str();
    assert_eq!(
        [part_at(0.2, 0.1), part_at(0.2, 0.5), part_at(0.2, 0.9), part_at(0.495, 0.066)],
        ["Red", "Green", "Blue", "Yellow"]
    );
}

#[test]
fn a_wider_tolerance_takes_like_colours_together() {
    let picture = || RgbImage::from_fn(64, 64, |x, _| if x < 32 { Rgb([200, 40, 40]) } else { Rgb([170, 40, 60]) });
    let parts = |t: f32| with_picture(&plate(10.0), "parts", picture(), |i| i.tolerance = t).parts.len();
    assert_eq!((parts(0.03), parts(0.2)), (2, 1));
}

#[test]
fn a_picture_stands_in_for_a_reading_and_needs_no_rays() {
    let ramp = RgbImage::from_fn(256, 4, |x, _| Rgb([x as u8; 3]));
    let piece = Arc::new(with_picture(&plate(50.0), "occlusion", ramp.clone(), |_| {}));
    let surface = Surface::new(piece.clone(), 64);
    let open = measured(&surface, "occlusion", &[]);
    let at = |u: f32| open[surface.atlas.at_uv(0, [u, 0.5]).unwrap() as usize];
    for u in [0.1f32, 0.5, 0.9] {
        assert!((at(u) - u).abs() < 0.02, "{} at {u}", at(u));
    }
    let turned = with_picture(&plate(50.0), "occlusion", ramp, |i| i.pictures[0].invert = true);
    let surface = Surface::new(Arc::new(turned), 64);
    let open = measured(&surface, "occlusion", &[]);
    assert!((open[surface.atlas.at_uv(0, [0.1, 0.5]).unwrap() as usize] - 0.9).abs() < 0.02);
    let gone = plate(50.0).take_in(
        &Intake {
            pictures: vec![PictureUse { purpose: "occlusion".into(), file: "ao.png".into(), ..PictureUse::default() }],
            ..Intake::default()
        },
        &|_| None,
    );
    assert!(gone.stand_ins.is_empty() && gone.findings.iter().any(|f| f.what.contains("ao.png")));
}

#[test]
fn a_picture_of_curvature_serves_edges_and_recesses() {
    let ramp = RgbImage::from_fn(256, 4, |x, _| Rgb([x as u8; 3]));
    let surface = Surface::new(Arc::new(with_picture(&plate(50.0), "curvature", ramp, |_| {})), 64);
    let (edges, recesses) = (measured(&surface, "edges", &[]), measured(&surface, "recesses", &[]));
    let at = |v: &[f32], u: f32| v[surface.atlas.at_uv(0, [u, 0.5]).unwrap() as usize];
    for u in [0.1f32, 0.5, 0.9] {
        assert!((at(&edges, u) - (2.0 * u - 1.0).max(0.0)).abs() < 0.03, "bright stands out: {}", at(&edges, u));
        assert!((at(&recesses, u) - (1.0 - 2.0 * u).max(0.0)).abs() < 0.03, "dark lies deep: {}", at(&recesses, u));
    }
    assert!(reading::find("edges").unwrap().key(&surface.piece, &|_| Settings::new()).is_none(), "no rays are cast");
}

#[test]
fn every_sheet_has_its_own_picture() {
    let mut soup = Soup::default();
    quad(&mut soup, "l", [[0.0, 0.0, 20.0], [20.0, 0.0, 20.0], [20.0, 0.0, 0.0], [0.0; 3]], [0.0, 0.0, 1.0, 1.0]);
    quad(
        &mut soup,
        "r",
        [[30.0, 0.0, 20.0], [50.0, 0.0, 20.0], [50.0, 0.0, 0.0], [30.0, 0.0, 0.0]],
        [1.0, 0.0, 2.0, 1.0],
    );
    let piece = Piece::build(soup).unwrap();
    let names: Vec<&str> = piece.sheets.iter().map(|s| s.name.as_str()).collect();
    assert_eq!(names, ["1001", "1002"]);
    assert_eq!(guess_sheet("crate_ao.1002.png", &piece.sheets), "1002");
    assert_eq!(guess_sheet("crate_ao_21002.png", &piece.sheets), "", "part of a longer number is no UDIM number");
    let grey = |v: u8| png(RgbImage::from_pixel(4, 4, Rgb([v; 3])));
    let used = |hash: &str, sheet: &str| PictureUse {
        hash: hash.into(),
        file: format!("ao.{sheet}.png"),
        purpose: "occlusion".into(),
        sheet: sheet.into(),
        ..PictureUse::default()
    };
    let bytes = |u: &PictureUse| Some(grey(if u.hash == "dark" { 51 } else { 204 }));
    let intake = |pictures| Intake { pictures, ..Intake::default() };
    let both = piece.take_in(&intake(vec![used("dark", "1001"), used("light", "1002")]), &bytes);
    let surface = Surface::new(Arc::new(both), 32);
    let open = measured(&surface, "occlusion", &[]);
    let at = |sheet: u16| open[surface.atlas.at_uv(sheet, [0.5, 0.5]).unwrap() as usize];
    assert!((at(0) - 0.2).abs() < 1e-3 && (at(1) - 0.8).abs() < 1e-3, "{} {}", at(0), at(1));
    let one = piece.take_in(&intake(vec![used("dark", "1001")]), &bytes);
    assert!(one.stand_ins.is_empty() && one.findings.iter().any(|f| f.serious && f.what.contains("1002")));
    let filled = piece.take_in(&intake(vec![used("dark", "1002"), used("light", "")]), &bytes);
    assert!(filled.stand_ins.contains_key("occlusion"), "one for all sheets fills the gaps: {:?}", filled.findings);
}

#[test]
fn normals_of_a_picture_are_taken_in_both_conventions() {
    // A dent: the normal leans to the right and up the texture.
    let lean = |green: u8| RgbImage::from_pixel(8, 8, Rgb([180, green, 220]));
    let taken = |green: u8, down: bool| {
        let piece = with_picture(&plate(50.0), "normal", lean(green), |i| i.pictures[0].green_down = down);
        let surface = Surface::new(Arc::new(piece), 64);
        relief::normals(&surface, &vec![0.0; surface.atlas.len()], &[])[surface.atlas.len() / 2]
    };
    let (up, down) = (taken(180, false), taken(76, true));
    let expected = Vec3::new(52.0, 52.0, 92.0).normalize();
    for n in [up, down] {
        assert!((Vec3::from(n) - expected).length() < 0.02, "{n:?} against {expected}");
    }
}

#[test]
fn a_picture_in_a_mask_lies_in_millimetres_and_goes_on_without_a_visible_repeat() {
    // Left half black, right half white, 2 : 1.
    let halves = RgbImage::from_fn(64, 32, |x, _| Rgb([if x < 32 { 0 } else { 255 }; 3]));
    let bytes = png(halves);
    let used =
        PictureUse { hash: "h".into(), file: "grain.png".into(), purpose: "mask".into(), ..PictureUse::default() };
    let intake = Intake { pictures: vec![used], ..Intake::default() };
    let piece = Arc::new(plate(100.0).take_in(&intake, &|_| Some(bytes.clone())));
    let surface = Surface::new(piece, 256);
    let laid = |changes: &[(&str, Param)]| {
        let mut all =
            vec![("picture", Param::from("grain.png")), ("placement", "planar".into()), ("size", 40.0.into())];
        all.extend_from_slice(changes);
        let d = document(vec![coat("a", "#ffffff", vec![step(Join::Replace, "picture", &all)])]);
        let e = evaluated(&d, &surface);
        e.channels["base_color"].iter().take(surface.atlas.len()).copied().collect::<Vec<f32>>()
    };
    let at =
        |v: &[f32], x: f32, z: f32| v[surface.atlas.at_uv(0, [x / 100.0 + 0.5, z / 100.0 + 0.5]).unwrap() as usize];
    let bare = at(&laid(&[("picture", Param::from("gone.png"))]), 0.0, 0.0);
    // Once: 40 × 20 mm around the origin, its right half white.
    let once = laid(&[("repeat", "once".into())]);
    for (x, z, white) in
        [(10.0, 0.0, true), (-10.0, 0.0, false), (30.0, 0.0, false), (10.0, 15.0, false), (19.0, 9.0, true)]
    {
        let v = at(&once, x, z);
        assert_eq!(v > 0.9, white, "{x} {z}: {v}, bare {bare}");
    }
    // As tiles it repeats every 40 mm along and 20 mm down.
    let tiles = laid(&[("repeat", "tiles".into())]);
    for (x, z) in [(-33.0, 3.0), (-7.0, 12.0), (-1.0, -25.0)] {
        assert!((at(&tiles, x, z) - at(&tiles, x + 40.0, z)).abs() < 0.05);
    }
    // Without a visible repeat it does not, but keeps its mean.
    let hidden = laid(&[("size", 12.0.into())]);
    let likeness = |shift: f32| {
        let points: Vec<(f32, f32)> =
            (0..2000).map(|i| ((i % 50) as f32 - 40.0, (i / 50) as f32 * 2.0 - 40.0)).collect();
        let (mean, n) = (points.iter().map(|p| at(&hidden, p.0, p.1)).sum::<f32>() / 2000.0, points.len() as f32);
        let product: f32 =
            points.iter().map(|p| (at(&hidden, p.0, p.1) - mean) * (at(&hidden, p.0 + shift, p.1) - mean)).sum();
        let power: f32 = points.iter().map(|p| (at(&hidden, p.0, p.1) - mean).powi(2)).sum();
        (product / power, mean, n)
    };
    let (repeat, mean, _) = likeness(12.0);
    assert!(repeat < 0.35, "a tile's width on it is another picture: {repeat}");
    assert!((mean - (bare + (1.0 - bare) * 0.5)).abs() < 0.1, "half of it is white: {mean}");
}

#[test]
fn two_pictures_of_one_name_are_told_apart() {
    let picture = |hash: &str, file: &str| PictureUse { hash: hash.into(), file: file.into(), ..PictureUse::default() };
    let mut intake = Intake::default();
    for (hash, file) in
        [("a", "grime.png"), ("b", "grime.png"), ("c", "grime.png"), ("d", "no ending"), ("e", "no ending")]
    {
        intake.add_picture(picture(hash, file));
    }
    let names: Vec<&str> = intake.pictures.iter().map(|p| p.file.as_str()).collect();
    assert_eq!(names, ["grime.png", "grime 2.png", "grime 3.png", "no ending", "no ending 2"]);
    intake.add_picture(picture("b", "grime 2.png"));
    assert_eq!(intake.pictures.len(), 5, "the same one again takes its own place");
}

#[test]
fn what_is_cut_away_of_a_picture_lends_it_no_colour() {
    use dustcoat_core::raster::picture::Picture;
    // Orange in stripes of one texel between others that are clear, and black where nobody sees it.
    let stripes =
        RgbaImage::from_fn(512, 128, |x, _| if x % 2 == 0 { Rgba([230, 120, 20, 255]) } else { Rgba([0; 4]) });
    let mut bytes = Cursor::new(Vec::new());
    DynamicImage::ImageRgba8(stripes).write_to(&mut bytes, ImageFormat::Png).unwrap();
    let picture = Picture::decode("stripes.png", bytes.get_ref()).unwrap();
    let small = picture.preview(64);
    assert_eq!((small.width, small.height), (64, 16));
    for [r, g, b, a] in &small.values {
        let near = |v: u8, wanted: u8| v.abs_diff(wanted) <= 3;
        assert!(near(*r, 230) && near(*g, 120) && near(*b, 20) && near(*a, 128), "{r} {g} {b} {a}");
    }
    assert_eq!(picture.preview(512).values[..2], [[230, 120, 20, 255], [0; 4]], "as it is where it is small enough");
}

#[test]
fn fine_normals_are_numbers_and_even_out_where_they_are_minified() {
    // Columns that lean left and right by as much: seen from afar they are flat. Read as sRGB they would tilt the surface.
    let lean = |x: u32| if x.is_multiple_of(2) { 191 } else { 65 };
    let picture = RgbImage::from_fn(256, 256, |x, _| Rgb([lean(x), 128, 238]));
    let bytes = png(picture);
    let used = PictureUse { hash: "n".into(), file: "n.png".into(), purpose: "mask".into(), ..PictureUse::default() };
    let intake = Intake { pictures: vec![used], ..Intake::default() };
    let piece = Arc::new(plate(100.0).take_in(&intake, &|_| Some(bytes.clone())));
    let normals = |width: f64, size: u32| {
        let surface = Surface::new(piece.clone(), size);
        let mut layer = coat("a", "#808080", vec![]);
        let settings = serde_json::json!({"picture": "n.png", "size": width, "repeat": "tiles", "placement": "planar"});
        let finish = serde_json::json!({"channels": {"normal": {"on": true, "settings": {"color": {"colors": {"kind": "colors", "settings": settings}}}}}});
        layer.kind = dustcoat_core::document::LayerKind::Coat { finish: serde_json::from_value(finish).unwrap() };
        let e = evaluated(&document(vec![layer]), &surface);
        let (n, plane) = (surface.atlas.len(), e.channels["normal"].clone());
        (0..n).map(|i| Vec3::new(plane[i], plane[n + i], plane[2 * n + i])).collect::<Vec<_>>()
    };
    for n in normals(10.0, 64) {
        assert!(n.x.abs() < 0.01 && n.y.abs() < 0.01, "flat from afar: {n}");
    }
    // From near each column leans by its half.
    let near = normals(6400.0, 64);
    assert!(near.iter().any(|n| (n.x - 0.5).abs() < 0.03) && near.iter().all(|n| n.x.abs() < 0.53 && n.y.abs() < 0.01));
}

#[test]
fn a_grey_picture_for_masks_takes_little_more_than_its_own_bytes() {
    let mut out = Cursor::new(Vec::new());
    let grey = image::GrayImage::from_fn(512, 512, |x, y| image::Luma([((x * 7) ^ (y * 3)) as u8]));
    DynamicImage::ImageLuma8(grey).write_to(&mut out, ImageFormat::Png).unwrap();
    let picture = dustcoat_core::raster::picture::Picture::decode("g.png", &out.into_inner()).unwrap();
    let texels = picture.len();
    let picture = dustcoat_core::raster::pyramid::MaskPicture::new(picture);
    let levels = picture.levels("grey");
    assert!(
        (0..texels).all(|i| (levels.levels[0].at(i) * 255.0).fract().abs() < 1e-3
            || (levels.levels[0].at(i) * 255.0).fract() > 0.999)
    );
    let made: usize = levels.levels.iter().map(|l| l.bytes()).sum();
    assert!(made < texels * 7 / 4, "{made} bytes for {texels} texels");
}

#[test]
fn a_picture_whose_numbers_would_not_fit_is_refused_before_it_is_unpacked() {
    // Little in a file, more than a gigabyte and a half with what is made of it.
    let side = 16_384u32;
    let mut out = Vec::new();
    let mut encoder = png::Encoder::new(&mut out, side, side);
    encoder.set_color(png::ColorType::Rgba);
    encoder.set_depth(png::BitDepth::Eight);
    let mut writer = encoder.write_header().unwrap();
    writer.write_chunk(png::chunk::IDAT, &[]).unwrap();
    drop(writer);
    let refused = dustcoat_core::raster::picture::Picture::decode("huge.png", &out).unwrap_err();
    assert!(refused.to_string().contains("huge.png") && refused.to_string().contains("Scale it down"), "{refused}");
}

#[test]
fn a_painted_map_lies_by_the_uvs_of_the_sheet_that_it_was_painted_for() {
    let mut soup = Soup::default();
    for (x, u) in [(0.0, 0.0), (30.0, 1.0)] {
        let corners = [[x, 0.0, 20.0], [x + 20.0, 0.0, 20.0], [x + 20.0, 0.0, 0.0], [x, 0.0, 0.0]];
        quad(&mut soup, "plate", corners, [u, 0.0, u + 1.0, 1.0]);
    }
    let piece = Piece::build(soup).unwrap();
    // White in the upper left quarter; fine stripes in the lower right one.
    let painted = RgbImage::from_fn(256, 256, |x, y| match (x < 128, y < 128) {
        (true, true) => Rgb([255; 3]),
        (false, false) => Rgb([if x % 2 == 0 { 255 } else { 0 }; 3]),
        _ => Rgb([0; 3]),
    });
    let used =
        PictureUse { hash: "h".into(), file: "wear.png".into(), purpose: "mask".into(), ..PictureUse::default() };
    let bytes = png(painted);
    let intake = Intake { pictures: vec![used], ..Intake::default() };
    let surface = Surface::new(Arc::new(piece.take_in(&intake, &|_| Some(bytes.clone()))), 64);
    let mask = |changes: &[(&str, Param)]| {
        let mut all = vec![("picture", Param::from("wear.png"))];
        all.extend_from_slice(changes);
        let steps = vec![step(Join::Replace, "painted", &all)];
        let d = document(vec![coat("b", "#000000", vec![]), coat("a", "#ffffff", steps)]);
        evaluated(&d, &surface).channels["base_color"][..surface.atlas.len()].to_vec()
    };
    let at = |m: &[f32], sheet: u16, uv: [f32; 2]| m[surface.atlas.at_uv(sheet, uv).unwrap() as usize];
    let all = mask(&[]);
    for sheet in [0, 1] {
        assert!(at(&all, sheet, [0.25, 0.25]) > 0.99 && at(&all, sheet, [0.75, 0.25]) < 0.01, "sheet {sheet}");
        let stripes = at(&all, sheet, [0.75, 0.75]);
        assert!((stripes - 0.5).abs() < 0.02, "what is finer than a texel is evened out: {stripes}");
    }
    let second = mask(&[("sheet", 2.0.into())]);
    assert!(at(&second, 0, [0.25, 0.25]) == 0.0 && at(&second, 1, [0.25, 0.25]) > 0.99);
    let turned = mask(&[("negative", Param::Const(Value::Bool(true)))]);
    assert!(at(&turned, 0, [0.25, 0.25]) < 0.01 && at(&turned, 0, [0.75, 0.25]) > 0.99);
    assert!(mask(&[("picture", "gone.png".into())]).iter().all(|m| *m == 0.0), "one that is gone lays nothing");
}

#[test]
fn masks_that_come_packed_become_layers_that_lie_where_each_channel_says() {
    // Red on the left half, green rising from the top down, blue nowhere.
    let picture = RgbImage::from_fn(128, 128, |x, y| Rgb([if x < 64 { 255 } else { 0 }, (y * 2) as u8, 3]));
    let told = told_channels("rust_dirt.png", &Picture::decode("p.png", &png(picture.clone())).unwrap());
    let names: Vec<(&str, bool)> = told.iter().map(|c| (c.take.name.as_str(), c.differs)).collect();
    assert_eq!(names, [("rust_dirt red", true), ("rust_dirt green", true), ("rust_dirt blue", false)]);
    assert!((told[0].mean - 0.5).abs() < 0.01);
    let grey = RgbImage::from_fn(16, 16, |x, _| Rgb([x as u8 * 10; 3]));
    assert_eq!(told_channels("g.png", &Picture::decode("g.png", &png(grey)).unwrap()).len(), 1);

    let mut d = document(vec![coat("l1", "#222222", vec![])]);
    d.layers[0].publish = Some("rust".into());
    d.intake.pictures = vec![PictureUse { hash: "h".into(), file: "p.png".into(), ..PictureUse::default() }];
    let take = |i: usize, name: &str| PackedChannel { name: name.into(), ..told[i].take.clone() };
    let lay = |hard| Edit::LayPacked { picture: "h".into(), channels: vec![take(0, "rust"), take(1, "dirt")], hard };
    assert_eq!(label(&d, &lay(true)), "lay the masks of p.png");
    let surface = |d: &Document| {
        let bytes = png(picture.clone());
        Surface::new(Arc::new(plate(100.0).take_in(&d.intake, &|_| Some(bytes.clone()))), 128)
    };
    for hard in [false, true] {
        let laid = apply(&d, &lay(hard)).unwrap();
        let published: Vec<_> = laid.layers.iter().map(|l| (l.name.as_str(), l.publish.as_deref())).collect();
        assert_eq!(published, [("Coat l1", Some("rust")), ("rust", Some("rust 2")), ("dirt", Some("dirt"))]);
        let e = evaluated(&laid, &surface(&laid));
        let cover: Vec<f64> = e.coverage.iter().map(|c| c.mask).collect();
        assert!((cover[1] - 0.5).abs() < 0.01 && (cover[2] - 0.5).abs() < 0.02, "{cover:?}");
        let blue = srgb::decode(f32::from(0x3fu8) / 255.0);
        let planes = &e.channels["base_color"];
        let third = &planes[planes.len() / 3 * 2..];
        let blended = third.iter().filter(|v| (**v - blue).abs() > 0.001).count();
        let share = blended as f64 / third.len() as f64;
        assert!(if hard { (0.4..0.6).contains(&share) } else { share > 0.9 }, "hard {hard}: {share}");
    }
    // What serves the piece in another way is left alone.
    d.intake.pictures[0].purpose = "occlusion".into();
    let error = apply(&d, &lay(true)).unwrap_err().to_string();
    assert!(error.contains("p.png") && error.contains("another way"), "{error}");
    d.intake.pictures[0].purpose = "mask".into();
    let none = Edit::LayPacked { picture: "h".into(), channels: vec![], hard: true };
    assert!(apply(&d, &none).unwrap_err().to_string().contains("one to four"));
}

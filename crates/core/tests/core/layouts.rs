//! Layouts: what lies in each channel of each file, read back by other readers than wrote it; and the files that name the pictures.

use std::collections::BTreeMap;
use std::sync::Arc;

use crate::common::{add_box, coat, cube, document, evaluated, measured, of_channel, step, with_context};
use dustcoat_core::bake::{MeasurementKey, Surface};
use dustcoat_core::document::{Document, Edit, FileChannel, FileKind, FileRow, Layout, apply};
use dustcoat_core::evaluate::{self, Cache, Context, EvaluateError, Highest, Measured, needs};
use dustcoat_core::handoff::check::checks;
use dustcoat_core::handoff::manifest::Manifest;
use dustcoat_core::handoff::ready::{self, usual};
use dustcoat_core::handoff::{Content, Handoff, Naming, Plan, Prepared, prepare, surface_size, write};
use dustcoat_core::mask::Join;
use dustcoat_core::mesh::{Piece, Soup};
use dustcoat_core::raster::srgb;
use dustcoat_core::setting::Param;
use dustcoat_core::task::{Cancel, silent};
use exr::prelude::{ReadChannels, ReadLayers, read};
use image::DynamicImage;

fn row(map: &str, kind: FileKind, bits: u32, from: &[&str]) -> FileRow {
    let slots = from.iter().map(|f| FileChannel::of(f)).collect();
    FileRow { map: map.into(), kind, bits, srgb: false, slots, on: true }
}

fn layout(files: Vec<FileRow>) -> Layout {
    Layout { name: "Own".into(), size: 64, pattern: "{piece}_{sheet}_{map}".into(), height_range: 1.0, files }
}

/// A blue coat with a half of it in yellow metal, by a hard mask that is published, with relief and a clear coat that no other file holds.
fn half() -> Document {
    let steps = vec![
        step(Join::Replace, "altitude", &[("high", 50.0.into())]),
        step(Join::Replace, "levels", &[("black", 0.49.into()), ("white", 0.51.into())]),
    ];
    let mut d = document(vec![coat("l1", "#3366cc", vec![]), coat("l2", "#cc9933", steps)]);
    d.layers[1].publish = Some("upper half".into());
    for (layer, channel, value) in [
        ("l1", "roughness", 0.75),
        ("l1", "metallic", 0.0),
        ("l1", "height", 0.0),
        ("l2", "metallic", 1.0),
        ("l2", "height", 0.5),
    ] {
        d = apply(&d, &Edit::SetParam { target: of_channel(layer, channel, "value"), value: Some(value.into()) })
            .unwrap();
    }
    d
}

/// The files of a layout for a document on a cube, by name.
fn files(d: &Document, layout: &Layout) -> (Plan, BTreeMap<String, Vec<u8>>) {
    let surface = Surface::new(cube(50.0), layout.size);
    files_on(d, layout, &surface)
}

fn files_on(d: &Document, layout: &Layout, surface: &Surface) -> (Plan, BTreeMap<String, Vec<u8>>) {
    let highest = evaluate::channels(d, &surface.piece);
    let naming = Naming { piece: "Crate", variant: "", revision: "7" };
    let plan = Plan::new(layout, d, &surface.piece.sheets, &highest, naming).unwrap();
    let mut out = BTreeMap::new();
    with_context(d, surface, &Cache::new(1 << 28), |context| {
        let job = Handoff { document: d, context, plan: &plan, budget: 0 };
        let mut keep = |file: &dustcoat_core::handoff::PlannedFile, bytes: Vec<u8>| {
            out.insert(file.name.clone(), bytes);
            Ok(())
        };
        job.write::<EvaluateError>(&mut keep).unwrap();
    });
    (plan, out)
}

fn picture(bytes: &[u8]) -> DynamicImage {
    // A file of one channel alone is luminance, which `image` doesn't take.
    image::load_from_memory(bytes).unwrap_or_else(|_| {
        let reader = read().no_deep_data().largest_resolution_level().all_channels().all_layers();
        let layer =
            reader.all_attributes().from_buffered(std::io::Cursor::new(bytes)).unwrap().layer_data.swap_remove(0);
        let (only, width) = (&layer.channel_data.list[0], layer.size.0 as u32);
        assert_eq!((only.name.to_string().as_str(), layer.channel_data.list.len()), ("Y", 1));
        let values: Vec<f32> = only.sample_data.values_as_f32().flat_map(|v| [v; 3]).collect();
        DynamicImage::ImageRgb32F(image::ImageBuffer::from_raw(width, width, values).unwrap())
    })
}

/// Texels of a square that lie well within charts, as places.
fn inner(surface: &Surface) -> Vec<(usize, u32, u32)> {
    let (atlas, size) = (&surface.atlas, surface.atlas.size);
    (0..atlas.len()).map(|i| (i, atlas.texel[i] % size, atlas.texel[i] / size)).collect()
}

#[test]
fn channels_of_a_file_hold_what_the_layout_says_in_every_format() {
    let d = half();
    let from = ["roughness", "published:upper half", "0.25", "height"];
    let mut rows = vec![
        row("a", FileKind::Png, 8, &from),
        row("b", FileKind::Png, 16, &from),
        row("c", FileKind::Tiff, 16, &from),
        row("d", FileKind::Tiff, 8, &from),
        row("e", FileKind::Exr, 32, &from),
        row("f", FileKind::Exr, 16, &from),
    ];
    // Roughness the other way round, from 0.5 on.
    rows.iter_mut().for_each(|r| {
        r.slots[0].invert = true;
        r.slots[0].range = Some([0.5, 1.0]);
    });
    let surface = Surface::new(cube(50.0), 64);
    let (plan, files) = files_on(&d, &layout(rows), &surface);
    assert_eq!(plan.masks(), ["l2"]);
    let e = evaluated(&d, &surface);
    let float = picture(&files["Crate_1001_e.exr"]).into_rgba32f();
    let (mut low, mut high) = (0, 0);
    for (i, x, y) in inner(&surface) {
        let [r, g, b, a] = float.get_pixel(x, y).0;
        let rough = e.channels["roughness"][i];
        // A texel where both halves meet is a mean of both.
        let whole = g == 0.0 || g == 1.0;
        assert!(!whole || (r - (1.0 - (rough - 0.5) / 0.5)).abs() < 1e-5, "{r} of {rough}");
        assert_eq!(b, 0.25);
        assert!((0.0..=0.5).contains(&a), "heights in floats are in mm: {a}");
        low += usize::from(g == 0.0);
        high += usize::from(g == 1.0);
    }
    assert!(low > 500 && high > 500 && low + high > 9 * surface.atlas.len() / 10, "{low} {high}");
    let near = |name: &str, steps: f32| {
        let found = picture(&files[name]).into_rgba32f();
        let exr = name.ends_with("exr");
        for (_, x, y) in inner(&surface) {
            let (want, have) = (float.get_pixel(x, y).0, found.get_pixel(x, y).0);
            // In whole numbers heights are laid from −1 to 1 mm.
            let whole = [want[0].clamp(0.0, 1.0), want[1], want[2], 0.5 + want[3] / 2.0];
            let want = if exr { want } else { whole };
            for c in 0..4 {
                assert!((want[c] - have[c]).abs() <= 0.5001 / steps, "{name} {c}: {have:?} for {want:?}");
            }
        }
    };
    near("Crate_1001_a.png", 255.0);
    near("Crate_1001_b.png", 65535.0);
    near("Crate_1001_c.tif", 65535.0);
    near("Crate_1001_d.tif", 255.0);
    near("Crate_1001_f.exr", 1024.0);
}

#[test]
fn colours_are_encoded_where_the_file_says_so_and_only_they_are() {
    let d = half();
    let mut row = row("a", FileKind::Png, 8, &["base_color.r", "base_color.g", "roughness", "base_color.b"]);
    row.srgb = true;
    let surface = Surface::new(cube(50.0), 64);
    let (_, files) = files_on(&d, &layout(vec![row]), &surface);
    let (found, e, n) =
        (picture(&files["Crate_1001_a.png"]).into_rgba8(), evaluated(&d, &surface), surface.atlas.len());
    let unlike = inner(&surface).into_iter().filter(|(i, x, y)| {
        let v = |kind: &str, c: usize| e.channels[kind][c * n + i];
        let want = [
            srgb::encode_u8(v("base_color", 0)),
            srgb::encode_u8(v("base_color", 1)),
            (v("roughness", 0) * 255.0).round() as u8,
            (v("base_color", 2) * 255.0).round() as u8,
        ];
        found.get_pixel(*x, *y).0.iter().zip(want).any(|(a, b)| a.abs_diff(b) > 1)
    });
    // Where the halves meet files are smoother than single samples.
    assert!(unlike.count() < n / 20);
}

#[test]
fn normals_in_the_pieces_space_are_those_in_tangent_space_turned() {
    let surface = Surface::new(cube(50.0), 64);
    let rows = vec![
        row("t", FileKind::Exr, 32, &["normal.x", "normal.y", "normal.z"]),
        row("o", FileKind::Exr, 32, &["object_normal.x", "object_normal.y", "object_normal.z"]),
    ];
    let (_, files) = files_on(&half(), &layout(rows), &surface);
    let read = |name: &str| picture(&files[name]).into_rgb32f();
    let (tangent, object) = (read("Crate_1001_t.exr"), read("Crate_1001_o.exr"));
    let (a, mut bent) = (&surface.atlas, 0);
    for (i, x, y) in inner(&surface) {
        let (t, o) = (tangent.get_pixel(x, y).0, object.get_pixel(x, y).0);
        let smooth = [a.nx[i], a.ny[i], a.nz[i]];
        let dot = |a: [f32; 3], b: [f32; 3]| (0..3).map(|k| a[k] * b[k]).sum::<f32>();
        assert!((dot(o, o) - 1.0).abs() < 1e-4 && (dot(o, smooth) - t[2]).abs() < 1e-4, "{t:?} {o:?} on {smooth:?}");
        bent += u32::from(t[2] < 0.9995);
    }
    assert!(bent > 20, "the step is a slope: {bent}");
}

/// Light that comes back to an eye above, of a source above: base color and metallic against diffuse, reflectance and glossiness (Burley 2012; Schlick 1994).
fn lit(diffuse: f32, head_on: f32, roughness: f32) -> f32 {
    let alpha = roughness * roughness;
    diffuse / std::f32::consts::PI + head_on / (4.0 * std::f32::consts::PI * alpha * alpha).max(1e-6)
}

#[test]
fn reflectance_and_glossiness_give_back_the_same_light_as_metallic() {
    let d = half();
    let surface = Surface::new(cube(50.0), 64);
    let highest = evaluate::channels(&d, &surface.piece);
    let of = |key: &str| Layout { size: 64, ..ready::find(key).unwrap().layout(&d, &highest, 1) };
    let (_, glossy) = files_on(&d, &of("reflectance").in_kinds(&[FileKind::Exr]), &surface);
    let (_, metal) = files_on(&d, &of("separate").in_kinds(&[FileKind::Exr]), &surface);
    let rgb = |of: &BTreeMap<String, Vec<u8>>, name: &str| picture(&of[name]).into_rgb32f();
    let (diffuse, reflectance) = (rgb(&glossy, "Crate_diffuse.exr"), rgb(&glossy, "Crate_reflectance.exr"));
    let (gloss, rough) = (rgb(&glossy, "Crate_glossiness.exr"), rgb(&metal, "Crate_roughness.exr"));
    let (base, metallic) = (rgb(&metal, "Crate_base_color.exr"), rgb(&metal, "Crate_metallic.exr"));
    for (_, x, y) in inner(&surface) {
        let (rough, m) = (rough.get_pixel(x, y)[0], metallic.get_pixel(x, y)[0]);
        if m > 0.0 && m < 1.0 {
            continue;
        }
        for c in 0..3 {
            let base = base.get_pixel(x, y)[c];
            let want = lit(base * (1.0 - m), 0.04 + (base - 0.04) * m, rough);
            let have = lit(diffuse.get_pixel(x, y)[c], reflectance.get_pixel(x, y)[c], 1.0 - gloss.get_pixel(x, y)[0]);
            assert!((want - have).abs() < 0.01 * want.max(0.1), "{want} {have}");
        }
    }
}

#[test]
fn every_ready_layout_can_be_written_and_its_manifest_holds_every_file() {
    let surface = Surface::new(cube(50.0), 64);
    let d = half();
    let highest = evaluate::channels(&d, &surface.piece);
    for ready in &ready::READY {
        let layout = Layout { size: 64, ..ready.layout(&d, &highest, 1) };
        let naming = Naming { piece: "Crate", variant: "", revision: "7" };
        let Prepared { plan, finely, plainly } = prepare(&layout, &d, &surface.piece, naming).unwrap();
        // Of a map that is worked out on a finer surface only what reads otherwise at every size is measured there.
        assert!(finely.iter().all(|k| k.kind == "curvature") && plainly.iter().all(|k| k.kind != "curvature"));
        let keys = [finely, plainly].concat();
        assert!(needs(&d, &surface.piece).iter().all(|k| keys.contains(k)));
        let reads =
            |p: &FileRow| p.on && (!p.kind.is_picture() || p.slots.iter().any(|s| s.from.ends_with("occlusion")));
        let occlusion = layout.files.iter().any(reads);
        assert_eq!(keys.iter().any(|k| k.kind == "occlusion"), occlusion, "{}: nobody waits for it unread", ready.key);
        assert_eq!(keys.len() > 1, ready.key == "readings", "{}: {}", ready.key, keys.len());
        let e = evaluated(&d, &surface);
        let mut manifest = Manifest::new(&plan, naming);
        let all = write(&plan, &surface, &e, None);
        plan.files.iter().zip(&all).for_each(|(f, bytes)| manifest.add(f, bytes));
        assert_eq!(manifest.files.len(), plan.files.len());
        for (file, bytes) in plan.files.iter().zip(&all).filter(|(f, _)| f.kind.is_picture() && f.slots.len() < 5) {
            assert_eq!(picture(bytes).width(), 64, "{}", file.name);
        }
        let back: Manifest = serde_json::from_slice(&manifest.json()).unwrap();
        assert_eq!(back, manifest);
        let first = &back.files[0];
        assert_eq!(first.blake3, blake3::hash(&all[0]).to_hex().to_string());
    }
}

#[test]
fn small_maps_read_at_their_own_size_what_reads_alike_at_all_sizes() {
    let rows = vec![row("o", FileKind::Exr, 32, &["reading:occlusion", "reading:edges:broad", "reading:altitude"])];
    let l = Layout { size: 64, ..layout(rows) };
    let (d, piece) = (half(), cube(50.0));
    let (own, finer) = (Surface::new(piece.clone(), 64), Surface::new(piece, 256));
    assert_eq!(surface_size(64, 1), 256);
    let naming = Naming { piece: "Crate", variant: "", revision: "7" };
    let prepared = prepare(&l, &d, &finer.piece, naming).unwrap();
    let mut taken = vec![];
    let take = |keys: &[MeasurementKey], on: &Surface| {
        taken.extend(keys.iter().map(|k| (k.kind, on.atlas.size)));
        Measured::take(keys, on, &Cancel::default(), &silent)
    };
    let read = prepared.measured(&finer, take).unwrap();
    assert_eq!(taken, [("curvature", 256), ("occlusion", 64)]);
    let cache = Cache::new(1 << 26);
    let cancel = Cancel::default();
    let context = Context { surface: &finer, measured: &read, cache: &cache, cancel: &cancel, progress: &silent };
    let job = Handoff { document: &d, context: &context, plan: &prepared.plan, budget: 1 << 20 };
    let mut written = vec![];
    job.write::<EvaluateError>(&mut |_, bytes| {
        written = bytes;
        Ok(())
    })
    .unwrap();
    let rows = picture(&written).into_rgb32f();
    let open = measured(&own, "occlusion", &[]);
    let off = |i: usize, x: u32, y: u32| f64::from((rows.get_pixel(x, y)[0] - open[i]).abs());
    let spots = inner(&own);
    let mean = spots.iter().map(|(i, x, y)| off(*i, *x, *y)).sum::<f64>() / spots.len() as f64;
    assert!(mean < 0.02, "{mean}");
    // An edge is the mean of the finer surface's texels that lie on one of the map's.
    let broad = [("radius", Param::from("broad"))];
    let mean = finer.drawn_down(&measured(&finer, "edges", &broad), 64);
    // Those that lie on a chart as a whole: along its borders the one takes in what lies across the seam, and the other doesn't.
    let whole = own.atlas.area.iter().copied().fold(0.0f32, f32::max) * 0.99;
    let within: Vec<_> = spots.iter().filter(|(i, ..)| own.atlas.area[*i] > whole).collect();
    let apart = |(i, x, y): &&(usize, u32, u32)| f64::from((rows.get_pixel(*x, *y)[1] - mean[*i]).abs());
    let (sum, all): (f64, f64) =
        (within.iter().map(apart).sum(), within.iter().map(|(i, ..)| f64::from(mean[*i])).sum());
    assert!(all > 100.0 && sum < 0.02 * all, "{sum} of {all}");
}

#[test]
fn readings_are_written_as_they_are_measured_and_in_bands_as_well() {
    let rows = vec![
        row("o", FileKind::Exr, 32, &["reading:occlusion", "reading:facing", "reading:altitude"]),
        row("e", FileKind::Png, 16, &["reading:edges:fine"]),
    ];
    let l = Layout { size: 128, ..layout(rows) };
    let piece = cube(50.0);
    let (whole, in_bands) = (Surface::new(piece.clone(), 128), Surface::new(piece, 64));
    let of = |surface: &Surface| files_on(&half(), &l, surface).1;
    let (a, b) = (of(&whole), of(&in_bands));
    let open = measured(&whole, "occlusion", &[]);
    let (a, b) = (picture(&a["Crate_1001_o.exr"]).into_rgb32f(), picture(&b["Crate_1001_o.exr"]).into_rgb32f());
    for (i, x, y) in inner(&whole) {
        let (one, other) = (a.get_pixel(x, y).0, b.get_pixel(x, y).0);
        assert!((one[0] - (1.0 - open[i])).abs() < 1e-4 || (one[0] - open[i]).abs() < 1e-4, "{one:?} of {}", open[i]);
        assert!((0..3).all(|c| (one[c] - other[c]).abs() < 0.1), "{one:?} {other:?}");
    }
}

#[test]
fn one_exr_holds_all_channels_as_layers() {
    let surface = Surface::new(cube(50.0), 64);
    let d = half();
    let l =
        Layout { size: 64, ..ready::find("floats").unwrap().layout(&d, &evaluate::channels(&d, &surface.piece), 1) };
    let (plan, files) = files_on(&d, &l, &surface);
    let name = &plan.files[0].name;
    let reader = read().no_deep_data().largest_resolution_level().all_channels().all_layers();
    let image = reader.all_attributes().from_buffered(std::io::Cursor::new(&files[name])).unwrap();
    let names: Vec<String> = image.layer_data[0].channel_data.list.iter().map(|c| c.name.to_string()).collect();
    for wanted in ["base_color.R", "base_color.B", "normal.X", "height.Y", "metallic.Y", "roughness.Y"] {
        assert!(names.iter().any(|n| n == wanted), "{wanted} in {names:?}");
    }
}

/// Two boxes, each in a UV square of its own.
fn two_sheets() -> Arc<Piece> {
    let mut soup = Soup::default();
    add_box(&mut soup, [0.0; 3], [30.0; 3], [0.0, 0.0, 1.0, 1.0]);
    add_box(&mut soup, [50.0, 0.0, 0.0], [90.0, 20.0, 30.0], [1.0, 0.0, 2.0, 1.0]);
    Arc::new(Piece::build(soup).unwrap())
}

fn scene(map: &str, kind: FileKind) -> FileRow {
    FileRow { map: map.into(), kind, bits: 0, srgb: false, slots: vec![], on: true }
}

#[test]
fn what_a_file_wants_is_written_as_the_layout_lists_it_whether_or_not_it_is_ticked() {
    let off = |map: &str, bits, from: &[&str]| FileRow { on: false, ..row(map, FileKind::Png, bits, from) };
    let rows = vec![
        off("notes", 8, &["reading:edges"]),
        off("colour", 16, &["base_color.r", "base_color.g", "base_color.b"]),
        off("bump", 16, &["normal.x", "normal.y", "normal.z"]),
        off("gone", 8, &["mask:Never there"]),
        scene("dressed", FileKind::Usd),
    ];
    let (plan, files) = files(&half(), &layout(rows));
    let told: Vec<(&str, Option<usize>)> =
        plan.files.iter().filter(|f| f.added).map(|f| (f.map.as_str(), f.row)).collect();
    assert_eq!(told[..2], [("colour", Some(1)), ("bump", Some(2))], "by their own names");
    assert!(told[2..].iter().all(|(map, row)| row.is_none() && *map != "base_color"), "{told:?}");
    assert!(!files.keys().any(|n| n.contains("notes") || n.contains("gone")), "what nothing wants stays off");
    let usda = String::from_utf8(files["Crate_dressed.usda"].clone()).unwrap();
    assert!(usda.contains("Crate_1001_colour.png") && usda.contains("Crate_1001_bump.png"));
}

#[test]
fn a_file_that_no_coat_lays_hides_no_other_of_its_name_and_a_new_one_has_a_name_of_its_own() {
    let mut rows =
        vec![row("picture", FileKind::Png, 8, &["sheen_roughness"]), row("picture", FileKind::Tiff, 8, &["roughness"])];
    rows.push(layout(rows.clone()).fresh_file());
    let (plan, _) = files(&half(), &layout(rows));
    assert_eq!(plan.unlaid, [0]);
    let names: Vec<(&str, Option<usize>)> = plan.files.iter().map(|f| (f.name.as_str(), f.row)).collect();
    assert_eq!(names, [("Crate_1001_picture.tif", Some(1)), ("Crate_1001_picture_2.png", Some(2))]);
}

#[test]
fn floats_that_are_inverted_say_so_in_the_manifest() {
    let mut rows = vec![row("a", FileKind::Exr, 32, &["roughness"]), row("b", FileKind::Exr, 32, &["height"])];
    rows.iter_mut().for_each(|r| r.slots[0].invert = true);
    rows.push(row("c", FileKind::Exr, 32, &["height"]));
    let (plan, files) = files(&half(), &layout(rows));
    let mut manifest = Manifest::new(&plan, Naming { piece: "Crate", variant: "", revision: "7" });
    plan.files.iter().for_each(|f| manifest.add(f, &files[&f.name]));
    let range = |i: usize| manifest.files[i].channels[0].range;
    // 0 in the file is the former, 1 the latter: 1 − v, and −v.
    assert_eq!([range(0), range(1), range(2)], [Some([1.0, 0.0]), Some([0.0, -1.0]), None]);
}

#[test]
fn a_material_names_the_pictures_that_there_are_and_brings_those_that_it_lacks() {
    let mut packed = row("surface", FileKind::Png, 8, &["occlusion", "roughness", "metallic"]);
    packed.slots[1].invert = true;
    let rows = vec![packed, scene("material", FileKind::MaterialX), scene("dressed", FileKind::Usd)];
    let (plan, files) = files(&half(), &layout(rows));
    let added: Vec<&str> = plan.files.iter().filter(|f| f.added).map(|f| f.map.as_str()).collect();
    assert_eq!(added, ["base_color", "normal", "height"], "what lies in a file already isn't written again");
    let text = |name: &str| String::from_utf8(files[name].clone()).unwrap();
    let mtlx = text("Crate_material.mtlx");
    for name in files.keys().filter(|n| n.ends_with(".png")) {
        assert!(mtlx.contains(name), "{name}");
    }
    assert!(mtlx.contains(r#"<input name="index" type="integer" value="1"/>"#), "roughness is the second channel");
    assert!(mtlx.contains("srgb_texture") && mtlx.contains("standard_surface"));
    let usda = text("Crate_dressed.usda");
    assert!(usda.contains("asset inputs:file = @./Crate_1001_surface.png@") && usda.contains("upAxis = \"Y\""));
    assert!(usda.contains("float4 inputs:scale = (-1, -1, -1, -1)"), "glossiness is turned back into roughness");
}

#[test]
fn a_usd_is_read_back_as_the_piece_that_was_written() {
    use dustcoat_core::mesh::import::{MeshLimits, import};
    let surface = Surface::new(two_sheets(), 64);
    let l = layout(vec![scene("dressed", FileKind::Usd)]);
    let (plan, files) = files_on(&half(), &l, &surface);
    let name = plan.files.iter().find(|f| f.kind == FileKind::Usd).unwrap().name.clone();
    let text = String::from_utf8(files[&name].clone()).unwrap();
    assert!(text.contains("@./Crate_<UDIM>_base_color.png@"), "sheets are told by UDIM's numbers alone");
    let back = import(&name, &files[&name], None, MeshLimits::default()).unwrap();
    assert_eq!(back.triangles.len(), surface.piece.triangles.len());
    assert_eq!(back.sheets, surface.piece.sheets);
    for k in 0..3 {
        assert!((back.max[k] - surface.piece.max[k]).abs() < 1e-3, "millimetres, and y up");
    }
}

#[test]
fn a_gltf_with_files_beside_it_opens_with_them() {
    let surface = Surface::new(two_sheets(), 64);
    let (_, files) = files_on(&half(), &layout(vec![scene("dressed", FileKind::Gltf)]), &surface);
    let document = gltf::Gltf::from_slice(&files["Crate_dressed.gltf"]).unwrap();
    let buffer = document.buffers().next().unwrap();
    assert!(matches!(buffer.source(), gltf::buffer::Source::Uri("Crate_dressed.bin")));
    assert_eq!(buffer.length(), files["Crate_dressed.bin"].len());
    let images: Vec<&str> = document
        .images()
        .map(|i| match i.source() {
            gltf::image::Source::Uri { uri, .. } => uri,
            gltf::image::Source::View { .. } => panic!("inside"),
        })
        .collect();
    assert_eq!(images.len(), 6, "three pictures of two sheets");
    assert!(images.iter().all(|i| files.contains_key(*i)), "{images:?}");
}

#[test]
fn kinds_on_the_command_line_give_pictures_in_each_and_scenes_with_what_they_want() {
    let usual = usual(&Document::new("P"), 1);
    let names = |kinds: &[FileKind]| {
        let (plan, _) = files(&half(), &Layout { size: 64, ..usual.in_kinds(kinds) });
        plan.files.into_iter().map(|f| f.name).collect::<Vec<_>>()
    };
    assert_eq!(names(&[FileKind::Glb]), ["Crate_dressed.glb"]);
    let both = names(&[FileKind::Png, FileKind::Exr]);
    assert!(both.contains(&"Crate_orm.png".into()) && both.contains(&"Crate_orm.exr".into()), "{both:?}");
    let usd = names(&[FileKind::Usd]);
    assert!(usd.contains(&"Crate_dressed.usda".into()) && usd.contains(&"Crate_base_color.png".into()), "{usd:?}");
}

#[test]
fn the_check_list_says_what_is_cut_off_bare_or_coarse() {
    let surface = Surface::new(cube(50.0), 64);
    let mut d = half();
    d.layers.remove(0);
    let target = of_channel("l2", "height", "value");
    d = apply(&d, &Edit::SetParam { target, value: Some(2.5.into()) }).unwrap();
    let highest = evaluate::channels(&d, &surface.piece);
    let mut narrow = row("r", FileKind::Png, 8, &["roughness"]);
    narrow.slots[0].range = Some([0.9, 1.0]);
    let l = layout(vec![row("h", FileKind::Png, 16, &["height"]), narrow]);
    let plan = Plan::new(&l, &d, &surface.piece.sheets, &highest, Naming::default()).unwrap();
    let e = evaluated(&d, &surface);
    let said = checks(&plan, &d, &surface.piece, Some((&surface, &e)));
    let has = |words: &str, room: &str| said.iter().any(|c| c.what.contains(words) && c.room == room);
    assert!(has("relief reaches", "handoff") && has("Roughness", "handoff"), "{said:?}");
    assert!(has("covered by no coat", "build") && has("coarser than", "handoff"), "{said:?}");
    // In floats nothing is cut.
    let floats = layout(vec![row("h", FileKind::Exr, 32, &["height"])]);
    let plan = Plan::new(&floats, &d, &surface.piece.sheets, &highest, Naming::default()).unwrap();
    assert!(!checks(&plan, &d, &surface.piece, Some((&surface, &e))).iter().any(|c| c.serious));
}

#[test]
fn all_that_is_offered_can_be_taken() {
    let d = half();
    let highest = evaluate::channels(&d, &cube(50.0));
    let offered = Content::offered(&d, &highest, 1.0);
    for o in &offered {
        let content = Content::parse(&o.from, &d).unwrap_or_else(|e| panic!("{}: {e}", o.from));
        assert_eq!(content.is_color(), o.color, "{}", o.from);
    }
    assert!(offered.iter().any(|o| o.from == "published:upper half"));
    for wrong in ["", "gloss", "base_color", "roughness.r", "mask:", "reading:lustre", "edges", "NaN", "normal.w"] {
        assert!(Content::parse(wrong, &d).is_err(), "{wrong}");
    }
    let sane = |h: &Highest| h.contains_key("roughness");
    assert!(sane(&highest));
}

#[test]
fn a_grey_picture_in_floats_can_be_brought_in_again() {
    use dustcoat_core::raster::picture::{Picture, PictureChannel};
    let (_, files) = files(&half(), &layout(vec![row("m", FileKind::Exr, 16, &["mask:Coat l2"])]));
    let name = "Crate_1001_m.exr";
    let read = Picture::decode(name, &files[name]).unwrap();
    assert_eq!(read.size(), [64, 64]);
    let numbers = read.numbers(PictureChannel::Grey);
    assert!((0..64).any(|i| numbers.nearest([i as f32 / 64.0, 0.5]) == 1.0));
    assert!(Picture::decode(name, &files[name][..200]).is_err());
}

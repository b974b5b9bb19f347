//! Written files, read back by other readers than wrote them.

use std::io::Cursor;
use std::sync::Arc;

use crate::common::{add_box, coat, cube, document, evaluated, measured, of_channel, step, with_context};
use dustcoat_core::bake::Surface;
use dustcoat_core::document::{Document, Edit, FileKind, LayerKind, Layout, apply};
use dustcoat_core::evaluate::{self, Cache, EvaluateError, Highest, LayerCoverage};
use dustcoat_core::handoff::ready::usual;
use dustcoat_core::handoff::sheet::cut;
use dustcoat_core::handoff::{Handoff, HandoffError, Naming, Plan, PlannedFile, surface_size, write};
use dustcoat_core::mask::Join;
use dustcoat_core::mesh::{Piece, Sheet, Soup};
use serde_json::json;

struct Png {
    size: u32,
    bits: png::BitDepth,
    color: png::ColorType,
    srgb: bool,
    bytes: Vec<u8>,
}

fn one_sheet() -> [Sheet; 1] {
    [Sheet { name: "1001".into(), udim: 1001 }]
}

fn read(bytes: &[u8]) -> Png {
    let mut reader = png::Decoder::new(Cursor::new(bytes)).read_info().unwrap();
    let mut out = vec![0; reader.output_buffer_size().unwrap()];
    let info = reader.next_frame(&mut out).unwrap();
    assert_eq!(info.width, info.height);
    Png {
        size: info.width,
        bits: info.bit_depth,
        color: info.color_type,
        srgb: reader.info().srgb.is_some(),
        bytes: out,
    }
}

/// The usual layout of a document at a size, with those of its files alone; a dressed piece is called `glb`.
fn layout(size: u32, maps: Option<&[&str]>) -> Layout {
    let mut layout = usual(&Document::new("P"), 1);
    for row in &mut layout.files {
        let called = if row.kind == FileKind::Glb { "glb" } else { row.map.as_str() };
        row.on = maps.map_or(row.on, |m| m.contains(&called) && (row.kind.is_picture() || row.kind == FileKind::Glb));
    }
    Layout { size, pattern: "{piece}_{sheet}_{map}".into(), ..layout }
}

fn plan(layout: &Layout, d: &Document, sheets: &[Sheet], channels: &Highest) -> Result<Plan, HandoffError> {
    Plan::new(layout, d, sheets, channels, Naming { piece: &d.name, ..Naming::default() })
}

/// The file of a plan that is called so, and its bytes.
fn file<'a>(plan: &'a Plan, bytes: &'a [Vec<u8>], map: &str) -> &'a [u8] {
    let at = plan.files.iter().position(|f| f.map == map).unwrap_or_else(|| panic!("no {map}"));
    &bytes[at]
}

fn written(maps: &[&str]) -> (Surface, Vec<Vec<u8>>) {
    let surface = Surface::new(cube(50.0), 256);
    let steps = vec![step(Join::Replace, "perlin", &[("size", 15.0.into())])];
    let mut d = document(vec![coat("l1", "#3366cc", vec![]), coat("l2", "#cc9933", steps)]);
    let target = of_channel("l2", "height", "value");
    d = apply(&d, &Edit::SetParam { target, value: Some(2.0.into()) }).unwrap();
    let e = evaluated(&d, &surface);
    let occlusion = measured(&surface, "occlusion", &[("rays", 4.0.into())]);
    let plan = plan(&layout(256, Some(maps)), &d, &one_sheet(), &Highest::default()).unwrap();
    let bytes = write(&plan, &surface, &e, Some(&occlusion));
    (surface, bytes)
}

#[test]
fn base_color_is_srgb_and_height_is_sixteen_bits_around_a_middle_grey() {
    let (surface, files) = written(&["base_color", "height"]);
    let (base, height) = (read(&files[0]), read(&files[1]));
    assert_eq!((base.size, base.bits, base.color, base.srgb), (256, png::BitDepth::Eight, png::ColorType::Rgb, true));
    assert_eq!((height.bits, height.color, height.srgb), (png::BitDepth::Sixteen, png::ColorType::Grayscale, false));
    let at = |i: usize| u16::from_be_bytes([height.bytes[2 * i], height.bytes[2 * i + 1]]);
    // At least 0.5 mm at a range of ±1 mm: three quarters of white or more.
    let texel = surface.atlas.texel[surface.atlas.len() / 2] as usize;
    assert!(at(texel) >= 0xBFF0, "{:#x}", at(texel));
    let free = (0..256 * 256)
        .find(|i| surface.atlas.lookup[*i] == u32::MAX && !surface.atlas.gutter.iter().any(|(t, _)| *t as usize == *i));
    if let Some(i) = free {
        assert!(at(i).abs_diff(0x8000) <= 1, "what no chart covers is the mesh's own surface");
    }
}

#[test]
fn normals_point_up_in_one_convention_and_down_in_the_other_and_are_one_long() {
    let (_, files) = written(&["normal", "normal_y_down"]);
    let (up, down) = (read(&files[0]), read(&files[1]));
    let mut bent = 0;
    for (a, b) in up.bytes.chunks_exact(3).zip(down.bytes.chunks_exact(3)) {
        assert!((i32::from(a[1]) + i32::from(b[1]) - 255).abs() <= 1, "green is turned round");
        assert_eq!((a[0], a[2]), (b[0], b[2]));
        let v = [a[0], a[1], a[2]].map(|c| f64::from(c) / 127.5 - 1.0);
        let length = v.iter().map(|x| x * x).sum::<f64>().sqrt();
        assert!((length - 1.0).abs() < 0.02, "{v:?}");
        bent += u32::from(v[2] < 0.99);
    }
    assert!(bent > 1000, "there is relief: {bent}");
}

#[test]
fn the_packed_map_holds_occlusion_roughness_metallic_in_that_order() {
    let (_, files) = written(&["orm"]);
    let orm = read(&files[0]);
    assert!(!orm.srgb, "numbers, not colours");
    for texel in orm.bytes.chunks_exact(3) {
        assert_eq!((texel[1], texel[2]), (64, 255), "roughness ¼, metallic 1");
    }
    assert!(orm.bytes.chunks_exact(3).any(|t| t[0] == 255), "a cube is open");
}

#[test]
fn the_glb_opens_elsewhere_with_its_material_inside() {
    let (surface, files) = written(&["glb"]);
    let (document, buffers, images) = {
        let gltf = gltf::Gltf::from_slice(&files[0]).unwrap();
        let blob = gltf.blob.clone().unwrap();
        let images: Vec<Vec<u8>> = gltf
            .images()
            .map(|i| match i.source() {
                gltf::image::Source::View { view, mime_type } => {
                    assert_eq!(mime_type, "image/png");
                    blob[view.offset()..view.offset() + view.length()].to_vec()
                }
                gltf::image::Source::Uri { uri, .. } => panic!("{uri} lies outside"),
            })
            .collect();
        (gltf.document, blob, images)
    };
    assert_eq!(images.len(), 3);
    assert!(images.iter().all(|i| read(i).size == 256));
    let triangles: usize = document
        .meshes()
        .flat_map(|m| m.primitives().collect::<Vec<_>>())
        .map(|p| {
            let material = p.material();
            let pbr = material.pbr_metallic_roughness();
            let orm = pbr.metallic_roughness_texture().unwrap().texture().index();
            assert_eq!(material.occlusion_texture().unwrap().texture().index(), orm, "one packed map for all three");
            assert!(pbr.base_color_texture().is_some() && material.normal_texture().is_some());
            let reader = p.reader(|_| Some(&buffers));
            assert!(reader.read_tangents().is_some(), "with the tangents that the normals were made in");
            reader.read_indices().unwrap().into_u32().count() / 3
        })
        .sum();
    assert_eq!(triangles, surface.piece.triangles.len());
}

#[test]
fn further_channels_are_packed_written_and_named_in_the_material() {
    let surface = Surface::new(cube(50.0), 64);
    let mut d = document(vec![coat("l1", "#3366cc", vec![])]);
    let LayerKind::Coat { finish } = &mut d.layers[0].kind else { unreachable!() };
    let more = json!({
        "opacity": 0.5, "emissive": "#ff0000", "emissive_strength": 12, "clearcoat": 1.0, "sheen_color": "#336699",
        "anisotropy": 0.5, "ior": 1.33, "transmission": 0.25, "thickness": 4
    });
    for (kind, value) in more.as_object().unwrap() {
        let key = if value.is_string() { "color" } else { "value" };
        let used = serde_json::from_value(json!({"on": true, "settings": {key: value}})).unwrap();
        finish.channels.insert(kind.clone(), used);
    }
    let channels = evaluate::channels(&d, &surface.piece);
    let plain = plan(&layout(64, None), &d, &one_sheet(), &Highest::default()).unwrap();
    let full = plan(&layout(64, None), &d, &one_sheet(), &channels).unwrap();
    assert_eq!((plain.files.len(), full.files.len()), (5, 11), "only what is laid is written");
    let e = evaluated(&d, &surface);
    let bytes = write(&full, &surface, &e, None);
    let of = |map: &str| file(&full, &bytes, map);
    let base = read(of("base_color"));
    assert_eq!((base.color, base.bytes[4 * 900 + 3]), (png::ColorType::Rgba, 128), "opacity is alpha");
    let transmission = read(of("transmission"));
    assert_eq!((transmission.color, &transmission.bytes[2700..2702]), (png::ColorType::Rgb, &[64, 255][..]));

    let glb = gltf::binary::Glb::from_slice(of("dressed")).map(|g| g.json.to_vec()).unwrap();
    let root: serde_json::Value = serde_json::from_slice(&glb).unwrap();
    assert_eq!(root["images"].as_array().unwrap().len(), 9, "three maps and the six");
    let material = &root["materials"][0];
    let (extensions, textures) = (&material["extensions"], root["textures"].as_array().unwrap().len());
    assert_eq!(material["alphaMode"], "BLEND");
    assert_eq!(extensions["KHR_materials_emissive_strength"]["emissiveStrength"], 12.0);
    let ior = extensions["KHR_materials_ior"]["ior"].as_f64().unwrap();
    // The bare piece's own is higher than that of the coat: it is the greatest that there can be.
    assert!((ior - 1.5).abs() < 1e-6, "{ior}");
    assert!((extensions["KHR_materials_volume"]["thicknessFactor"].as_f64().unwrap() - 0.004).abs() < 1e-6, "metres");
    let used: Vec<&str> = root["extensionsUsed"].as_array().unwrap().iter().map(|v| v.as_str().unwrap()).collect();
    for (name, value) in extensions.as_object().unwrap() {
        assert!(used.contains(&name.as_str()), "{name} is announced");
        for (key, texture) in value.as_object().unwrap().iter().filter(|(k, _)| k.ends_with("Texture")) {
            assert!(texture["index"].as_u64().unwrap() < textures as u64, "{name} {key}");
        }
    }
    assert_eq!(used.len(), extensions.as_object().unwrap().len());
    assert!(gltf::Gltf::from_slice(of("dressed")).is_ok(), "another reader takes it");
}

#[test]
fn the_gutter_around_a_chart_carries_its_colour_on() {
    let (surface, files) = written(&["base_color"]);
    let base = read(&files[0]);
    let at = |i: usize| &base.bytes[3 * i..3 * i + 3];
    for (texel, from) in &surface.atlas.gutter {
        assert_eq!(at(*texel as usize), at(surface.atlas.texel[*from as usize] as usize));
    }
}

/// Two boxes, each in a UV square of its own.
fn two_sheets() -> Arc<Piece> {
    let mut soup = Soup::default();
    add_box(&mut soup, [0.0; 3], [30.0; 3], [0.0, 0.0, 1.0, 1.0]);
    add_box(&mut soup, [50.0, 0.0, 0.0], [90.0, 20.0, 30.0], [1.0, 0.0, 2.0, 1.0]);
    Arc::new(Piece::build(soup).unwrap())
}

/// The files of a document at 512, and the coverage, worked out on a surface of that size or less; bands are as low as they get.
fn at_512(d: &Document, on: u32) -> (Vec<(PlannedFile, Vec<u8>)>, Vec<LayerCoverage>) {
    let surface = Surface::new(two_sheets(), on);
    let mut all = layout(512, None);
    all.files.iter_mut().filter(|f| f.map == "normal_y_down").for_each(|f| f.on = true);
    let plan = plan(&all, d, &surface.piece.sheets, &Highest::default()).unwrap();
    let mut out = vec![];
    let coverage = with_context(d, &surface, &Cache::new(1 << 28), |context| {
        let job = Handoff { document: d, context, plan: &plan, budget: 0 };
        job.write::<EvaluateError>(&mut |file, bytes| {
            out.push((file.clone(), bytes));
            Ok(())
        })
        .unwrap()
    });
    out.sort_by(|a, b| a.0.name.cmp(&b.0.name));
    (out, coverage)
}

fn weathered(around: bool) -> Document {
    let mut steps = vec![
        step(Join::Replace, "perlin", &[("size", 15.0.into())]),
        step(Join::Multiply, "facing", &[]),
        step(Join::Replace, "levels", &[("black", 0.1.into()), ("white", 0.6.into())]),
    ];
    if around {
        steps.push(step(Join::Add, "edges", &[]));
        steps.push(step(Join::Replace, "blur", &[("radius", 0.6.into())]));
        steps.push(step(Join::Replace, "grow", &[("by", 1.0.into()), ("softness", 0.4.into())]));
        steps.push(step(Join::Multiply, "worley", &[("size", 9.0.into())]));
    }
    let mut d = document(vec![coat("l1", "#3366cc", vec![]), coat("l2", "#cc9933", steps)]);
    d.layers[1].publish = Some("weather".into());
    d.layers.push(coat("l3", "#222222", vec![step(Join::Replace, "follow", &[("name", "weather".into())])]));
    d.layers[2].opacity = 0.5.into();
    d
}

#[test]
fn bands_hold_what_the_whole_holds_where_nothing_looks_around() {
    let d = weathered(false);
    let ((whole, covered), (banded, in_bands)) = (at_512(&d, 512), at_512(&d, 128));
    assert_eq!(whole.len(), 11, "five maps of two sheets, and a dressed piece");
    for ((file, a), (other, b)) in whole.iter().zip(&banded) {
        assert_eq!(file, other);
        if file.kind == FileKind::Glb {
            let pictures = |bytes: &[u8]| gltf::Gltf::from_slice(bytes).unwrap().images().len();
            assert_eq!(pictures(a), pictures(b));
            continue;
        }
        let (a, b) = (read(a), read(b));
        assert_eq!((a.size, a.bits, a.srgb), (b.size, b.bits, b.srgb));
        if !file.map.starts_with("normal") {
            assert!(a.bytes == b.bytes, "{}", file.name);
            continue;
        }
        // Slopes across a seam are taken from places there, and not between texels as on the whole: nearly the same.
        let apart = |(a, b): (&[u8], &[u8])| a.iter().zip(b).map(|(a, b)| a.abs_diff(*b)).max().unwrap();
        let unlike = a.bytes.chunks_exact(3).zip(b.bytes.chunks_exact(3)).filter(|p| apart(*p) > 2).count();
        let apart: u64 = a.bytes.iter().zip(&b.bytes).map(|(a, b)| u64::from(a.abs_diff(*b))).sum();
        assert!(unlike < 512 * 512 / 50 && apart < 2 * 512 * 512, "{}: {unlike}, {apart}", file.name);
    }
    for (a, b) in covered.iter().zip(&in_bands) {
        assert!((a.mask - b.mask).abs() < 1e-4 && (a.visible - b.visible).abs() < 1e-4, "{a:?} {b:?}");
    }
}

#[test]
fn what_looks_around_or_is_measured_looks_the_same_in_bands() {
    let d = weathered(true);
    let ((whole, covered), (banded, in_bands)) = (at_512(&d, 512), at_512(&d, 256));
    for ((file, a), (_, b)) in
        whole.iter().zip(&banded).filter(|(a, _)| ["base_color", "orm"].contains(&a.0.map.as_str()))
    {
        let (a, b) = (read(a), read(b));
        let sum: u64 = a.bytes.iter().zip(&b.bytes).map(|(a, b)| u64::from(a.abs_diff(*b))).sum();
        let mean = sum as f64 / a.bytes.len() as f64;
        assert!(mean < 2.0, "{}: {mean} of 255", file.name);
        assert!(file.map != "base_color" || mean > 0.0, "it is worked out elsewhere");
    }
    for (a, b) in covered.iter().zip(&in_bands) {
        assert!((a.mask - b.mask).abs() < 0.01 && (a.visible - b.visible).abs() < 0.01, "{a:?} {b:?}");
    }
    assert!((0.02..0.9).contains(&covered[1].mask), "{}", covered[1].mask);
}

#[test]
fn a_hand_off_in_bands_stops_when_asked_and_refuses_more_texels_than_there_are_numbers() {
    let (d, surface, cache) = (weathered(false), Surface::new(two_sheets(), 64), Cache::new(1 << 20));
    let in_bands = plan(&layout(512, None), &d, &surface.piece.sheets, &Highest::default()).unwrap();
    with_context(&d, &surface, &cache, |context| {
        let job = Handoff { document: &d, context, plan: &in_bands, budget: 0 };
        let stop = job.write::<EvaluateError>(&mut |_, _| {
            context.cancel.cancel();
            Ok(())
        });
        assert!(matches!(stop, Err(EvaluateError::Cancelled(_))));
    });
    let many: Vec<Sheet> = (1001..1101).map(|udim| Sheet { name: udim.to_string(), udim }).collect();
    let large = |sheets: &[Sheet]| plan(&layout(8192, None), &d, sheets, &Highest::default()).map(|_| ());
    assert_eq!(large(&many), Err(HandoffError::TooMany(100, 8192)));
    assert!(large(&one_sheet()).is_ok());
}

#[test]
fn small_maps_are_worked_out_on_a_finer_surface_that_is_no_larger_than_the_largest() {
    let of_one = [64, 128, 256, 512, 1024, 2048, 4096, 8192].map(|size| surface_size(size, 1));
    assert_eq!(of_one, [256, 512, 1024, 2048, 2048, 2048, 4096, 4096]);
    assert_eq!([surface_size(1024, 4), surface_size(1024, 5)], [2048, 1024], "as much as four sheets of 2048 hold");
    assert_eq!([surface_size(256, 16), surface_size(256, 17)], [1024, 256]);
}

#[test]
fn names_follow_the_pattern_and_clashes_are_refused() {
    let d = Document::new("Gate/valve: 7");
    let of = |pattern: &str, maps: Option<&[&str]>| Layout { pattern: pattern.into(), ..layout(1024, maps) };
    let planned = |layout: &Layout| plan(layout, &d, &one_sheet(), &Highest::default());
    let names = |layout: &Layout| planned(layout).unwrap().files.into_iter().map(|f| f.name).collect::<Vec<_>>();
    let all = names(&of("{piece}.{sheet}.{map}-{size}", None));
    assert_eq!(all[0], "Gate_valve__7.1001.base_color-1024.png");
    assert_eq!(all[4], "Gate_valve__7.dressed-1024.glb", "a file for the whole piece has no sheet");
    assert_eq!(names(&of("{piece}_{variant}_{map}", Some(&["orm"]))), ["Gate_valve__7_orm.png"], "no variant, no gap");
    let naming = Naming { piece: "P", variant: "Left out", revision: "12" };
    let l = of("{piece}-{variant}-r{revision}-{map}", Some(&["orm"]));
    let varied = Plan::new(&l, &d, &one_sheet(), &Highest::default(), naming).unwrap();
    assert_eq!(varied.files[0].name, "P-Left_out-r12-orm.png");

    let refused = |l: Layout| planned(&l).map(|_| ()).unwrap_err();
    let clash = of("{piece}", Some(&["orm", "normal"]));
    assert_eq!(refused(clash), HandoffError::SameName("Gate_valve__7.png".into()));
    assert_eq!(refused(of("{piece}", Some(&[]))), HandoffError::Nothing);
    assert_eq!(refused(of("..", Some(&["orm"]))), HandoffError::Pattern("..".into()));
    assert_eq!(refused(layout(1000, None)), HandoffError::Size(1000));
    assert_eq!(refused(Layout { height_range: f32::NAN, ..layout(64, None) }), HandoffError::Range);
    let changed = |change: fn(&mut dustcoat_core::document::FileRow)| {
        let mut l = layout(64, Some(&["orm"]));
        l.files.iter_mut().filter(|f| f.map == "orm").for_each(change);
        refused(l)
    };
    assert_eq!(changed(|f| f.slots[0].from = "mask:Gone".into()), HandoffError::UnknownContent("mask:Gone".into()));
    let mut unticked = layout(64, Some(&["normal"]));
    unticked.files.iter_mut().filter(|f| f.map == "orm").for_each(|f| f.slots[0].from = "mask:Gone".into());
    assert_eq!(names(&unticked).len(), 1, "what isn't ticked may ask for what is gone");
    assert!(matches!(changed(|f| f.bits = 32), HandoffError::Depth { .. }));
    assert!(matches!(changed(|f| f.slots.clear()), HandoffError::Channels { .. }));
    assert!(matches!(changed(|f| f.slots[1].range = Some([0.5, 0.5])), HandoffError::SlotRange { .. }));
    let two = |f: &mut dustcoat_core::document::FileRow| {
        f.slots.pop();
        f.kind = FileKind::Tiff;
    };
    assert!(matches!(changed(two), HandoffError::Channels { .. }), "no TIFF has two");
    let climb = names(&of("../../{map}", Some(&["orm"])));
    assert!(!climb[0].contains('/') && !climb[0].starts_with('.'), "{}", climb[0]);
}

#[test]
fn the_height_that_fits_is_short_and_never_too_low() {
    use dustcoat_core::handoff::height_that_fits;
    for (range, fits) in
        [([0.0, 0.34], 0.34), ([-2.31, 1.0], 2.4), ([0.0, 14.2], 15.0), ([0.0, 0.0], 0.01), ([-500.0, 0.0], 100.0)]
    {
        let found = height_that_fits(range);
        assert!((found - fits).abs() < 1e-4, "{range:?}: {found} for {fits}");
    }
}

#[test]
fn words_that_are_too_long_keep_their_value() {
    assert_eq!(cut("Wear 0.5", 17), "Wear 0.5");
    assert_eq!(cut("Years on the sluice 0.5", 17), "Years on th.. 0.5");
    assert_eq!(cut("Years on the sluice 0.5", 14), "Years on.. 0.5");
    assert_eq!(cut("Unforeseeable", 9), "Unfores..", "a single word");
    assert_eq!(cut("Finish unforeseeable", 9), "Finish..", "a value that leaves no room");
}

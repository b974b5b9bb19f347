//! Mesh files of every kind, and what lies beside them, made here and read back.

use std::io::{Cursor, Write};

use dustcoat_core::mesh::import::{MeshLimits, bare, import, pictures};
use dustcoat_core::mesh::{MeshError, Piece, Unit};
use proptest::prelude::*;
use serde_json::{Value, json};

fn read(name: &str, bytes: &[u8]) -> Result<Piece, MeshError> {
    import(name, bytes, Some(Unit::Mm), MeshLimits::default())
}

fn zip(files: &[(&str, &[u8])]) -> Vec<u8> {
    let mut out = zip::ZipWriter::new(Cursor::new(Vec::new()));
    for (name, bytes) in files {
        out.start_file(*name, zip::write::SimpleFileOptions::default()).unwrap();
        out.write_all(bytes).unwrap();
    }
    out.finish().unwrap().into_inner()
}

const TRIANGLE: &str = "v 0 0 0\nv 10 0 0\nv 0 10 0\nvt 0 0\nvt 1 0\nvt 0 1\n";

#[test]
fn an_obj_takes_the_colours_of_its_library_and_of_its_vertices() {
    let obj = format!("mtllib lib/paint.mtl\n{TRIANGLE}usemtl Enamel\nf 1/1 2/2 3/3\n");
    let mtl = b"newmtl Enamel\nKd 1 0.5 0\nnewmtl unused\nKd 0 0 1\n";
    let piece = read("a.zip", &zip(&[("prop/a.obj", obj.as_bytes()), ("prop/lib/paint.mtl", mtl)])).unwrap();
    assert_eq!((piece.parts.len(), piece.parts[0].name.as_str()), (1, "Enamel"));
    assert_eq!(piece.parts[0].color, "#ff8000");
    let colored = "v 0 0 0 1 0 0\nv 10 0 0 1 0 0\nv 0 10 0 0 0 1\nvt 0 0\nvt 1 0\nvt 0 1\nf 1/1 2/2 3/3\n";
    let piece = read("a.obj", colored.as_bytes()).unwrap();
    let mut colors = piece.colors.clone();
    colors.sort_unstable();
    assert_eq!(colors, [[0, 0, 255], [255, 0, 0], [255, 0, 0]]);
    assert!(read("b.obj", format!("{TRIANGLE}f 1/1 2/2 3/3\n").as_bytes()).unwrap().colors.is_empty());
}

/// A quadrilateral with normals, UVs and colours, in each of PLY's three encodings.
fn ply(format: &str) -> Vec<u8> {
    let head = format!(
        "ply\nformat {format} 1.0\ncomment made here\nelement vertex 4\nproperty float x\nproperty float y\nproperty double z\n\
         property float s\nproperty float t\nproperty uchar red\nproperty uchar green\nproperty uchar blue\n\
         element face 1\nproperty list uchar int vertex_indices\nend_header\n"
    );
    let mut out = head.into_bytes();
    let vertices = [(0f32, 0f32, 0f64), (10.0, 0.0, 0.0), (10.0, 10.0, 0.0), (0.0, 10.0, 0.0)];
    for (x, y, z) in vertices {
        let (s, t) = (x / 10.0, y / 10.0);
        match format {
            "ascii" => out.extend(format!("{x} {y} {z} {s} {t} 200 100 50\n").bytes()),
            "binary_little_endian" => {
                [x, y].iter().for_each(|v| out.extend(v.to_le_bytes()));
                out.extend(z.to_le_bytes());
                [s, t].iter().for_each(|v| out.extend(v.to_le_bytes()));
                out.extend([200, 100, 50]);
            }
            _ => {
                [x, y].iter().for_each(|v| out.extend(v.to_be_bytes()));
                out.extend(z.to_be_bytes());
                [s, t].iter().for_each(|v| out.extend(v.to_be_bytes()));
                out.extend([200, 100, 50]);
            }
        }
    }
    match format {
        "ascii" => out.extend(b"4 0 1 2 3\n"),
        _ => {
            out.push(4);
            for i in 0..4i32 {
                out.extend(if format == "binary_little_endian" { i.to_le_bytes() } else { i.to_be_bytes() });
            }
        }
    }
    out
}

#[test]
fn ply_is_read_in_all_its_encodings() {
    for format in ["ascii", "binary_little_endian", "binary_big_endian"] {
        let piece = read("quad.ply", &ply(format)).unwrap();
        assert_eq!(piece.triangles.len(), 2, "{format}: the quadrilateral is split");
        assert!((piece.parts[0].area - 100.0).abs() < 1e-3, "{format}");
        assert!(piece.colors.iter().all(|c| *c == [200, 100, 50]), "{format}");
        let low = piece.positions.iter().position(|p| p[1] == 0.0 && p[0] == 0.0).unwrap();
        assert_eq!(piece.uvs[low], [0.0, 1.0], "{format}: v runs down inside");
    }
    let cut = &ply("binary_little_endian")[..250];
    assert!(read("cut.ply", cut).is_err());
    let many = String::from_utf8(ply("ascii")).unwrap().replace("element face 1", "element face 4000000000");
    assert!(matches!(read("many.ply", many.as_bytes()), Err(MeshError::TooLarge { .. })));
    let wrong = String::from_utf8(ply("ascii")).unwrap().replace("4 0 1 2 3", "4 0 1 2 9");
    assert!(read("wrong.ply", wrong.as_bytes()).unwrap_err().to_string().contains("not there"));
}

#[test]
fn stl_is_read_as_text_and_as_bytes_and_unwrapped() {
    let text = "solid s\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 10 0 0\nvertex 0 10 0\nendloop\nendfacet\nendsolid s\n";
    let mut bytes = vec![0u8; 80];
    bytes.extend(1u32.to_le_bytes());
    for v in [0f32, 0.0, 1.0, 0.0, 0.0, 0.0, 10.0, 0.0, 0.0, 0.0, 10.0, 0.0] {
        bytes.extend(v.to_le_bytes());
    }
    bytes.extend([0, 0]);
    for (name, file) in [("text.stl", text.as_bytes()), ("bytes.stl", bytes.as_slice())] {
        let piece = read(name, file).unwrap_or_else(|e| panic!("{name}: {e}"));
        assert!((piece.parts[0].area - 50.0).abs() < 1e-3, "{name}");
        assert!(piece.findings.iter().any(|f| f.what.contains("unwrapped here")), "{name}");
    }
}

/// A glTF of one triangle whose accessors have the given component types, with `extra` merged into the root.
fn gltf(uv: (u32, &[u8]), index: (u32, &[u8]), color: (u32, &str, &[u8]), uri: Option<&str>) -> (Value, Vec<u8>) {
    let mut bin = vec![];
    let mut views = vec![];
    let mut add = |bytes: &[u8]| {
        while bin.len() % 4 != 0 {
            bin.push(0);
        }
        views.push(json!({"buffer": 0, "byteOffset": bin.len(), "byteLength": bytes.len()}));
        bin.extend_from_slice(bytes);
    };
    let positions: Vec<u8> =
        [0f32, 0.0, 0.0, 10.0, 0.0, 0.0, 0.0, 10.0, 0.0].iter().flat_map(|v| v.to_le_bytes()).collect();
    add(&positions);
    add(uv.1);
    add(index.1);
    add(color.2);
    let mut buffer = json!({"byteLength": bin.len()});
    if let Some(uri) = uri {
        buffer["uri"] = uri.into();
    }
    let normalized = uv.0 != 5126;
    let root = json!({
        "asset": {"version": "2.0"}, "scene": 0, "scenes": [{"nodes": [0]}], "nodes": [{"mesh": 0}],
        "meshes": [{"primitives": [{"attributes": {"POSITION": 0, "TEXCOORD_0": 1, "COLOR_0": 3}, "indices": 2, "material": 0}]}],
        "materials": [{"name": "Paint", "pbrMetallicRoughness": {"baseColorFactor": [0.2158605, 0.0, 1.0, 1.0]}}],
        "accessors": [
            {"bufferView": 0, "componentType": 5126, "count": 3, "type": "VEC3", "min": [0, 0, 0], "max": [10, 10, 0]},
            {"bufferView": 1, "componentType": uv.0, "count": 3, "type": "VEC2", "normalized": normalized},
            {"bufferView": 2, "componentType": index.0, "count": 3, "type": "SCALAR"},
            {"bufferView": 3, "componentType": color.0, "count": 3, "type": color.1, "normalized": color.0 != 5126},
        ],
        "bufferViews": views, "buffers": [buffer],
    });
    (root, bin)
}

fn glb(root: &Value, bin: &[u8]) -> Vec<u8> {
    let glb = gltf::binary::Glb {
        header: gltf::binary::Header { magic: *b"glTF", version: 2, length: 0 },
        json: root.to_string().into_bytes().into(),
        bin: Some(bin.to_vec().into()),
    };
    glb.to_vec().unwrap()
}

fn le<T: Copy>(of: &[T], bytes: impl Fn(T) -> Vec<u8>) -> Vec<u8> {
    of.iter().flat_map(|v| bytes(*v)).collect()
}

#[test]
fn gltf_is_read_with_every_type_that_its_accessors_may_have() {
    let uvs: [(u32, Vec<u8>); 3] = [
        (5126, le(&[0f32, 1.0, 1.0, 1.0, 0.0, 0.0], |v| v.to_le_bytes().to_vec())),
        // Bytes and shorts are padded to four bytes a vertex by a stride of none: two of them are four bytes and two.
        (5123, le(&[0u16, 65535, 65535, 65535, 0, 0], |v| v.to_le_bytes().to_vec())),
        (5121, vec![0, 255, 255, 255, 0, 0]),
    ];
    let indices: [(u32, Vec<u8>); 3] = [
        (5121, vec![0, 1, 2]),
        (5123, le(&[0u16, 1, 2], |v| v.to_le_bytes().to_vec())),
        (5125, le(&[0u32, 1, 2], |v| v.to_le_bytes().to_vec())),
    ];
    let colors: [(u32, &str, Vec<u8>); 3] = [
        (5126, "VEC3", le(&[1f32, 0.0, 0.2158605].repeat(3), |v| v.to_le_bytes().to_vec())),
        (5121, "VEC4", [255u8, 0, 55, 255].repeat(3)),
        (5123, "VEC4", le(&[65535u16, 0, 14146, 65535].repeat(3), |v| v.to_le_bytes().to_vec())),
    ];
    for uv in &uvs {
        for index in &indices {
            for color in &colors {
                let (root, bin) = gltf((uv.0, &uv.1), (index.0, &index.1), (color.0, color.1, &color.2), None);
                let piece =
                    read("a.glb", &glb(&root, &bin)).unwrap_or_else(|e| panic!("{uv:?} {index:?} {color:?}: {e}"));
                assert_eq!(piece.triangles.len(), 1);
                let right = piece.positions.iter().position(|p| p[0] > 5.0).unwrap();
                assert_eq!(piece.uvs[right], [1.0, 1.0], "{uv:?}");
                let c = piece.colors[0];
                assert!(c[0] == 255 && c[1] == 0 && c[2].abs_diff(128) <= 1, "linear colours become sRGB: {c:?}");
                assert_eq!((piece.parts[0].name.as_str(), piece.parts[0].color.as_str()), ("Paint", "#8000ff"));
            }
        }
    }
}

fn plain() -> (Value, Vec<u8>) {
    let uv = le(&[0f32, 1.0, 1.0, 1.0, 0.0, 0.0], |v| v.to_le_bytes().to_vec());
    let color = le(&[1f32, 1.0, 1.0].repeat(3), |v| v.to_le_bytes().to_vec());
    gltf((5126, &uv), (5121, &[0, 1, 2]), (5126, "VEC3", &color), Some("parts/a%20b.bin"))
}

#[test]
fn sparse_accessors_nodes_and_instances_are_followed() {
    let (mut root, mut bin) = plain();
    root["buffers"][0].as_object_mut().unwrap().remove("uri");
    // Vertex 1 is moved to x = 20 by a sparse accessor.
    while bin.len() % 4 != 0 {
        bin.push(0);
    }
    let at = bin.len();
    bin.extend([1, 0, 0, 0]);
    bin.extend([20f32, 0.0, 0.0].iter().flat_map(|v| v.to_le_bytes()));
    let views = root["bufferViews"].as_array_mut().unwrap();
    let first = views.len();
    views.push(json!({"buffer": 0, "byteOffset": at, "byteLength": 1}));
    views.push(json!({"buffer": 0, "byteOffset": at + 4, "byteLength": 12}));
    root["buffers"][0]["byteLength"] = bin.len().into();
    root["accessors"][0]["sparse"] = json!({
        "count": 1, "indices": {"bufferView": first, "componentType": 5121}, "values": {"bufferView": first + 1},
    });
    root["accessors"][0]["max"] = json!([20, 10, 0]);
    // Two instances, one of them turned, scaled and mirrored, below a moved parent.
    root["nodes"] = json!([
        {"children": [1, 2], "translation": [0, 0, 5]},
        {"mesh": 0},
        {"mesh": 0, "translation": [100, 0, 0], "rotation": [0, 0, 0.70710677, 0.70710677], "scale": [2, -1, 1]},
    ]);
    let piece = read("a.glb", &glb(&root, &bin)).unwrap();
    assert_eq!((piece.triangles.len(), piece.shells), (2, 2));
    assert!((piece.parts[0].area - (100.0 + 200.0)).abs() < 1e-2, "{}", piece.parts[0].area);
    assert!(piece.positions.iter().all(|p| (p[2] - 5.0).abs() < 1e-4));
    // Turned by 90°, x becomes y: 20 × 2 up from x = 100; mirrored y becomes +x.
    assert!((piece.max[1] - 40.0).abs() < 1e-3 && (piece.max[0] - 110.0).abs() < 1e-3, "{:?}", piece.max);
    for t in 0..2 {
        assert!(piece.face_normal(t).z > 0.99, "a mirrored instance is not turned inside out");
    }
}

#[test]
fn a_gltf_finds_its_buffers_in_its_folder_and_nowhere_else() {
    let (root, bin) = plain();
    let text = root.to_string().into_bytes();
    let together =
        zip(&[("m/a.gltf", &text), ("m/parts/a b.bin", &bin), ("__MACOSX/x.obj", b"junk"), ("m/.hidden.obj", b"junk")]);
    assert_eq!(read("m.zip", &together).unwrap().triangles.len(), 1);
    let alone = read("a.gltf", &text).unwrap_err().to_string();
    assert!(alone.contains("parts/a%20b.bin") && alone.contains("folder"), "{alone}");
    for uri in [
        "../secret.bin",
        "../../etc/passwd",
        "/etc/passwd",
        "file:///etc/passwd",
        "C:\\secret.bin",
        "https://x.invalid/a.bin",
    ] {
        let mut outside = root.clone();
        outside["buffers"][0]["uri"] = uri.into();
        let packed = zip(&[("m/a.gltf", outside.to_string().as_bytes()), ("secret.bin", &bin[..4])]);
        let error = read("m.zip", &packed).unwrap_err().to_string();
        assert!(!error.is_empty(), "{uri}");
    }
    assert!(read("m.zip", &zip(&[("readme.txt", b"hello")])).unwrap_err().to_string().contains("no mesh"));
    let bomb = zip(&[("a.obj", &vec![b'#'; 3 << 20])]);
    let limits = MeshLimits { bytes: 1 << 20, ..MeshLimits::default() };
    assert!(
        matches!(import("a.zip", &bomb, None, limits), Err(MeshError::TooLarge { .. })),
        "unpacked, it is too large"
    );
}

#[test]
fn the_pictures_that_come_with_a_mesh_are_found_and_told_apart() {
    let (mut root, mut bin) = plain();
    root["buffers"][0].as_object_mut().unwrap().remove("uri");
    let views = root["bufferViews"].as_array_mut().unwrap();
    for picture in [b"\x89PNG-normal".as_slice(), b"\x89PNG-orm"] {
        views.push(json!({"buffer": 0, "byteOffset": bin.len(), "byteLength": picture.len()}));
        bin.extend_from_slice(picture);
    }
    root["buffers"][0]["byteLength"] = bin.len().into();
    root["images"] = json!([{"bufferView": 4, "mimeType": "image/png"}, {"bufferView": 5, "mimeType": "image/png"}]);
    root["textures"] = json!([{"source": 0}, {"source": 1}]);
    root["materials"][0]["normalTexture"] = json!({"index": 0});
    root["materials"][0]["occlusionTexture"] = json!({"index": 1});
    root["materials"][0]["pbrMetallicRoughness"]["metallicRoughnessTexture"] = json!({"index": 1});
    let found = pictures("a.glb", &glb(&root, &bin), MeshLimits::default()).unwrap();
    let told: Vec<_> = found.iter().map(|f| (f.name.as_str(), f.purpose)).collect();
    assert_eq!(told, [("Paint, normal", Some("normal")), ("Paint, occlusion", Some("occlusion"))]);
    let obj = format!("{TRIANGLE}f 1/1 2/2 3/3\n");
    let folder = zip(&[("a.obj", obj.as_bytes()), ("maps/valve_id.png", b"\x89PNG"), ("notes.txt", b"x")]);
    let found = pictures("a.zip", &folder, MeshLimits::default()).unwrap();
    assert_eq!(found.iter().map(|f| f.name.as_str()).collect::<Vec<_>>(), ["valve_id.png"]);
}

#[test]
fn what_is_wrong_with_a_mesh_is_found_and_said() {
    let says = |obj: &str, words: &str| {
        let piece = read("a.obj", obj.as_bytes()).unwrap();
        assert!(
            piece.findings.iter().any(|f| f.what.contains(words) && !f.remedy.is_empty()),
            "{words}: {:?}",
            piece.findings
        );
    };
    let uv = "vt 0 0\nvt 1 0\nvt 0 1\n";
    says(
        &format!("v 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 -1 0\nv 0 0 1\n{uv}f 1/1 2/2 3/3\nf 2/1 1/2 4/3\nf 1/1 2/2 5/3\n"),
        "non-manifold",
    );
    says(&format!("v 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 -1 0\n{uv}f 1/1 2/2 3/3\nf 1/1 2/2 4/3\n"), "mixed winding");
    says(&format!("v 0 0 0\nv 1 0 0\nv 0 1 0\n{uv}f 1/1 2/2 3/3\nf 1/1 2/2 3/3\n"), "exactly on another");
    says(&format!("v 0 0 0\nv 1 0 0\nv 0 1 0\n{uv}f 1/1 2/2 3/3\n"), "open");
    says("v 0 0 0\nv 1 0 0\nv 0 1 0\nvt 0 0\nvt 1 1\nf 1/1 2/2 3/2\n", "no area in its UVs");
    says("v 0 0 0\nv 9 0 0\nv 0 9 0\nvt 0 0\nvt 5 0\nvt 0 5\nf 1/1 2/2 3/3\n", "reach out of their UV tile");
    // A closed box turned inside out.
    let mut soup = dustcoat_core::mesh::Soup::default();
    crate::common::add_box(&mut soup, [0.0; 3], [10.0; 3], [0.0, 0.0, 1.0, 1.0]);
    assert!(!Piece::build(soup.clone()).unwrap().findings.iter().any(|f| f.what.contains("inside out")));
    for t in soup.positions.chunks_exact_mut(3) {
        t.swap(0, 1);
    }
    assert!(Piece::build(soup).unwrap().findings.iter().any(|f| f.what.contains("inside out")));
}

#[test]
fn tiny_huge_and_strangely_named_meshes_are_survived() {
    let at = |scale: f64, name: &str| {
        let v = |x: f64, y: f64| format!("v {} {} 0\n", x * scale, y * scale);
        format!("{}{}{}vt 0 0\nvt 1 0\nvt 0 1\nusemtl {name}\nf 1/1 2/2 3/3\n", v(0.0, 0.0), v(1.0, 0.0), v(0.0, 1.0))
    };
    for (scale, name) in [(1e-9, "κύτος/α"), (1e9, "a/b\\c"), (1.0, "錆 3")] {
        let piece = read("x.obj", at(scale, name).as_bytes()).unwrap_or_else(|e| panic!("{scale}: {e}"));
        assert_eq!(piece.parts[0].name, name);
        let surface = dustcoat_core::bake::Surface::new(std::sync::Arc::new(piece), 64);
        let open = crate::common::measured(&surface, "occlusion", &[("rays", 4.0.into())]);
        assert!(open.iter().all(|v| (0.0..=1.0).contains(v)), "{scale}");
        let edges = crate::common::measured(&surface, "edges", &[("rays", 4.0.into())]);
        assert!(edges.iter().all(|v| (0.0..=1.0).contains(v)), "{scale}");
        let odd = scale != 1.0;
        assert_eq!(surface.piece.findings.iter().any(|f| f.remedy.contains("unit")), odd, "{scale}");
    }
    assert!(read("far.obj", at(1e14, "a").as_bytes()).is_err());
    // A sliver without UVs: a kilometre long, with next to no area, is unwrapped without overflow.
    let sliver = read("sliver.obj", b"v 0 0 0\nv 1e6 0 0\nv 1e6 1e-9 0\nf 1 2 3\n");
    assert!(sliver.is_err() || sliver.unwrap().uvs.iter().flatten().all(|v| (0.0..=1.0).contains(v)));
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 200, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn no_damage_brings_a_reader_down(
        kind in 0..5usize,
        flips in prop::collection::vec((any::<prop::sample::Index>(), any::<u8>()), 1..16),
        cut in any::<prop::sample::Index>(),
    ) {
        let (root, bin) = plain();
        let text = root.to_string().into_bytes();
        let (name, mut bytes) = match kind {
            0 => ("a.ply", ply("ascii")),
            1 => ("a.ply", ply("binary_big_endian")),
            2 => ("a.stl", { let mut b = vec![0u8; 80]; b.extend(2u32.to_le_bytes()); b.extend([7u8; 100]); b }),
            3 => ("a.zip", zip(&[("a.gltf", &text), ("parts/a b.bin", &bin)])),
            _ => ("a.glb", glb(&root, &bin)),
        };
        for (at, v) in flips {
            let i = at.index(bytes.len());
            bytes[i] ^= v;
        }
        let _ = read(name, &bytes);
        let _ = bare(name, &bytes, None, MeshLimits::default());
        let _ = pictures(name, &bytes, MeshLimits::default());
        bytes.truncate(cut.index(bytes.len()));
        let _ = read(name, &bytes);
    }

    #[test]
    fn no_damage_brings_the_picture_reader_down(flips in prop::collection::vec((any::<prop::sample::Index>(), any::<u8>()), 0..12), kind in 0..6usize) {
        use dustcoat_core::raster::picture::Picture;
        use image::{DynamicImage, ImageFormat};
        let formats = [ImageFormat::Png, ImageFormat::Jpeg, ImageFormat::WebP, ImageFormat::Tiff, ImageFormat::OpenExr, ImageFormat::Hdr];
        let mut out = Cursor::new(Vec::new());
        let plain = DynamicImage::ImageRgb8(image::RgbImage::from_fn(9, 7, |x, y| image::Rgb([x as u8 * 20, y as u8 * 30, 90])));
        let whole = if kind >= 4 { DynamicImage::ImageRgb32F(plain.to_rgb32f()) } else { plain };
        whole.write_to(&mut out, formats[kind]).unwrap();
        let mut bytes = out.into_inner();
        let untouched = flips.is_empty();
        for (at, v) in flips {
            let i = at.index(bytes.len());
            bytes[i] ^= v;
        }
        let read = Picture::decode("a", &bytes);
        prop_assert!(!untouched || read.is_ok_and(|p| p.size() == [9, 7]));
    }
}

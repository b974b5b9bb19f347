//! Mesh files as they are found: untidy, old, of other makers. Each small file here stands for one habit; what is read of it, what is said, or why it is refused.

use std::collections::BTreeMap;

use crate::common::cube;
use dustcoat_core::mesh::import::{Folder, MeshLimits, import, import_in, names_beside, within};
use dustcoat_core::mesh::{MeshError, Piece, write};
use serde_json::{Value, json};

fn read(name: &str, bytes: &[u8]) -> Result<Piece, MeshError> {
    import(name, bytes, None, MeshLimits::default())
}

/// One line that says what is wrong, where, and what to do.
fn refused(name: &str, bytes: &[u8], says: &[&str]) {
    let said = read(name, bytes).map(|p| p.triangles.len()).unwrap_err().to_string();
    assert!(says.iter().all(|s| said.contains(s)), "{name}: “{said}” should speak of {says:?}");
    assert!(!said.contains('\n') && said.ends_with('.'), "one line: “{said}”");
}

fn found(piece: &Piece, what: &str) -> bool {
    piece.findings.iter().any(|f| f.what.contains(what))
}

fn area(piece: &Piece) -> f64 {
    piece.parts.iter().map(|p| p.area).sum()
}

fn parts(piece: &Piece) -> Vec<&str> {
    piece.parts.iter().map(|p| p.name.as_str()).collect()
}

/// Two triangles, a square of 10 by 10.
const SQUARE: &str = "v 0 0 0\nv 10 0 0\nv 10 10 0\nv 0 10 0\nf 1 2 3 4\n";

#[test]
fn an_obj_is_read_whatever_wrote_it() {
    let same = |bytes: Vec<u8>, what: &str| {
        let piece = read("a.obj", &bytes).unwrap_or_else(|e| panic!("{what}: {e}"));
        assert!((area(&piece) - 100.0).abs() < 1e-3, "{what}: {} mm²", area(&piece));
        piece
    };
    let text = |s: &str| s.as_bytes().to_vec();
    same(text(&SQUARE.replace('\n', "\r\n")), "lines that end as elsewhere");
    same(text(&SQUARE.replace("10", "+1e1")), "numbers with a plus and a power");
    same(text(&SQUARE.replace("f 1 2 3 4", "f 1 2 \\\n  3 \\\r\n 4 # a face")), "a line that goes on");
    same(text(&SQUARE.replace("f 1 2 3 4", "f -4 -3 -2 -1")), "counted from the end");
    same(text(&format!("{SQUARE}f 1 2\nf 3\nl 1 2\np 1\ncurv 0 1 1 2\n")), "faces without a surface");
    same(text(&format!("\u{feff}{SQUARE}")), "a mark before the first line");
    let piece = same(text(&format!("{SQUARE}f 1 2\nf 3\n")), "two corners");
    assert!(found(&piece, "left out: 2"), "{:?}", piece.findings);
    let wide =
        |bytes: fn(u16) -> [u8; 2]| "\u{feff}".encode_utf16().chain(SQUARE.encode_utf16()).flat_map(bytes).collect();
    same(wide(u16::to_le_bytes), "UTF-16");
    same(wide(u16::to_be_bytes), "UTF-16, the other way round");
    // Names of two words, in Latin-1 and in another alphabet.
    let latin: Vec<u8> = SQUARE.replace("f 1", "usemtl Gr\u{fc}n  Lack\nf 1").chars().map(|c| c as u8).collect();
    assert_eq!(parts(&same(latin, "Latin-1")), ["Grün Lack"]);
    let named = same(text(&SQUARE.replace("f 1", "usemtl краска 2\nf 1")), "another alphabet");
    assert_eq!(parts(&named), ["краска 2"]);
    // A line of a megabyte is one polygon of many corners, all of whose triangles meet in one of them.
    let n = 30_000;
    let ring = |i: usize| (i as f32 / n as f32 * std::f32::consts::TAU).sin_cos();
    let corners: String = (0..n).map(|i| format!("v {} {} 0\n", ring(i).0, ring(i).1)).collect();
    let face: String = (1..=n).map(|i| format!(" {i:>32}//")).collect();
    assert!(face.len() > 1_000_000);
    let disc = read("disc.obj", format!("{corners}f{face}\n").as_bytes()).unwrap();
    assert!((area(&disc) - f64::from(std::f32::consts::PI)).abs() < 1e-2, "{}", area(&disc));
    let frames = disc.tangents.iter().zip(&disc.normals).map(|(t, n)| {
        let t = [t[0], t[1], t[2]];
        (t.iter().zip(n).map(|(a, b)| a * b).sum::<f32>().abs(), t.iter().map(|v| v * v).sum::<f32>())
    });
    assert!(frames.into_iter().all(|(dot, length)| dot < 1e-4 && (length - 1.0).abs() < 1e-4));
    // What is wrong is told with its line.
    refused("a.obj", SQUARE.replace("v 10 10 0", "v 10 x 0").as_bytes(), &["“x” in line 3"]);
    refused("a.obj", SQUARE.replace("v 10 10 0", "v 10 1").as_bytes(), &["line 3 has 2 numbers and not 3"]);
    refused("a.obj", format!("{SQUARE}f 1 2 9\n").as_bytes(), &["line 6", "vertex “9”", "there are 4"]);
    refused("a.obj", format!("{SQUARE}f 1/1 2/1 3/1\n").as_bytes(), &["line 6", "UV “1”"]);
}

#[test]
fn a_material_library_that_is_absent_or_broken_is_a_finding() {
    let obj = SQUARE.replace("f 1", "mtllib my paints.mtl\nusemtl red\nf 1");
    let alone = read("a.obj", obj.as_bytes()).unwrap();
    assert!(found(&alone, "“my paints.mtl” did not come"), "{:?}", alone.findings);
    assert_eq!(names_beside("a.obj", obj.as_bytes()), ["my paints.mtl"]);
    let with = |library: &[u8]| {
        let files = [("a.obj", obj.as_bytes()), ("my paints.mtl", library)];
        let folder = Folder::of(files.iter().map(|(n, b)| (n.to_string(), b.to_vec())).collect::<BTreeMap<_, _>>());
        import_in(&folder, "a.obj", None, MeshLimits::default()).unwrap()
    };
    // What is broken in it and not read is no matter.
    let piece = with(b"newmtl red\nNs not a number\nillum\nKd 1 0 0\nmap_Kd -s 1\nnonsense \xff\n");
    assert_eq!((parts(&piece)[0], piece.parts[0].color.as_str()), ("red", "#ff0000"));
    assert!(!found(&piece, "library"));
    assert!(found(&with(b"newmtl red\nKd one two three\n"), "“my paints.mtl” can't be read"));
    assert_eq!((within("a/b.obj", "../c.mtl"), within("b.obj", "../c.mtl")), (Some("c.mtl".into()), None));
    assert_eq!([within("b.obj", "/etc/c"), within("b.obj", "C:\\c"), within("b.obj", "file:c")], [None, None, None]);
}

#[test]
fn a_ply_is_read_whatever_its_header_says_beside() {
    let ply = |head: &str, body: &str| format!("ply\nformat ascii 1.0\n{head}end_header\n{body}");
    let xyz = "property float x\nproperty double y\nproperty int z\n";
    let corners = "0 0 0\n10 0 0\n10 10 0\n0 10 0\n";
    let ok = |text: String, what: &str| {
        let piece = read("a.ply", text.as_bytes()).unwrap_or_else(|e| panic!("{what}: {e}"));
        assert!((area(&piece) - 100.0).abs() < 1e-3, "{what}: {} mm²", area(&piece));
        piece
    };
    let faces = "element face 1\nproperty list uchar int vertex_indices\n";
    let plain = ply(&format!("element vertex 4\n{xyz}{faces}"), &format!("{corners}4 0 1 2 3\n"));
    ok(plain.clone(), "a plain one");
    ok(
        plain.replace("element vertex", "obj_info num_cols 7\ncomment one\n\nstray words\nelement vertex"),
        "stray lines",
    );
    ok(plain.replace("\nend_header", "\r\nend_header").replace("ascii 1.0\n", "ascii 1.0\r\n"), "mixed ends of lines");
    ok(plain.replace("vertex_indices", "corner_numbers"), "a list of any name");
    // A strip turns every other triangle over; −1 begins anew.
    let strips = "element tristrips 1\nproperty list int int vertex_indices\n";
    let strip =
        ok(ply(&format!("element vertex 4\n{xyz}{strips}"), &format!("{corners}8 0 1 3 2 -1 0 1 -1\n")), "a strip");
    assert_eq!(strip.triangles.len(), 2);
    assert!(strip.normals.iter().all(|n| n[2] > 0.99), "both the same way round: {:?}", strip.normals);
    // UVs and colours by other names, colours as numbers to 1.
    let named = format!(
        "{xyz}property float texture_u\nproperty float texture_v\nproperty float diffuse_red\nproperty float diffuse_green\nproperty float diffuse_blue\n"
    );
    let body = "0 0 0 0 0 1 0 0\n10 0 0 1 0 1 0 0\n10 10 0 1 1 1 0 0\n0 10 0 0 1 1 0 0\n4 0 1 2 3\n";
    let piece = ok(ply(&format!("element vertex 4\n{named}{faces}"), body), "other names");
    assert!(!found(&piece, "no UVs") && piece.colors.iter().all(|c| *c == [255, 0, 0]), "{:?}", piece.colors);
    let cloud = ply(&format!("element vertex 4\n{xyz}"), corners);
    refused("a.ply", cloud.as_bytes(), &["cloud of points", "Make a surface"]);
    refused("a.ply", &plain.as_bytes()[..plain.len() - 6], &["less, or other, than its header"]);
    refused("a.ply", b"ply\nformat ascii 1.0\nelement vertex 4\n", &["header has no end"]);
}

#[test]
fn an_stl_is_told_by_its_length_and_not_by_its_first_word() {
    let corners = [
        [[0.0f32, 0.0, 0.0], [10.0, 0.0, 0.0], [10.0, 10.0, 0.0]],
        [[0.0, 0.0, 0.0], [10.0, 10.0, 0.0], [0.0, 10.0, 0.0]],
    ];
    let binary = |head: &[u8]| {
        let mut out = head.to_vec();
        out.resize(80, b' ');
        out.extend(2u32.to_le_bytes());
        for triangle in corners {
            out.extend([0; 12]);
            triangle.as_flattened().iter().for_each(|v| out.extend(v.to_le_bytes()));
            out.extend([0, 0]);
        }
        out
    };
    let solid = |name: &str, t: usize| {
        let vertex: String = corners[t].iter().map(|[x, y, z]| format!("   vertex {x:e} {y} {z}\n")).collect();
        format!("solid {name}\n facet normal 0 0 1\n  outer loop\n{vertex}  endloop\n endfacet\nendsolid {name}\n")
    };
    let ok = |bytes: &[u8], what: &str| {
        let piece = read("a.stl", bytes).unwrap_or_else(|e| panic!("{what}: {e}"));
        assert!((area(&piece) - 100.0).abs() < 1e-3, "{what}: {} mm²", area(&piece));
    };
    ok(&binary(b"made by hand"), "binary");
    ok(&binary(b"solid but binary"), "binary that begins like text");
    ok(&[binary(b"made by hand"), vec![0; 7]].concat(), "a few bytes more");
    ok(&[binary(b"solid but binary"), vec![0; 7]].concat(), "both");
    ok(format!("{}{}", solid("one", 0), solid("two words", 1)).as_bytes(), "two solids");
    ok(format!("\n  {}{}", solid("ONE", 0).to_uppercase(), solid("two", 1)).as_bytes(), "capitals");
    let cut = binary(b"made by hand");
    refused("a.stl", &cut[..cut.len() - 3], &["has 2 triangles and holds 1", "cut off"]);
    refused("a.stl", b"made by hand", &["too short"]);
    refused("a.stl", solid("one", 0).replace("vertex 1e1", "vertex one").as_bytes(), &["“one” in line"]);
    let open = solid("one", 0);
    refused("a.stl", &open.as_bytes()[..open.find("  endloop").unwrap()], &["not closed"]);
}

/// A square of two triangles as glTF with its bytes in it: positions as these numbers, four corners.
fn gltf(change: impl FnOnce(&mut Value)) -> Vec<u8> {
    use base64::Engine;
    let positions: [[f32; 3]; 4] = [[0.0, 0.0, 0.0], [0.01, 0.0, 0.0], [0.01, 0.01, 0.0], [0.0, 0.01, 0.0]];
    let mut bytes: Vec<u8> = positions.as_flattened().iter().flat_map(|v| v.to_le_bytes()).collect();
    // The same in sixteen bits, of which all are 10 mm, two bytes between the corners.
    let small = positions.map(|p| p.map(|v| if v > 0.0 { 32767i16 } else { 0 }));
    small.iter().for_each(|p| bytes.extend(p.iter().chain(&[0]).flat_map(|v| v.to_le_bytes())));
    bytes.extend([0u16, 1, 2, 0, 2, 3, 3, 0].iter().flat_map(|v| v.to_le_bytes()));
    // UVs in eight bits.
    bytes.extend([0u8, 0, 0, 0, 255, 0, 0, 0, 255, 255, 0, 0, 0, 255, 0, 0]);
    let text = base64::engine::general_purpose::STANDARD.encode(&bytes);
    let mut root = json!({
        "asset": {"version": "2.0"}, "scene": 0, "scenes": [{"nodes": [0]}], "nodes": [{"mesh": 0}],
        "meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "indices": 1}]}],
        "buffers": [{"byteLength": bytes.len(), "uri": format!("data:application/octet-stream;base64,{text}")}],
        "bufferViews": [{"buffer": 0, "byteLength": 48}, {"buffer": 0, "byteOffset": 48, "byteLength": 32, "byteStride": 8},
                        {"buffer": 0, "byteOffset": 80, "byteLength": 16}, {"buffer": 0, "byteOffset": 96, "byteLength": 16, "byteStride": 4}],
        "accessors": [{"bufferView": 0, "componentType": 5126, "count": 4, "type": "VEC3", "min": [0, 0, 0], "max": [0.01, 0.01, 0]},
                      {"bufferView": 2, "componentType": 5123, "count": 6, "type": "SCALAR"},
                      {"bufferView": 1, "componentType": 5122, "normalized": true, "count": 4, "type": "VEC3"},
                      {"bufferView": 3, "componentType": 5121, "normalized": true, "count": 4, "type": "VEC2"}],
    });
    change(&mut root);
    serde_json::to_vec(&root).unwrap()
}

#[test]
fn a_gltf_may_leave_out_what_is_not_needed_and_pack_what_is() {
    let ok = |bytes: Vec<u8>, what: &str| {
        let piece = read("a.gltf", &bytes).unwrap_or_else(|e| panic!("{what}: {e}"));
        assert!((area(&piece) - 100.0).abs() < 1e-2, "{what}: {} mm²", area(&piece));
        piece
    };
    ok(gltf(|_| {}), "a plain one");
    let bare = gltf(|g| {
        let all = g.as_object_mut().unwrap();
        all.remove("scene");
        all.remove("scenes");
        all["accessors"][0].as_object_mut().unwrap().retain(|k, _| k != "min" && k != "max");
    });
    ok(bare, "no scene, and no bounds");
    // Roots that no other holds are taken once, with what hangs on them.
    let tree = gltf(|g| {
        g.as_object_mut().unwrap().remove("scenes");
        g["nodes"] = json!([{"mesh": 0}, {"children": [0], "translation": [1, 0, 0]}]);
    });
    assert!((ok(tree, "a tree without a scene").min[0] - 1000.0).abs() < 1e-2);
    ok(gltf(|g| g["scene"] = json!(7)), "a scene that isn't there");
    ok(gltf(|g| g["scenes"] = json!([{"name": "bare"}])), "a scene that holds nothing");
    // In sixteen bits, sized by its node, with UVs in eight.
    let packed = gltf(|g| {
        g["extensionsRequired"] = json!(["KHR_mesh_quantization"]);
        g["meshes"][0]["primitives"][0]["attributes"] = json!({"POSITION": 2, "TEXCOORD_0": 3});
        g["nodes"][0]["scale"] = json!([0.01, 0.01, 0.01]);
    });
    let piece = ok(packed, "quantized");
    assert!(!found(&piece, "no UVs") && piece.uvs.contains(&[1.0, 1.0]), "{:?}", piece.uvs);
    // The lowest set of UVs there is; where a file means them as a material lays them, they are laid so.
    let second = gltf(|g| {
        g["meshes"][0]["primitives"][0] =
            json!({"attributes": {"POSITION": 0, "TEXCOORD_1": 3, "TEXCOORD_2": 3}, "indices": 1, "material": 0});
        let laid = json!({"KHR_texture_transform": {"offset": [0.25, 0.5], "scale": [0.5, 0.25]}});
        g["materials"] = json!([{"pbrMetallicRoughness": {"baseColorTexture": {"index": 0, "extensions": laid}}}]);
        (g["textures"], g["images"]) = (json!([{"source": 0}]), json!([{"uri": "gone.png"}]));
        (g["extensionsRequired"], g["extensionsUsed"]) =
            (json!(["KHR_texture_transform"]), json!(["KHR_texture_transform"]));
    });
    assert_eq!(names_beside("a.gltf", &second), ["gone.png"]);
    let piece = ok(second, "laid by its material");
    assert!(found(&piece, "2 sets of UVs") && piece.uvs.contains(&[0.75, 0.75]) && piece.uvs.contains(&[0.25, 0.5]));
    // Strips and fans, beside lines and points.
    let rows = gltf(|g| {
        let row = |mode: i32| json!({"attributes": {"POSITION": 0}, "mode": mode});
        g["meshes"][0]["primitives"] = json!([row(6), row(0), row(1)]);
        (g["skins"], g["animations"]) = (json!([{"joints": [0]}]), json!([{"channels": [], "samplers": []}]));
    });
    let piece = ok(rows, "a fan");
    assert!(
        found(&piece, "lines have no surface and were left out: 2") && found(&piece, "bones, movement"),
        "{:?}",
        piece.findings
    );
}

#[test]
fn a_gltf_that_can_not_be_read_is_refused_in_the_artist_s_words() {
    let required = |names: &[&str]| gltf(|g| g["extensionsRequired"] = json!(names));
    refused("a.gltf", &required(&["KHR_draco_mesh_compression"]), &["Draco", "Export it without compression"]);
    refused("a.gltf", &required(&["WRACK_tides", "KHR_materials_unlit"]), &["can't be shown without WRACK_tides,"]);
    assert!(read("a.gltf", &required(&["KHR_materials_unlit", "KHR_lights_punctual"])).is_ok());
    let old = gltf(|g| g["asset"]["version"] = json!("1.0"));
    refused("a.gltf", &old, &["glTF 1.0", "export glTF 2.0"]);
    refused("a.gltf", &gltf(|g| g["meshes"] = json!({"thing": {}})), &["glTF 1.0"]);
    refused("a.glb", b"glTF\x01\0\0\0\x14\0\0\0\0\0\0\0\0\0\0\0", &["glTF 1.0"]);
    refused("a.gltf", b"{\"name\": \"a list of paints\"}", &["no glTF"]);
    refused("a.gltf", b"{\"asset\": {\"version\": \"2.0\"}, \"meshes\": [", &["breaks off at line 1"]);
    refused("a.gltf", &gltf(|g| g["nodes"][0]["mesh"] = json!(9)), &["doesn't hold"]);
    refused("a.gltf", &gltf(|g| g["nodes"][0]["children"] = json!([0])), &["hold one another in a circle"]);
    refused("a.gltf", &gltf(|g| g["nodes"] = json!({"first": {}})), &["not laid out as glTF 2.0"]);
    refused("a.gltf", &gltf(|g| g["accessors"][0]["count"] = json!(400)), &["past the end"]);
    refused("a.gltf", &gltf(|g| g["accessors"][0]["type"] = json!("VEC2")), &["type that glTF does not allow"]);
    let beside = gltf(|g| g["buffers"][0]["uri"] = json!("far away.bin"));
    assert_eq!(names_beside("a.gltf", &beside), ["far away.bin"]);
    refused("a.gltf", &beside, &["far away.bin", "folder"]);
    assert!(names_beside("cube.glb", &write::glb(&cube(10.0), None)).is_empty());
}

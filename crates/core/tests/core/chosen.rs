//! What is chosen of a mesh file as it is taken in: what tells its parts, which set of UVs, what tiles and shared texels mean; and faces of many corners, and packed files.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use crate::common::{measured, numbers, quad};
use base64::Engine;
use dustcoat_core::bake::Surface;
use dustcoat_core::mesh::import::{MeshLimits, Slots, import};
use dustcoat_core::mesh::intake::{Intake, PartsBy};
use dustcoat_core::mesh::mend::{Mending, Sharing, Taking};
use dustcoat_core::mesh::{Piece, Soup};
use dustcoat_core::setting::{Param, Value as Setting};
use glam::Vec3;
use serde_json::{Value, json};

fn mending(settings: &[(&str, Param)]) -> Mending {
    Mending::new(&settings.iter().map(|(k, v)| ((*k).into(), v.clone())).collect(), BTreeSet::new())
}

fn told(name: &str, bytes: &[u8], slots: Slots) -> Piece {
    import(name, bytes, Taking { slots, ..Taking::default() }, MeshLimits::default()).unwrap()
}

fn parts(piece: &Piece) -> Vec<(&str, u32)> {
    piece.parts.iter().filter(|p| p.triangles > 0).map(|p| (p.name.as_str(), p.triangles)).collect()
}

fn has(piece: &Piece, what: &str) -> bool {
    piece.findings.iter().any(|f| f.what.contains(what))
}

fn text(value: &str) -> Param {
    Param::Const(Setting::Text(value.into()))
}

const NAMED: &str = "v 0 0 0\nv 9 0 0\nv 9 9 0\nv 0 9 0\no crate\ng side\nusemtl wood\nf 1 2 3\ng lid\nusemtl iron\nf 1 3 4\no peg\nf 2 3 4\n";

#[test]
fn parts_of_an_obj_are_told_by_materials_groups_or_objects() {
    let by = |slots| told("a.obj", NAMED.as_bytes(), slots);
    assert_eq!(parts(&by(Slots::Materials)), [("wood", 1), ("iron", 2)]);
    assert_eq!(parts(&by(Slots::Groups)), [("side", 1), ("lid", 2)]);
    assert_eq!(parts(&by(Slots::Objects)), [("crate", 2), ("peg", 1)]);
    // One that names no groups has its materials still, and says so.
    let bare = NAMED.replace("g ", "# ");
    let piece = told("a.obj", bare.as_bytes(), Slots::Groups);
    assert_eq!(parts(&piece), [("wood", 1), ("iron", 2)]);
    assert!(has(&piece, "by groups, but the file doesn’t tell several apart"));
    // What can be chosen follows from the file, and from what was chosen.
    let by = |intake: &Intake| {
        intake.ways(&import("a.obj", bare.as_bytes(), intake.taking(), MeshLimits::default()).unwrap())
    };
    assert_eq!(by(&Intake::default()), [PartsBy::Materials, PartsBy::Objects]);
    let groups = Intake { parts_by: PartsBy::Groups, ..Intake::default() };
    assert_eq!(by(&groups), [PartsBy::Materials, PartsBy::Objects, PartsBy::Groups]);
}

#[test]
fn solids_of_a_text_stl_are_objects() {
    let solid = |name: &str, x: f32| {
        format!(
            "solid {name}\nfacet normal 0 0 1\nouter loop\nvertex {x} 0 0\nvertex {} 0 0\nvertex {x} 5 0\nendloop\nendfacet\nendsolid\n",
            x + 5.0
        )
    };
    let file = solid("left foot", 0.0) + &solid("", 10.0);
    assert_eq!(parts(&told("a.stl", file.as_bytes(), Slots::Objects)), [("left foot", 1), ("solid 2", 1)]);
    assert_eq!(parts(&told("a.stl", file.as_bytes(), Slots::Materials)), [("body", 2)]);
}

#[test]
fn smoothing_groups_make_normals_where_there_are_none() {
    // A roof of two sides that meet at 90°, smooth at 40° only by word.
    let roof = |groups: [&str; 2]| {
        let text = format!(
            "v 0 0 0\nv 9 0 0\nv 0 9 9\nv 9 9 9\nv 0 0 18\nv 9 0 18\ns {}\nf 1 2 4 3\ns {}\nf 3 4 6 5\n",
            groups[0], groups[1]
        );
        let piece = told("a.obj", text.as_bytes(), Slots::Materials);
        let at_end: BTreeSet<[i32; 3]> = (0..piece.positions.len())
            .filter(|i| piece.positions[*i] == [9.0, 9.0, 9.0])
            .map(|i| piece.normals[i].map(|n| (n * 100.0).round() as i32))
            .collect();
        at_end.len()
    };
    assert_eq!((roof(["1", "1"]), roof(["1", "2"]), roof(["off", "off"]), roof(["0", "0"])), (1, 2, 2, 2));
    // Nothing said: the angle tells.
    let silent = "v 0 0 0\nv 9 0 0\nv 0 9 9\nv 9 9 9\nv 0 0 18\nv 9 0 18\nf 1 2 4 3\nf 3 4 6 5\n";
    assert!(has(&told("a.obj", silent.as_bytes(), Slots::Materials), "no normals"));
}

#[test]
fn a_face_with_notches_has_its_own_area_and_no_triangle_over_its_border() {
    // An L of six corners, beginning at each of them, both ways round; a star of ten.
    let l: [[f64; 2]; 6] = [[0.0, 0.0], [9.0, 0.0], [9.0, 3.0], [3.0, 3.0], [3.0, 9.0], [0.0, 9.0]];
    let star: Vec<[f64; 2]> = (0..10)
        .map(|i| {
            let (r, a) = (if i % 2 == 0 { 9.0 } else { 3.0 }, f64::from(i) * std::f64::consts::PI / 5.0);
            [r * libm::cos(a), r * libm::sin(a)]
        })
        .collect();
    for ring in [&l[..], &star[..]] {
        let n = ring.len();
        let doubled: f64 = (0..n).map(|i| ring[i][0] * ring[(i + 1) % n][1] - ring[i][1] * ring[(i + 1) % n][0]).sum();
        for start in 0..n {
            for back in [false, true] {
                let mut at: Vec<[f64; 2]> = (0..n).map(|i| ring[(start + i) % n]).collect();
                if back {
                    at.reverse();
                }
                let lines: String = at.iter().map(|[x, y]| format!("v {x} 1 {y}\n")).collect();
                let face: Vec<String> = (1..=n).map(|i| i.to_string()).collect();
                let piece = told("a.obj", format!("{lines}f {}\n", face.join(" ")).as_bytes(), Slots::Materials);
                let area = piece.parts[0].area;
                assert!((area - doubled.abs() / 2.0).abs() < 1e-3, "from {start}: {area} mm²");
                // All look the same way: none was turned over a border.
                let up = piece.face_normal(0).y;
                assert!((0..piece.triangles.len() as u32).all(|t| (piece.face_normal(t).y - up).abs() < 1e-6));
                assert_eq!(up > 0.0, back == (doubled > 0.0));
            }
        }
    }
}

/// A glTF of two nodes and meshes, each a triangle with two sets of UVs.
fn two_nodes() -> Vec<u8> {
    let positions: [f32; 9] = [0.0, 0.0, 0.0, 0.01, 0.0, 0.0, 0.0, 0.01, 0.0];
    let uvs: [f32; 12] = [0.0, 0.0, 0.5, 0.0, 0.0, 0.5, 0.5, 0.5, 1.0, 0.5, 0.5, 1.0];
    let bytes: Vec<u8> = positions.iter().chain(&uvs).flat_map(|v| v.to_le_bytes()).collect();
    let mesh = |name: &str| json!({"name": name, "primitives": [{"attributes": {"POSITION": 0, "TEXCOORD_0": 1, "TEXCOORD_1": 2}}]});
    let root = json!({
        "asset": {"version": "2.0"},
        "nodes": [{"mesh": 0, "name": "hinge"}, {"mesh": 1, "translation": [0.05, 0.0, 0.0]}],
        "meshes": [mesh("plate"), mesh("pin")],
        "buffers": [{"byteLength": bytes.len(), "uri": data(&bytes)}],
        "bufferViews": [{"buffer": 0, "byteLength": bytes.len()}],
        "accessors": [{"bufferView": 0, "componentType": 5126, "count": 3, "type": "VEC3"},
                      {"bufferView": 0, "byteOffset": 36, "componentType": 5126, "count": 3, "type": "VEC2"},
                      {"bufferView": 0, "byteOffset": 60, "componentType": 5126, "count": 3, "type": "VEC2"}],
    });
    serde_json::to_vec(&root).unwrap()
}

fn data(bytes: &[u8]) -> String {
    format!("data:application/octet-stream;base64,{}", base64::engine::general_purpose::STANDARD.encode(bytes))
}

#[test]
fn a_gltf_has_its_parts_by_nodes_or_meshes_and_the_set_of_uvs_that_is_asked_for() {
    let by = |slots| told("a.gltf", &two_nodes(), slots);
    assert_eq!(parts(&by(Slots::Materials)), [("body", 2)]);
    let mut nodes = parts(&by(Slots::Objects)).into_iter().map(|p| p.0.to_owned()).collect::<Vec<_>>();
    nodes.sort();
    assert_eq!(nodes, ["hinge", "node 2"]);
    assert!(by(Slots::Groups).part_named("plate").is_some() && by(Slots::Groups).part_named("pin").is_some());
    let with_set = |set: f64| {
        let taking =
            Taking { mending: mending(&[("uv_set", Param::Const(Setting::Number(set)))]), ..Taking::default() };
        import("a.gltf", &two_nodes(), taking, MeshLimits::default()).unwrap()
    };
    let lowest = |p: &Piece| p.uvs.iter().map(|uv| uv[0]).fold(f32::MAX, f32::min);
    assert_eq!((lowest(&with_set(0.0)), lowest(&with_set(1.0)), lowest(&with_set(5.0))), (0.0, 0.5, 0.5));
    let (piece, intake) = (with_set(1.0), Intake::default());
    assert!(has(&piece, "set 1 is taken") && intake.mendable(&piece).contains(&"uv_set"));
    assert!(!intake.mendable(&told("a.obj", NAMED.as_bytes(), Slots::Materials)).contains(&"uv_set"));
}

/// A GLTF whose positions, normals and triangles are packed with meshopt, beside a buffer that only stands for them.
fn packed(change: impl FnOnce(&mut Value)) -> Vec<u8> {
    let ring: Vec<[f32; 4]> = (0..24)
        .map(|i| {
            let a = i as f32 * std::f32::consts::TAU / 24.0;
            [libm::cosf(a) * 0.02, 0.0, libm::sinf(a) * 0.02, 0.0]
        })
        .collect();
    let triangles: Vec<u32> = (1..23).flat_map(|k| [0, k + 1, k]).collect();
    let positions = meshopt::encode_vertex_buffer(&ring).unwrap();
    let up = meshopt::encode_filter_oct::<i8>(&vec![[0.0, 1.0, 0.0, 1.0]; 24], 8);
    let normals = meshopt::encode_vertex_buffer(&up).unwrap();
    let indices = meshopt::encode_index_buffer(&triangles, 24).unwrap();
    let bytes = [positions.clone(), normals.clone(), indices.clone()].concat();
    let view = |offset: usize, length: usize, stride: usize, count: usize, mode: &str, filter: &str| {
        let how = json!({"buffer": 0, "byteOffset": offset, "byteLength": length, "byteStride": stride, "count": count, "mode": mode, "filter": filter});
        json!({"buffer": 1, "byteLength": stride * count, "byteStride": stride, "extensions": {"EXT_meshopt_compression": how}})
    };
    let n = positions.len();
    let mut views = json!([
        view(0, n, 16, 24, "ATTRIBUTES", "NONE"),
        view(n, normals.len(), 4, 24, "ATTRIBUTES", "OCTAHEDRAL"),
        view(n + normals.len(), indices.len(), 4, triangles.len(), "TRIANGLES", "NONE")
    ]);
    views[2].as_object_mut().unwrap().remove("byteStride");
    let mut root = json!({
        "asset": {"version": "2.0"}, "extensionsRequired": ["EXT_meshopt_compression", "KHR_mesh_quantization"],
        "nodes": [{"mesh": 0}],
        "meshes": [{"primitives": [{"attributes": {"POSITION": 0, "NORMAL": 1}, "indices": 2}]}],
        "buffers": [{"byteLength": bytes.len(), "uri": data(&bytes)},
                    {"byteLength": 9999, "extensions": {"EXT_meshopt_compression": {"fallback": true}}}],
        "bufferViews": views,
        "accessors": [{"bufferView": 0, "componentType": 5126, "count": 24, "type": "VEC3"},
                      {"bufferView": 1, "componentType": 5120, "normalized": true, "count": 24, "type": "VEC3"},
                      {"bufferView": 2, "componentType": 5125, "count": triangles.len(), "type": "SCALAR"}],
    });
    change(&mut root);
    serde_json::to_vec(&root).unwrap()
}

#[test]
fn what_is_packed_with_meshopt_is_unpacked_and_what_is_broken_of_it_is_said() {
    let piece = told("a.gltf", &packed(|_| ()), Slots::Materials);
    let area = 0.5 * 24.0 * 20.0f64.powi(2) * f64::from(libm::sinf(std::f32::consts::TAU / 24.0));
    assert_eq!(piece.triangles.len(), 22);
    assert!((piece.parts[0].area - area).abs() < 0.1, "{} mm², not {area}", piece.parts[0].area);
    assert!(piece.normals.iter().all(|n| n[1] > 0.999) && !has(&piece, "no normals"));
    let refused = |change: fn(&mut Value)| {
        let said = import("a.gltf", &packed(change), None, MeshLimits::default()).unwrap_err().to_string();
        assert!(said.contains("packed") && said.ends_with('.'), "{said}");
    };
    refused(|g| g["bufferViews"][0]["extensions"]["EXT_meshopt_compression"]["byteLength"] = json!(20));
    refused(|g| g["bufferViews"][0]["extensions"]["EXT_meshopt_compression"]["byteStride"] = json!(20));
    refused(|g| g["bufferViews"][1]["extensions"]["EXT_meshopt_compression"]["mode"] = json!("KNOTS"));
    refused(|g| g["bufferViews"][2]["extensions"]["EXT_meshopt_compression"]["count"] = json!(-4));
    refused(|g| g["bufferViews"][2]["extensions"]["EXT_meshopt_compression"]["count"] = json!(1u64 << 40));
    refused(|g| g["bufferViews"][0]["extensions"]["EXT_meshopt_compression"]["buffer"] = json!(7));
}

/// Squares of 10 mm beside one another, each with its square of UVs moved by so much.
fn squares(at: &[[f32; 2]]) -> Soup {
    let mut soup = Soup::default();
    for (i, [u, v]) in at.iter().enumerate() {
        let x = i as f32 * 12.0;
        let corners = [[x, 0.0, 10.0], [x + 10.0, 0.0, 10.0], [x + 10.0, 0.0, 0.0], [x, 0.0, 0.0]];
        quad(&mut soup, "tile", corners, [0.1 + u, 0.1 + v, 0.9 + u, 0.9 + v]);
    }
    soup
}

#[test]
fn tiles_are_sheets_and_repeats_are_repeats_until_it_is_said_otherwise() {
    let sheets =
        |soup: &Soup, tiles: &str| Piece::build_mended(soup.clone(), &mending(&[("tiles", text(tiles))])).unwrap();
    // Others lie in other squares: sheets.
    let mut apart = squares(&[[0.0, 0.0], [1.0, 0.0]]);
    apart.uvs[6..].iter_mut().for_each(|uv| uv[0] = 1.3 + (uv[0] - 1.0) * 0.5);
    assert_eq!(sheets(&apart, "told").sheets.len(), 2);
    assert_eq!(sheets(&apart, "repeats").sheets.len(), 1);
    // Squares that are alike as a whole are things that each wear in their own way: they stay, and are told.
    let copies = squares(&[[0.0, 0.0], [1.0, 0.0], [2.0, 0.0]]);
    let piece = sheets(&copies, "told");
    assert!(piece.sheets.len() == 3 && has(&piece, "67 % of the triangles lie exactly over"), "{:?}", piece.findings);
    let asked = |soup: &Soup| !Taking::default().shown_by(&sheets(soup, "told")).is_empty();
    assert!(!asked(&copies) && !asked(&apart));
    // Some of the first square again, or all of it turned over, is meant to wear alike: what is new asks for it.
    let mut some = squares(&[[0.0, 0.0], [1.0, 0.0], [0.0, 0.0]]);
    some.uvs[12..].iter_mut().for_each(|uv| uv[0] *= 0.1);
    assert!(asked(&some));
    let mut mirrored = squares(&[[0.0, 0.0], [1.0, 0.0]]);
    for t in [2, 3] {
        mirrored.uvs.swap(3 * t + 1, 3 * t + 2);
    }
    assert!(asked(&mirrored));
    let piece = sheets(&copies, "repeats");
    assert!(piece.sheets.len() == 1 && has(&piece, "repeat the first UV square"), "{:?}", piece.findings);
    assert!(piece.uvs.iter().flatten().all(|v| (0.0..=1.0).contains(v)));
    assert_eq!(sheets(&copies, "sheets").sheets.len(), 3);
    // A texture that runs on over four squares.
    let mut tiling = squares(&[[0.0, 0.0]]);
    tiling.uvs.iter_mut().for_each(|uv| *uv = uv.map(|v| v * 4.0));
    assert!(has(&sheets(&tiling, "told"), "repeat the first UV square"));
    let first = Piece::build(squares(&[[0.0, 0.0]])).unwrap();
    assert!(!first.offers.tiled && piece.offers.tiled);
}

/// Two plates that share all of their texels: one in the open, one 2 mm below a third that lies elsewhere in the square.
fn stacked() -> Soup {
    let mut soup = Soup::default();
    let plate = |soup: &mut Soup, part: &str, x: f32, y: f32, uv: [f32; 4], down: bool| {
        let mut corners = [[x, y, 20.0], [x + 20.0, y, 20.0], [x + 20.0, y, 0.0], [x, y, 0.0]];
        if down {
            corners.reverse();
        }
        quad(soup, part, corners, uv);
    };
    plate(&mut soup, "plates", 0.0, 0.0, [0.0, 0.0, 0.5, 0.5], false);
    plate(&mut soup, "plates", 100.0, 0.0, [0.0, 0.0, 0.5, 0.5], false);
    plate(&mut soup, "roof", 100.0, 2.0, [0.5, 0.5, 1.0, 1.0], true);
    soup
}

#[test]
fn shared_texels_are_measured_as_the_first_as_the_mean_or_each_on_its_own() {
    let built = |sharing: Option<Sharing>| {
        let of: BTreeMap<String, Sharing> = sharing.into_iter().map(|s| ("plates".into(), s)).collect();
        Surface::new(Arc::new(Piece::build_mended(stacked(), &Mending::default().sharing(of)).unwrap()), 128)
    };
    let open = |surface: &Surface| {
        let plane = measured(surface, "occlusion", &numbers([("distance", 50.0), ("rays", 256.0)]));
        let a = &surface.atlas;
        let mean = |under: bool| {
            let middle = |i: &usize| {
                let x = if a.px[*i] > 50.0 { a.px[*i] - 100.0 } else { a.px[*i] };
                a.part[*i] == 0
                    && (8.0..12.0).contains(&x)
                    && (8.0..12.0).contains(&a.pz[*i])
                    && (a.px[*i] > 50.0) == under
            };
            let all: Vec<f32> = (0..a.len()).filter(middle).map(|i| plane[i]).collect();
            (!all.is_empty()).then(|| all.iter().sum::<f32>() / all.len() as f32)
        };
        (mean(false), mean(true))
    };
    let (first, none) = open(&built(None));
    assert!(first.unwrap() > 0.98 && none.is_none());
    let own = built(Some(Sharing::Own));
    assert_eq!(own.piece.sheets.iter().map(|s| s.name.as_str()).collect::<Vec<_>>(), ["1001", "plates 2.1001"]);
    assert!(own.atlas.overlaps.is_empty());
    let (above, below) = open(&own);
    let (above, below) = (above.unwrap(), below.unwrap());
    assert!(above > 0.98 && below < 0.5, "{above} in the open, {below} below the roof");
    let mean = open(&built(Some(Sharing::Mean))).0.unwrap();
    assert!((mean - (above + below) / 2.0).abs() < 0.02, "{mean} between {above} and {below}");
    assert_ne!(built(None).piece.hash, built(Some(Sharing::Mean)).piece.hash);
}

#[test]
fn mirrored_halves_that_meet_in_the_middle_lie_on_two_sheets_when_each_is_to_have_its_own() {
    let mut soup = Soup::default();
    quad(&mut soup, "mask", [[0.0, 0.0, 9.0], [9.0, 0.0, 9.0], [9.0, 0.0, 0.0], [0.0; 3]], [0.0, 0.0, 1.0, 1.0]);
    quad(
        &mut soup,
        "mask",
        [[-9.0, 0.0, 9.0], [0.0, 0.0, 9.0], [0.0, 0.0, 0.0], [-9.0, 0.0, 0.0]],
        [1.0, 0.0, 0.0, 1.0],
    );
    let own = BTreeMap::from([("mask".to_owned(), Sharing::Own)]);
    let piece = Piece::build_mended(soup, &Mending::default().sharing(own)).unwrap();
    assert_eq!(piece.sheets.len(), 2);
    let of = |x: f32| {
        (0..4u32)
            .filter(|t| piece.corners(*t).iter().sum::<Vec3>().x * x > 0.0)
            .map(|t| piece.sheet_of[t as usize])
            .collect::<BTreeSet<_>>()
    };
    assert!(of(1.0).len() == 1 && of(-1.0).len() == 1 && of(1.0) != of(-1.0));
}

#[test]
fn parts_that_would_need_more_sheets_than_there_are_say_so() {
    let own = BTreeMap::from([("tile".to_owned(), Sharing::Own)]);
    let stacked = |n: usize| {
        Piece::build_mended(squares(&vec![[0.0, 0.0]; n]), &Mending::default().sharing(own.clone())).unwrap()
    };
    let few = stacked(3);
    assert!(few.sheets.len() == 3 && !has(&few, "would need"));
    let many = stacked(20);
    assert!(many.sheets.len() == 16 && has(&many, "would need 20 sheets"), "{:?}", many.findings);
    assert!(many.sheet_of.iter().all(|s| *s < 16));
}

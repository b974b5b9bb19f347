//! Mesh files: what is read, what is said, and that no bytes bring it down.

use crate::common::cube;
use dustcoat_core::mesh::import::{MeshLimits, import, sizes};
use dustcoat_core::mesh::{MeshError, Piece, Unit, write};
use proptest::prelude::*;

fn read(name: &str, bytes: &[u8]) -> Result<Piece, MeshError> {
    import(name, bytes, None, MeshLimits::default())
}

const TWO_PARTS: &str = "\
# a pentagon and a triangle, counted from the end
o Thing
v 0 0 0
v 10 0 0
v 12 8 0
v 5 12 0
v -2 8 0
vt 0 0
vt 1 0
vt 1 1
g front
usemtl paint
f 1/1 2/2 3/3 4/3 5/1
usemtl steel
v 0 0 5
v 10 0 5
v 0 10 5
f -3/1 -2/2 -1/3
";

#[test]
fn what_a_file_measures_is_told_unit_by_unit_and_the_likely_one_is_marked() {
    let of = |side: f32, name: &str| {
        let text = format!("v 0 0 0\nv {side} 0 0\nv {side} {} 0\nf 1 2 3\n", side / 2.0);
        sizes(name, text.as_bytes(), MeshLimits::default()).unwrap()
    };
    let told = of(40.0, "plate.obj");
    assert_eq!(
        told.iter().map(|s| s.size).collect::<Vec<_>>()[..3],
        [[40.0, 20.0, 0.0], [400.0, 200.0, 0.0], [4e4, 2e4, 0.0]]
    );
    assert!((told[3].size[0] - 1016.0).abs() < 1e-2, "inches: {:?}", told[3]);
    let likely = |side: f32| of(side, "plate.obj").into_iter().find(|s| s.likely).unwrap().unit;
    let units = [0.2, 0.39, 9.0, 40.0, 3000.0, 90_000.0].map(likely);
    assert_eq!(units, [Unit::M, Unit::M, Unit::Cm, Unit::Mm, Unit::Mm, Unit::Mm]);
    // As large as the piece that comes of it.
    let glb = write::glb(&cube(40.0), None);
    let told = sizes("cube.glb", &glb, MeshLimits::default()).unwrap();
    let meant = told.iter().find(|s| s.likely).unwrap();
    let piece = read("cube.glb", &glb).unwrap();
    assert_eq!(meant.unit, Unit::M);
    assert!((meant.size[0] - (piece.max[0] - piece.min[0])).abs() < 1e-3, "{meant:?}");
    assert!(sizes("broken.glb", b"glTF\x02", MeshLimits::default()).is_err());
}

#[test]
fn obj_polygons_negative_indices_and_materials_are_read() {
    let piece = read("Thing.obj", TWO_PARTS.as_bytes()).unwrap();
    assert_eq!(piece.triangles.len(), 4, "a pentagon makes three");
    assert_eq!(
        piece.parts.iter().map(|p| (p.name.as_str(), p.triangles)).collect::<Vec<_>>(),
        [("paint", 3), ("steel", 1)]
    );
    assert_eq!(piece.shells, 2);
    assert_eq!(piece.name, "Thing");
    assert!((piece.parts[1].area - 50.0).abs() < 1e-3, "mm² at one unit a millimetre");
    assert!(piece.normals.iter().all(|n| n[2] > 0.999), "missing normals are computed");
    assert!(piece.findings.iter().any(|f| f.what.contains("normals")), "and that is said");
    assert!(piece.uvs.iter().any(|t| t[1] == 1.0), "v runs down inside");
    let first = piece.positions.iter().position(|p| *p == [0.0, 0.0, 0.0]).unwrap();
    assert_eq!(piece.uvs[first], [0.0, 1.0], "vt 0 0 is the lower left, which is v = 1 inside");
}

#[test]
fn units_become_millimetres() {
    let of = |unit| import("t.obj", TWO_PARTS.as_bytes(), unit, MeshLimits::default()).unwrap().max[0];
    assert_eq!(of(None), 12.0);
    assert_eq!(of(Some(Unit::Cm)), 120.0);
    assert_eq!(of(Some(Unit::M)), 12_000.0);
    assert!((of(Some(Unit::In)) - 304.8).abs() < 1e-3);
    let glb = write::glb(&cube(40.0), None);
    let back = read("cube.glb", &glb).unwrap();
    assert!((back.max[0] - 20.0).abs() < 1e-4, "glTF is in metres: {}", back.max[0]);
}

#[test]
fn a_piece_survives_the_way_through_glb_and_obj() {
    let before = cube(30.0);
    let glb = read("cube.glb", &write::glb(&before, None)).unwrap();
    let obj = read("cube.obj", write::obj(&before).as_bytes()).unwrap();
    for after in [glb, obj] {
        assert_eq!(after.triangles.len(), before.triangles.len());
        let parts =
            |p: &Piece| p.parts.iter().map(|p| (p.name.clone(), p.triangles, p.area.round())).collect::<Vec<_>>();
        assert_eq!(parts(&after), parts(&before));
        assert_eq!(after.charts, before.charts);
        let corners = |p: &Piece| {
            let corner = |t: &[u32; 3]| t.map(|v| (p.positions[v as usize], p.normals[v as usize], p.uvs[v as usize]));
            p.triangles.iter().flat_map(corner).collect::<Vec<_>>()
        };
        for ((p, n, t), (q, m, s)) in corners(&before).into_iter().zip(corners(&after)) {
            assert!((0..3).all(|k| (p[k] - q[k]).abs() < 1e-4 && (n[k] - m[k]).abs() < 1e-4));
            assert!((0..2).all(|k| (t[k] - s[k]).abs() < 1e-5));
        }
    }
}

#[test]
fn hard_edges_without_normals_stay_hard() {
    let obj: String = write::obj(&cube(10.0))
        .lines()
        .filter(|l| !l.starts_with("vn"))
        .map(|l| {
            let corner = |c: &str| c.split('/').take(2).collect::<Vec<_>>().join("/");
            match l.strip_prefix("f ") {
                Some(face) => format!("f {}\n", face.split(' ').map(corner).collect::<Vec<_>>().join(" ")),
                None => format!("{l}\n"),
            }
        })
        .collect();
    let piece = read("cube.obj", obj.as_bytes()).unwrap();
    assert!(
        piece.normals.iter().all(|n| n.iter().filter(|v| v.abs() > 0.999).count() == 1),
        "{:?}",
        &piece.normals[..4]
    );
}

/// Refused, with a sentence that tells of the problem and no panic.
fn refused(name: &str, bytes: &[u8], says: &str) {
    let error = read(name, bytes).map(|p| p.triangles.len()).unwrap_err().to_string();
    assert!(error.contains(says), "{name}: “{error}” should speak of “{says}”");
}

#[test]
fn what_can_not_be_dressed_is_refused_with_a_sentence() {
    refused("a.fbx", b"Kaydara", "OBJ");
    refused("a.obj", b"", "triangle");
    refused("a.obj", b"v 0 0 0\nv nan 0 0\nv 1 1 0\nf 1 2 3\n", "finite");
    refused("a.obj", b"v 0 0 0\nv inf 0 0\nv 1 1 0\nf 1 2 3\n", "finite");
    refused("a.obj", b"v 0 0 0\nv 1 0 0\nf 1 2 9\n", "can't be read");
    refused("a.obj", b"v 0 0 0\nv 1 0 0\nv 2 0 0\nf 1 2 3\n", "area");
    refused("a.glb", b"glTF\x02\0\0\0\xff\xff\xff\x7f", "can't be read");
    let glb = write::glb(&cube(10.0), None);
    refused("a.glb", &glb[..glb.len() / 2], "can't be read");
    let elsewhere = br#"{"asset":{"version":"2.0"},"buffers":[{"uri":"far.bin","byteLength":4}]}"#;
    refused("a.gltf", elsewhere, "far.bin");
}

#[test]
fn too_much_is_refused_before_it_is_read() {
    let limits = MeshLimits { bytes: 100, triangles: 2 };
    let error = import("t.obj", TWO_PARTS.as_bytes(), None, limits).map(|_| ()).unwrap_err();
    assert!(matches!(error, MeshError::TooLarge { what: "bytes", limit: 100, .. }), "{error}");
    let limits = MeshLimits { triangles: 3, ..MeshLimits::default() };
    let error = import("t.obj", TWO_PARTS.as_bytes(), None, limits).map(|_| ()).unwrap_err();
    assert!(error.to_string().contains("triangles; the most that can be taken is 3"), "{error}");
}

#[test]
fn no_uvs_uvs_outside_and_flat_triangles_are_found_and_said() {
    let bare = read("a.obj", b"v 0 0 0\nv 1 0 0\nv 1 1 0\nf 1 2 3\n").unwrap();
    assert!(bare.findings.iter().any(|f| f.what.contains("unwrapped")), "{:?}", bare.findings);
    let outside = read("a.obj", b"v 0 0 0\nv 1 0 0\nv 1 1 0\nvt 0 0\nvt 3 0\nvt 3 1\nf 1/1 2/2 3/3\n").unwrap();
    assert!(outside.findings.iter().any(|f| f.what.contains("UV") && !f.remedy.is_empty()), "{:?}", outside.findings);
    let flat =
        read("a.obj", b"v 0 0 0\nv 1 0 0\nv 1 1 0\nv 2 2 0\nvt 0 0\nvt 1 0\nvt 1 1\nf 1/1 2/2 3/3\nf 1/1 3/3 4/3\n")
            .unwrap();
    assert_eq!(flat.triangles.len(), 1);
    assert!(flat.findings.iter().any(|f| f.what.contains("area") || f.what.contains("flat")), "{:?}", flat.findings);
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 300, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn no_bytes_bring_the_readers_down(bytes in prop::collection::vec(any::<u8>(), 0..400), kind in 0..3usize) {
        let _ = read(["a.obj", "a.glb", "a.gltf"][kind], &bytes);
    }

    #[test]
    fn no_lines_of_obj_bring_the_reader_down(lines in prop::collection::vec("(v|vt|vn|f|usemtl|g|o|l|p|s) (-?[0-9]{1,3}(/-?[0-9]{0,2}){0,2}|nan|inf|1e39| ){0,6}", 0..30)) {
        let _ = read("a.obj", lines.join("\n").as_bytes());
    }

    #[test]
    fn a_damaged_glb_is_read_or_refused(flips in prop::collection::vec((any::<prop::sample::Index>(), any::<u8>()), 1..12)) {
        let mut glb = write::glb(&cube(10.0), None);
        for (at, byte) in flips {
            let i = at.index(glb.len());
            glb[i] = byte;
        }
        if let Ok(piece) = read("a.glb", &glb) {
            prop_assert!(piece.positions.iter().flatten().all(|v| v.is_finite()));
            prop_assert!(piece.triangles.iter().flatten().all(|v| (*v as usize) < piece.positions.len()));
        }
    }
}

#[test]
fn how_far_a_mesh_is_is_told_and_only_goes_up() {
    let told = std::sync::Mutex::new(vec![]);
    let on = |what: &str, share: f32| told.lock().unwrap().push((what.to_owned(), share));
    let file = write::glb(&crate::common::cube(20.0), None);
    let watched =
        dustcoat_core::mesh::import::import_watched("a.glb", &file, None, MeshLimits::default(), &on).unwrap();
    assert_eq!(watched, import("a.glb", &file, None, MeshLimits::default()).unwrap());
    let told = told.into_inner().unwrap();
    assert!(told.len() > 5 && told[0] == ("Reading".into(), 0.0) && told.last().unwrap().1 == 1.0, "{told:?}");
    assert!(told.windows(2).all(|w| w[0].1 <= w[1].1), "{told:?}");
}

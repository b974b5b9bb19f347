//! USD: text, binary and packed, its units and axes, parts from bound materials, sets of UVs, and what is said of the rest.

use std::io::{Cursor, Write};

use dustcoat_core::mesh::import::{MeshLimits, Slots, import, names_beside, sizes};
use dustcoat_core::mesh::mend::Taking;
use dustcoat_core::mesh::{Piece, Unit};

/// A box without a lid, 2 by 2 by 1 units, of which one side is of another material, moved and turned; beside it a ball that is no mesh.
const CRATE: &str = r#"#usda 1.0
(
    defaultPrim = "Crate"
    metersPerUnit = 0.01
    upAxis = "Z"
)

def Xform "Crate"
{
    double3 xformOp:translate = (0, 0, 10)
    uniform token[] xformOpOrder = ["xformOp:translate"]
    rel material:binding = </Looks/Timber>

    def Mesh "Sides"
    {
        uniform token subdivisionScheme = "none"
        point3f[] points = [(0, 0, 0), (2, 0, 0), (2, 2, 0), (0, 2, 0), (0, 0, 1), (2, 0, 1), (2, 2, 1), (0, 2, 1)]
        int[] faceVertexCounts = [4, 4, 4, 4, 4]
        int[] faceVertexIndices = [0, 3, 2, 1, 0, 1, 5, 4, 1, 2, 6, 5, 2, 3, 7, 6, 3, 0, 4, 7]
        texCoord2f[] primvars:st = [(0, 0), (0.5, 0), (0.5, 0.5), (0, 0.5)] (
            interpolation = "faceVarying"
        )
        int[] primvars:st:indices = [0, 1, 2, 3, 0, 1, 2, 3, 0, 1, 2, 3, 0, 1, 2, 3, 0, 1, 2, 3]
        texCoord2f[] primvars:bake = [(0.5, 0.5), (1, 0.5), (1, 1), (0.5, 1), (0.5, 0.5), (1, 0.5), (1, 1), (0.5, 1)] (
            interpolation = "vertex"
        )

        def GeomSubset "Front"
        {
            uniform token elementType = "face"
            int[] indices = [1]
            rel material:binding = </Looks/Iron>
        }
    }

    def Sphere "Ball"
    {
    }

    def Mesh "Hidden"
    {
        token visibility = "invisible"
        point3f[] points = [(0, 0, 0), (9, 0, 0), (9, 9, 0)]
        int[] faceVertexCounts = [3]
        int[] faceVertexIndices = [0, 1, 2]
    }
}

def Scope "Looks"
{
    def Material "Timber"
    {
    }

    def Material "Iron"
    {
        def Shader "Surface"
        {
            color3f inputs:diffuseColor = (1, 0, 0)
        }
    }
}
"#;

fn read(name: &str, bytes: &[u8], taking: impl Into<Taking>) -> Piece {
    import(name, bytes, taking, MeshLimits::default()).unwrap_or_else(|e| panic!("{name}: {e}"))
}

fn has(piece: &Piece, what: &str) -> bool {
    piece.findings.iter().any(|f| f.what.contains(what))
}

fn zipped(files: &[(&str, &[u8])]) -> Vec<u8> {
    let mut zip = zip::ZipWriter::new(Cursor::new(vec![]));
    for (name, bytes) in files {
        let stored = zip::write::SimpleFileOptions::default().compression_method(zip::CompressionMethod::Stored);
        zip.start_file(*name, stored).unwrap();
        zip.write_all(bytes).unwrap();
    }
    zip.finish().unwrap().into_inner()
}

#[test]
fn a_stage_is_read_with_its_units_axes_places_and_materials() {
    let piece = read("crate.usda", CRATE.as_bytes(), None);
    // Centimetres, z up: 2 wide, 1 high, 10 above the ground, and deep away from who looks.
    let close = |a: [f32; 3], b: [f32; 3]| a.iter().zip(b).all(|(a, b)| (a - b).abs() < 1e-3);
    assert!(
        close(piece.min, [0.0, 100.0, -20.0]) && close(piece.max, [20.0, 110.0, 0.0]),
        "{:?} {:?}",
        piece.min,
        piece.max
    );
    let parts: Vec<_> = piece.parts.iter().map(|p| (p.name.as_str(), p.triangles, p.area.round())).collect();
    assert_eq!(parts, [("Timber", 8, 1000.0), ("Iron", 2, 200.0)]);
    assert_eq!(piece.parts[1].color, "#ff0000");
    assert!(has(&piece, "left out: Sphere") && has(&piece, "2 sets of UVs; set 0"), "{:?}", piece.findings);
    assert!(!has(&piece, "subdivided"));
    // v points down here: the lower left corner of the picture is at 1.
    assert!(piece.uvs.contains(&[0.0, 1.0]) && piece.uvs.contains(&[0.5, 0.5]));
    assert_eq!(
        read("crate.usda", CRATE.as_bytes(), Taking { slots: Slots::Objects, ..Taking::default() }).parts[0].name,
        "Sides"
    );
    // Another unit than it says, if that is asked for.
    let metres = read("crate.usda", CRATE.as_bytes(), Some(Unit::M));
    assert!((metres.max[1] - 11_000.0).abs() < 0.1);
    let likely = sizes("crate.usda", CRATE.as_bytes(), MeshLimits::default()).unwrap();
    assert_eq!(likely.iter().find(|s| s.likely).unwrap().unit, Unit::Cm);
}

#[test]
fn faces_of_the_outside_look_outwards_whichever_hand_it_is_written_for() {
    let outward = |text: &str| {
        let piece = read("crate.usda", text.as_bytes(), None);
        let middle = glam::Vec3::new(10.0, 105.0, -10.0);
        (0..piece.triangles.len() as u32)
            .all(|t| (piece.corners(t).iter().sum::<glam::Vec3>() / 3.0 - middle).dot(piece.face_normal(t)) > 0.0)
    };
    assert!(outward(CRATE));
    let left = CRATE.replacen("uniform token sub", "uniform token orientation = \"leftHanded\"\n uniform token sub", 1);
    assert!(!outward(&left));
    // What is mirrored by its place keeps its outside.
    let mirrored = |text: &str| {
        let turned = "double3 xformOp:translate = (2, 0, 10)\n    float3 xformOp:scale = (-1, 1, 1)";
        text.replace("double3 xformOp:translate = (0, 0, 10)", turned)
            .replace("[\"xformOp:translate\"]", "[\"xformOp:translate\", \"xformOp:scale\"]")
    };
    assert!(outward(&mirrored(CRATE)) && !outward(&mirrored(&left)));
}

#[test]
fn layers_that_belong_together_are_read_together_in_a_folder_and_in_a_package() {
    let root = "#usda 1.0\n(\n    metersPerUnit = 0.01\n    upAxis = \"Z\"\n)\ndef \"Placed\" (\n    prepend references = @parts/crate.usda@</Crate>\n)\n{\n}\n";
    assert_eq!(names_beside("root.usda", root.as_bytes()), ["parts/crate.usda"]);
    let whole = [("root.usda", root.as_bytes()), ("parts/crate.usda", CRATE.as_bytes())];
    for name in ["both.zip", "both.usdz"] {
        let piece = read(name, &zipped(&whole), None);
        assert_eq!((piece.triangles.len(), piece.max[1].round()), (10, 110.0), "{name}");
    }
    // Alone it holds nothing; what is missing is said where something is left.
    let said = import("root.usda", root.as_bytes(), None, MeshLimits::default()).unwrap_err().to_string();
    assert!(said.contains("no triangle"), "{said}");
}

#[test]
fn what_is_broken_is_refused_in_one_sentence() {
    let cut = &CRATE[..700];
    let wrong = CRATE.replace("[4, 4, 4, 4, 4]", "[4, 4, 4, 4, 40]");
    let beyond = CRATE.replace("[0, 3, 2, 1,", "[0, 3, 200, -1,");
    // The crate would go on looking for what lies above these until its stack is full.
    let called = CRATE.replace("\"Sides\"", "\"Si = </Looks/Iron>\n    des\"");
    let bound = CRATE.replace("</Looks/Timber>", "<Timber = \n 0, 0)>");
    assert!(import("a.usda", bound.as_bytes(), None, MeshLimits::default()).is_ok());
    for (bytes, says) in [
        (called.as_str(), "is no name"),
        (&CRATE.replace("[\"xformOp:translate\"]", "[\"xformOp:tra/Looks.n\"]"), "is no name"),
        (cut, "USD"),
        (&wrong, "not there"),
        (&beyond, "not there"),
        ("#usda 1.0\n", "no triangle"),
        ("PXR-USDC", "USD"),
    ] {
        let said = import("a.usda", bytes.as_bytes(), None, MeshLimits::default()).unwrap_err().to_string();
        assert!(said.contains(says) && said.ends_with('.') && !said.contains('\n'), "{said}");
    }
}

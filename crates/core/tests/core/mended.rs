//! What is mended of a mesh as it is taken in.

use std::collections::BTreeSet;

use crate::common::{add_box, quad};
use dustcoat_core::bake::{Surface, layout};
use dustcoat_core::document::{Document, Edit, Target, apply, check, label};
use dustcoat_core::mesh::import::{MeshLimits, import};
use dustcoat_core::mesh::mend::Mending;
use dustcoat_core::mesh::{Piece, Soup, write};
use dustcoat_core::setting::{Param, Settings, Value};
use glam::Vec3;

fn mending(settings: &[(&str, Param)], marked: &[&str]) -> Mending {
    let settings: Settings = settings.iter().map(|(k, v)| ((*k).to_owned(), v.clone())).collect();
    Mending::new(&settings, marked.iter().map(|m| (*m).to_owned()).collect())
}

fn taken(soup: Soup, settings: &[(&str, Param)], marked: &[&str]) -> Piece {
    Piece::build_mended(soup, &mending(settings, marked)).unwrap()
}

fn text(value: &str) -> Param {
    Param::Const(Value::Text(value.into()))
}

fn has(piece: &Piece, what: &str) -> bool {
    piece.findings.iter().any(|f| f.what.contains(what))
}

/// Six times the volume that its faces enclose.
fn volume(piece: &Piece) -> f32 {
    (0..piece.triangles.len() as u32).map(|t| piece.corners(t)).map(|[a, b, c]| a.dot(b.cross(c))).sum()
}

/// A box of two parts: its lid is one, the rest another.
fn lidded() -> Soup {
    let mut soup = Soup::default();
    add_box(&mut soup, [-20.0, -10.0, -20.0], [20.0, 10.0, 20.0], [0.0, 0.0, 1.0, 1.0]);
    soup.parts.fill(0);
    soup.part_names = vec!["body".into()];
    soup.part_colors.truncate(1);
    let lid = soup.part("lid");
    for t in 0..soup.len() {
        let [a, b, c] = [0, 1, 2].map(|k| Vec3::from(soup.positions[3 * t + k]));
        soup.normals[3 * t..3 * t + 3].fill((b - a).cross(c - a).normalize().to_array());
    }
    for t in 0..soup.len() {
        if soup.positions[3 * t..3 * t + 3].iter().all(|p| p[1] > 9.0) {
            soup.parts[t] = lid;
        }
    }
    soup
}

/// The same with some of its faces wound the other way, with their normals.
fn turned(which: impl Fn(usize) -> bool) -> Soup {
    let mut soup = lidded();
    for t in (0..soup.len()).filter(|t| which(*t)) {
        soup.positions.swap(3 * t, 3 * t + 1);
        soup.uvs.swap(3 * t, 3 * t + 1);
        soup.normals[3 * t..3 * t + 3].iter_mut().for_each(|n| *n = n.map(|v| -v));
    }
    soup
}

#[test]
fn faces_are_turned_one_way_and_closed_shells_outwards() {
    let sound = taken(lidded(), &[], &[]);
    assert!(sound.findings.is_empty(), "{:?}", sound.findings);
    for which in [|t: usize| t.is_multiple_of(3), |_: usize| true] {
        let as_it_came = taken(turned(which), &[], &[]);
        assert!(has(&as_it_came, "mixed winding") || has(&as_it_came, "inside out"));
        let mended = taken(turned(which), &[("winding", text("one"))], &[]);
        assert!(!has(&mended, "mixed winding") && !has(&mended, "inside out") && has(&mended, "turned"));
        assert_eq!(volume(&mended), volume(&sound));
        // Normals look out of their faces again.
        for (t, tri) in mended.triangles.iter().enumerate() {
            let face = mended.face_normal(t as u32);
            assert!(tri.iter().all(|v| Vec3::from(mended.normals[*v as usize]).dot(face) > 0.99));
        }
    }
    // An open sheet looks where its normals do, whichever way its faces are wound.
    let mut sheet = Soup::default();
    quad(&mut sheet, "sheet", [[0.0, 0.0, 9.0], [9.0, 0.0, 9.0], [9.0, 0.0, 0.0], [0.0; 3]], [0.0, 0.0, 1.0, 1.0]);
    sheet.normals.fill([0.0, 1.0, 0.0]);
    let up = sheet.normals[0];
    sheet.positions.swap(0, 1);
    sheet.positions.swap(3, 4);
    let mended = taken(sheet, &[("winding", text("one"))], &[]);
    assert!((0..2).all(|t| mended.face_normal(t).to_array() == up));
}

#[test]
fn corners_that_nearly_meet_are_welded_and_gaps_close() {
    let mut soup = lidded();
    // Each corner is off by up to 0.02 mm of its own.
    for (i, p) in soup.positions.iter_mut().enumerate() {
        *p = [0, 1, 2].map(|a| p[a] + ((i * 7 + a * 3) % 5) as f32 * 0.004 - 0.008);
    }
    let gaping = taken(soup.clone(), &[], &[]);
    assert!(has(&gaping, "open") && gaping.shells > 1);
    let welded = taken(soup.clone(), &[("weld", 0.1.into())], &[]);
    assert!(!has(&welded, "open") && welded.shells == 1 && has(&welded, "moved to a place within 0.1 mm"));
    // No corner goes farther than it is told, and what welds everything leaves nothing.
    assert!((volume(&welded) / volume(&gaping) - 1.0).abs() < 0.01);
    let all = Piece::build_mended(soup, &mending(&[("weld", 100.0.into())], &[])).unwrap_err().to_string();
    assert!(all.starts_with("Welding corners within 100 mm leaves no triangle"), "{all}");
}

#[test]
fn what_lies_on_its_side_is_stood_up_and_made_as_large_as_it_is() {
    let size = |p: &Piece| [0, 1, 2].map(|a| p.max[a] - p.min[a]);
    let tall = || {
        let mut soup = Soup::default();
        add_box(&mut soup, [0.0; 3], [1.0, 2.0, 3.0], [0.0, 0.0, 1.0, 1.0]);
        soup
    };
    assert_eq!(size(&taken(tall(), &[], &[])), [1.0, 2.0, 3.0]);
    let stood = taken(tall(), &[("up", text("z")), ("scale", 10.0.into())], &[]);
    assert_eq!((size(&stood), volume(&stood) > 0.0), ([10.0, 30.0, 20.0], true));
    assert_eq!(stood.max[1], 30.0, "z points up");
    let x = taken(tall(), &[("up", text("x"))], &[]);
    assert_eq!((size(&x), x.max[1], volume(&x) > 0.0), ([2.0, 1.0, 3.0], 1.0, true));
    // Normals turn along.
    for (t, tri) in stood.triangles.iter().enumerate() {
        assert!(Vec3::from(stood.normals[tri[0] as usize]).dot(stood.face_normal(t as u32)) > 0.99);
    }
}

#[test]
fn uvs_are_laid_out_anew_for_all_or_for_marked_parts_and_each_part_says_why() {
    let mut soup = lidded();
    // The lid's faces are laid over one another, the rest is drawn out.
    for t in 0..soup.len() {
        let lid = soup.part_names[usize::from(soup.parts[t])] == "lid";
        for (k, uv) in soup.uvs[3 * t..3 * t + 3].iter_mut().enumerate() {
            *uv = if lid { [[0.05, 0.05], [0.95, 0.05], [0.05, 0.95]][k] } else { [uv[0], 0.4 + uv[1] * 0.1] };
        }
    }
    let faults = |p: &Piece| layout::report(p, &Surface::new(std::sync::Arc::new(p.clone()), 256).atlas).faults;
    let sheets = |p: &Piece| p.sheets.iter().map(|s| s.name.clone()).collect::<Vec<_>>();
    let place = |p: &Piece, name: &str| p.parts.iter().position(|x| x.name == name).unwrap();
    let before = taken(soup.clone(), &[], &[]);
    let why = faults(&before);
    let (lid, rest) = (place(&before, "lid"), place(&before, "body"));
    assert!(why[lid].iter().any(|w| w.contains("lies over other faces")), "{why:?}");
    assert!(why[rest].iter().any(|w| w.starts_with("stretched ×")), "{why:?}");
    // Marked alone it has a sheet of its own, and what is not marked lies as it lay.
    let marked = taken(soup.clone(), &[], &["lid"]);
    assert!(has(&marked, "The UVs of lid were laid out anew") && marked.sheets.len() == 2, "{:?}", sheets(&marked));
    assert!(faults(&marked)[place(&marked, "lid")].is_empty(), "{:?}", faults(&marked));
    let uvs = |p: &Piece, part: usize| -> BTreeSet<[u32; 2]> {
        let own = (0..p.triangles.len()).filter(|t| usize::from(p.part_of[*t]) == part);
        own.flat_map(|t| p.triangles[t]).map(|v| p.uvs[v as usize].map(f32::to_bits)).collect()
    };
    assert_eq!(uvs(&marked, place(&marked, "body")), uvs(&before, rest));
    let all = taken(soup.clone(), &[("unwrap", text("all"))], &[]);
    assert!(has(&all, "All UVs were laid out anew") && faults(&all).iter().all(Vec::is_empty) && all.sheets.len() == 1);
    assert_eq!(taken(soup.clone(), &[], &["no such part"]).uvs, before.uvs);
    // What is handed off has what was mended, and comes in again as it is.
    let again = import("mended.glb", &write::glb(&marked, None), None, MeshLimits::default()).unwrap();
    assert_eq!((sheets(&again), again.triangles.len()), (sheets(&marked), marked.triangles.len()));
    assert!(faults(&again)[place(&again, "lid")].is_empty());
}

#[test]
fn a_document_says_what_is_mended_and_refuses_what_makes_no_sense() {
    let target = |key: &str| Target { mending: true, key: key.into(), ..Target::default() };
    let set = |d: &Document, key: &str, value: Option<Param>| apply(d, &Edit::SetParam { target: target(key), value });
    let d = set(&Document::new("Crate"), "up", Some(text("z"))).unwrap();
    let d = apply(&d, &Edit::UnwrapPart { part: "lid".into(), anew: true }).unwrap();
    check(&d).unwrap();
    assert_eq!(d.intake.taking().mending, mending(&[("up", text("z"))], &["lid"]));
    assert_eq!(label(&d, &Edit::SetParam { target: target("weld"), value: None }), "Mesh weld");
    assert!(label(&d, &Edit::UnwrapPart { part: "lid".into(), anew: true }).contains("lid"));
    let back: Document = serde_json::from_str(&serde_json::to_string(&d).unwrap()).unwrap();
    assert_eq!(back, d);
    let d = set(&d, "up", None).unwrap();
    let d = apply(&d, &Edit::UnwrapPart { part: "lid".into(), anew: false }).unwrap();
    assert_eq!(d.intake.taking(), Document::new("Crate").intake.taking());
    for (key, value) in [("scale", 0.0.into()), ("weld", f64::NAN.into()), ("up", text("sideways")), ("up", 3.0.into())]
    {
        let said = set(&d, key, Some(value)).map(|_| ()).unwrap_err().to_string();
        assert!(said.contains("Mesh"), "{said}");
    }
    assert!(set(&d, "colour", Some(text("red"))).unwrap_err().to_string().contains("colour"));
}

//! What is told of a piece: parts, sheets, layout, seams, swapped meshes, relief that it takes on.

use std::collections::BTreeMap;
use std::f32::consts::TAU;

use std::sync::Arc;

use crate::common::{Dice, add_box, cube, measured, numbers, plate, quad};
use dustcoat_core::bake::{Atlas, Finer, Surface, layout};
use dustcoat_core::finish::relief;
use dustcoat_core::mesh::intake::{Intake, PartLook, PartsBy, guess_purpose};
use dustcoat_core::mesh::swap::match_parts;
use dustcoat_core::mesh::{Piece, Soup, write};

use glam::Vec3;

fn built(soup: Soup) -> Arc<Piece> {
    Arc::new(Piece::build(soup).unwrap())
}

#[test]
fn vertex_colours_tell_parts_and_a_part_can_be_renamed_and_recoloured() {
    let mut soup = Soup::default();
    let part = soup.part("body");
    for (k, color) in [[220u8, 30, 30], [30, 60, 220]].into_iter().enumerate() {
        let x = k as f32 * 10.0;
        let corners = [[x, 0.0, 0.0], [x, 0.0, 10.0], [x + 10.0, 0.0, 10.0]];
        let uv = |c: [f32; 3]| [c[0] / 20.0, c[2] / 20.0];
        soup.push_colored(part, corners.map(|c| (c, [0.0, 1.0, 0.0], uv(c))), [Some(color); 3]);
    }
    let mesh = Piece::build(soup).unwrap();
    let look = PartLook { name: Some("Lid".into()), color: Some("#102030".into()), ..PartLook::default() };
    let intake =
        Intake { parts_by: PartsBy::Colors, parts: BTreeMap::from([("Red".into(), look)]), ..Intake::default() };
    let piece = mesh.take_in(&intake, &|_| None);
    let told: Vec<(&str, &str, f64)> =
        piece.parts.iter().map(|p| (p.name.as_str(), p.color.as_str(), p.area)).collect();
    assert_eq!(told.len(), 2);
    assert!(told.iter().any(|t| t.0 == "Lid" && t.1 == "#102030" && (t.2 - 50.0).abs() < 1e-3), "{told:?}");
    assert!(told.iter().any(|t| t.0 == "Blue" && (t.2 - 50.0).abs() < 1e-3), "{told:?}");
    assert_ne!(piece.told, mesh.take_in(&Intake::default(), &|_| None).told, "caches must tell them apart");
    let bare = cube(10.0).take_in(&intake, &|_| None);
    assert!(bare.findings.iter().any(|f| f.what.contains("has none")), "{:?}", bare.findings);
    assert_eq!(bare.parts.len(), 6, "it falls back on the material slots");
}

#[test]
fn names_tell_what_a_picture_is_for() {
    let told = ["valve_Normal.png", "valve-AO.tif", "id_mask.png", "thickness 2k.exr", "rust.jpg"].map(guess_purpose);
    assert_eq!(told, ["normal", "occlusion", "parts", "thickness", ""]);
}

/// A tube of `sides` around y, open at both ends, unrolled into one chart that is cut along its length.
fn tube(sides: u32) -> Arc<Piece> {
    let mut soup = Soup::default();
    let ring = |k: u32, y: f32| {
        let angle = k as f32 / sides as f32 * TAU;
        [30.0 * angle.cos(), y, -30.0 * angle.sin()]
    };
    for k in 0..sides {
        let (u0, u1) = (0.1 + 0.8 * k as f32 / sides as f32, 0.1 + 0.8 * (k + 1) as f32 / sides as f32);
        quad(&mut soup, "tube", [ring(k, 0.0), ring(k + 1, 0.0), ring(k + 1, 60.0), ring(k, 60.0)], [u0, 0.1, u1, 0.5]);
    }
    // The last ring is the first one, to the bit, so that the cut is seen as one.
    for p in &mut soup.positions {
        if (p[0] - 30.0).abs() < 1e-3 && p[2].abs() < 1e-3 {
            (p[0], p[2]) = (30.0, 0.0);
        }
    }
    built(soup)
}

/// A binomial blur that reads gutters: from across the seams, or, without them, from the chart's own border.
fn blurred(surface: &Surface, plane: &[f32], passes: usize, seams: bool) -> Vec<f32> {
    let (a, size) = (&surface.atlas, surface.atlas.size as usize);
    let mut plane = plane.to_vec();
    for _ in 0..passes {
        for stride in [1, size] {
            let square = surface.seams().square(a, &plane);
            let own = |at: usize, i: usize| {
                let known = !square[at].is_nan()
                    && (seams || (a.lookup[at] != u32::MAX && a.area[a.lookup[at] as usize] > 0.0));
                if known { square[at] } else { plane[i] }
            };
            plane = (0..a.len())
                .map(|i| {
                    let at = a.texel[i] as usize;
                    0.25 * own(at - stride, i) + 0.5 * plane[i] + 0.25 * own(at + stride, i)
                })
                .collect();
        }
    }
    plane
}

#[test]
fn a_field_that_is_continuous_in_space_stays_so_after_a_blur_across_a_seam() {
    let surface = Surface::new(tube(64), 256);
    let a = &surface.atlas;
    // A field with a steep slope right at the cut (x = 30, z = 0).
    let field: Vec<f32> = (0..a.len()).map(|i| 0.5 + a.pz[i] / 20.0).collect();
    let step = |plane: &[f32]| {
        let near = |i: &usize| a.px[*i] > 29.0 && (10.0..50.0).contains(&a.py[*i]);
        let side = |above: bool| {
            let mut of: Vec<usize> = (0..a.len()).filter(near).filter(|i| (a.pz[*i] > 0.0) == above).collect();
            of.sort_by(|i, j| a.pz[*i].abs().total_cmp(&a.pz[*j].abs()));
            of.truncate(60);
            of.iter().map(|i| plane[*i] - field[*i]).sum::<f32>() / of.len() as f32
        };
        (side(true) - side(false)).abs()
    };
    let (across, cut) = (step(&blurred(&surface, &field, 40, true)), step(&blurred(&surface, &field, 40, false)));
    assert!(cut > 0.1, "without the seam map the blur breaks at the cut: {cut}");
    assert!(across < cut * 0.05, "with it the field goes on: {across} against {cut}");
}

#[test]
fn gutters_hold_what_lies_across_the_seam() {
    for surface in [Surface::new(tube(48), 256), Surface::new(cube(40.0), 256)] {
        let (a, seams) = (&surface.atlas, surface.seams());
        assert!(seams.across.len() > 200, "{}", seams.across.len());
        let (x, y, z) = (seams.square(a, &a.px), seams.square(a, &a.py), seams.square(a, &a.pz));
        // The step from a border texel into the gutter is as long as one inside the chart.
        let texel = (a.total_area / a.area.iter().filter(|v| **v > 0.0).count() as f64).sqrt() as f32;
        let size = a.size as usize;
        let gutter: std::collections::BTreeSet<u32> = seams.across.iter().map(|g| g.at).collect();
        let mut seen = 0;
        for at in a.texel.iter().map(|t| *t as usize) {
            for to in [at + 1, at + size] {
                if gutter.contains(&(to as u32)) {
                    let d = Vec3::new(x[at] - x[to], y[at] - y[to], z[at] - z[to]).length();
                    assert!(d < texel * 4.0, "a step of {d} mm where texels are {texel} mm apart");
                    seen += 1;
                }
            }
        }
        assert!(seen > 50, "{seen}");
    }
}

#[test]
fn relief_slopes_across_a_seam_as_it_does_beside_it() {
    let surface = Surface::new(tube(64), 512);
    let a = &surface.atlas;
    // A wave around the tube: at the cut it slopes as steeply as anywhere.
    let angle = |i: usize| a.pz[i].atan2(a.px[i]);
    let height: Vec<f32> = (0..a.len()).map(|i| 1.5 * (6.0 * angle(i)).sin()).collect();
    let normals = relief::normals(&surface, &height, &[]);
    let expected = (1.5f32 * 6.0 / 30.0).atan().sin();
    let (mut worst, mut seen) = (0.0f32, 0);
    for i in 0..a.len() {
        if angle(i).abs() < 0.02 && (10.0..50.0).contains(&a.py[i]) {
            worst = worst.max((normals[i][0].abs() - expected).abs());
            seen += 1;
        }
    }
    assert!(seen > 50 && worst < 0.05, "{seen} texels at the cut lean by {expected} ± {worst}");
}

#[test]
fn a_mesh_without_uvs_is_unwrapped_evenly_without_overlap_the_same_every_time() {
    let mut soup = Soup::default();
    add_box(&mut soup, [-20.0; 3], [20.0; 3], [0.0, 0.0, 1.0, 1.0]);
    // A ball beside it.
    let part = soup.part("ball");
    let at = |i: u32, j: u32| {
        let (a, b) = (i as f32 / 24.0 * TAU, j as f32 / 12.0 * TAU / 2.0);
        let (a, b) = if i == 24 { (0.0, b) } else { (a, b) };
        let s = if j == 0 || j == 12 { 0.0 } else { b.sin() };
        [60.0 + 15.0 * s * a.cos(), 15.0 * b.cos(), -15.0 * s * a.sin()]
    };
    for i in 0..24 {
        for j in 0..12 {
            let q = [at(i, j + 1), at(i + 1, j + 1), at(i + 1, j), at(i, j)];
            for t in [[0, 1, 2], [0, 2, 3]] {
                soup.push(part, t.map(|k| (q[k], [0.0; 3], [0.0; 2])));
            }
        }
    }
    soup.uvs.fill([f32::NAN; 2]);
    let piece = built(soup.clone());
    assert!(piece.findings.iter().any(|f| f.what.contains("unwrapped here")), "{:?}", piece.findings);
    assert!((8..60).contains(&piece.charts), "{} charts", piece.charts);
    let surface = Surface::new(piece.clone(), 512);
    assert_eq!(surface.atlas.overlaps.len(), 0);
    let report = layout::report(&piece, &surface.atlas);
    assert!(report.fine / report.coarse < 1.5, "islands keep one scale: {report:?}");
    assert!(report.worst_stretch < 1.5 && report.filled > 0.3, "{report:?}");
    assert_eq!(piece.uvs, built(soup).uvs);
    // Charts stay apart by more than the gutter of a small draft needs.
    let chart = |at: usize| surface.piece.chart_of[surface.atlas.triangle[surface.atlas.lookup[at] as usize] as usize];
    let size = surface.atlas.size as usize;
    let touching = surface.atlas.texel.iter().map(|t| *t as usize).filter(|at| {
        let right = at + 2;
        right % size > 2 && surface.atlas.lookup[right] != u32::MAX && chart(*at) != chart(right)
    });
    assert_eq!(touching.count(), 0);
}

#[test]
fn the_layout_report_knows_a_square_from_a_stretched_one() {
    let report = |piece: &Piece, size: u32| layout::report(piece, &Atlas::build(piece, size));
    let even = report(&plate(64.0), 512);
    assert!((even.density - 8.0).abs() < 0.01 && (even.stretch - 1.0).abs() < 1e-3 && (even.filled - 1.0).abs() < 1e-3);
    let mut soup = Soup::default();
    quad(&mut soup, "a", [[0.0, 0.0, 10.0], [40.0, 0.0, 10.0], [40.0, 0.0, 0.0], [0.0; 3]], [0.0, 0.0, 1.0, 1.0]);
    let long = report(&Piece::build(soup).unwrap(), 100);
    assert!((long.stretch - 4.0).abs() < 1e-3, "{long:?}");
    assert!(even.overlap == 0.0 && even.finding().is_none());
    // Two squares of one part, half over one another: a third of what they cover is covered twice.
    let mut soup = Soup::default();
    for (x, u) in [(0.0, 0.0), (50.0, 0.3)] {
        let corners = [[x, 0.0, 20.0], [x + 20.0, 0.0, 20.0], [x + 20.0, 0.0, 0.0], [x, 0.0, 0.0]];
        quad(&mut soup, "a", corners, [u, 0.0, u + 0.6, 0.6]);
    }
    let twice = report(&Piece::build(soup).unwrap(), 256);
    assert!((twice.overlap - 1.0 / 3.0).abs() < 0.02, "{twice:?}");
    assert!(twice.finding().is_some_and(|f| f.what.starts_with("33.")), "{:?}", twice.finding());
}

/// Two plates side by side, the second in the tile right of the first and one up.
fn tiled() -> Soup {
    let mut soup = Soup::default();
    quad(&mut soup, "a", [[0.0, 0.0, 10.0], [10.0, 0.0, 10.0], [10.0, 0.0, 0.0], [0.0; 3]], [0.1, 0.1, 0.9, 0.9]);
    quad(
        &mut soup,
        "b",
        [[10.0, 0.0, 10.0], [20.0, 0.0, 10.0], [20.0, 0.0, 0.0], [10.0, 0.0, 0.0]],
        [1.1, -0.9, 1.9, -0.1],
    );
    soup
}

#[test]
fn tiles_are_sheets_numbered_as_udim_numbers_them() {
    let piece = built(tiled());
    let names: Vec<&str> = piece.sheets.iter().map(|s| s.name.as_str()).collect();
    assert_eq!(names, ["1001", "1012"]);
    assert!(!piece.findings.iter().any(|f| f.serious), "{:?}", piece.findings);
    let surface = Surface::new(piece.clone(), 64);
    let a = &surface.atlas;
    assert_eq!(a.lookup.len(), 2 * 64 * 64);
    let on = |sheet: u32| (0..a.len()).filter(|i| a.texel[*i] / (64 * 64) == sheet).collect::<Vec<_>>();
    assert!(on(0).iter().all(|i| a.px[*i] <= 10.01) && on(1).iter().all(|i| a.px[*i] >= 9.99));
    assert!((a.total_area - 200.0).abs() < 8.0, "{}", a.total_area);
    // The way out and in again keeps the tiles.
    let again = Piece::build(reread(&write::glb(&piece, None))).unwrap();
    assert_eq!(again.sheets, piece.sheets);
    // And what lies across the seam between the sheets is known.
    let x = surface.seams().square(a, &a.px);
    let crossing = surface.seams().across.iter().filter(|g| g.at < 64 * 64 && x[g.at as usize] > 10.1).count();
    assert!(crossing > 20, "{crossing} gutter texels of the first sheet hold the second");
}

fn reread(glb: &[u8]) -> Soup {
    use dustcoat_core::mesh::import::{MeshLimits, bare};
    bare("a.glb", glb, None, MeshLimits::default()).unwrap()
}

#[test]
fn slots_that_each_fill_the_square_get_a_sheet_each() {
    let mut soup = Soup::default();
    for (k, part) in ["hull", "deck", "rail"].into_iter().enumerate() {
        let x = 10.0 * k as f32;
        let uv = if part == "rail" { [0.7, 0.7, 0.95, 0.95] } else { [0.0, 0.0, 0.6, 0.6] };
        quad(&mut soup, part, [[x, 0.0, 10.0], [x + 10.0, 0.0, 10.0], [x + 10.0, 0.0, 0.0], [x, 0.0, 0.0]], uv);
    }
    let piece = built(soup);
    let names: Vec<&str> = piece.sheets.iter().map(|s| s.name.as_str()).collect();
    assert_eq!(names, ["1001", "hull.1001", "deck.1001"], "the rail shares the square with nobody");
    assert_eq!(Surface::new(piece.clone(), 128).atlas.overlaps.len(), 0);
    assert!(piece.findings.iter().any(|f| f.what.contains("deck, hull")), "{:?}", piece.findings);
}

#[test]
fn a_new_version_of_a_mesh_keeps_its_parts_by_name_and_then_by_place() {
    let slab = |names: [&str; 3], shift: f32| {
        let mut soup = Soup::default();
        for (k, name) in names.into_iter().enumerate() {
            let x = 30.0 * k as f32 + if k == 1 { shift } else { 0.0 };
            let u = k as f32 / 3.0;
            quad(
                &mut soup,
                name,
                [[x, 0.0, 20.0], [x + 20.0, 0.0, 20.0], [x + 20.0, 0.0, 0.0], [x, 0.0, 0.0]],
                [u, 0.0, u + 0.3, 1.0],
            );
        }
        Piece::build(soup).unwrap()
    };
    let old = slab(["body", "lid", "foot"], 0.0);
    let same = match_parts(&old, &slab(["foot", "body", "lid"], 0.0));
    assert!(same.lost.is_empty() && same.placed.is_empty(), "names are enough: {same:?}");
    let placed = match_parts(&old, &slab(["body", "mat_03", "foot"], 1.0));
    assert_eq!(placed.placed, [("lid".to_owned(), "mat_03".to_owned())]);
    assert_eq!(placed.looks["mat_03"].name.as_deref(), Some("lid"), "it goes on under the name that masks know");
    let mut less = Soup::default();
    quad(&mut less, "body", [[0.0, 0.0, 20.0], [20.0, 0.0, 20.0], [20.0, 0.0, 0.0], [0.0; 3]], [0.0, 0.0, 1.0, 1.0]);
    let less = match_parts(&old, &Piece::build(less).unwrap());
    assert_eq!(less.lost, ["lid", "foot"]);
    let report = less.report("slab.obj").expect("there is something to tell");
    assert_eq!((report.from.as_str(), report.lost.len(), report.fresh.len()), ("slab.obj", 2, 0));
    let other = match_parts(&old, &slab(["body", "hatch", "foot"], 70.0));
    assert_eq!((other.lost.as_slice(), other.fresh.as_slice()), (&["lid".to_owned()][..], &["hatch".to_owned()][..]));
    assert_eq!(same.report("slab.obj"), None, "a plain swap leaves nothing to see to");
}

#[test]
fn a_finer_mesh_lends_its_normals_within_the_cage() {
    // A low roof over the plate: two slopes of 20° that meet in a ridge along z.
    let mut soup = Soup::default();
    let rise = 50.0 * 20f32.to_radians().tan() * 0.02;
    let slope = rise / 50.0;
    quad(
        &mut soup,
        "l",
        [[-50.0, 0.0, 50.0], [0.0, rise, 50.0], [0.0, rise, -50.0], [-50.0, 0.0, -50.0]],
        [0.0, 0.0, 1.0, 1.0],
    );
    quad(
        &mut soup,
        "r",
        [[0.0, rise, 50.0], [30.0, rise * 0.4, 50.0], [30.0, rise * 0.4, -50.0], [0.0, rise, -50.0]],
        [0.0, 0.0, 1.0, 1.0],
    );
    // Hard along the ridge.
    soup.normals = (0..12).map(|i| [if i < 6 { -slope } else { slope }, 1.0, 0.0]).collect();
    let glb = write::glb(&Piece::build(soup).unwrap(), None);
    let finer = Arc::new(Finer::read("fine.glb", &glb, None).unwrap());
    let low = |cage: f32| Surface::new(plate(100.0), 128).with_finer(Some((finer.clone(), cage)));
    let surface = low(5.0);
    let base = surface.base_normals().unwrap();
    let a = &surface.atlas;
    for i in 0..a.len() {
        let expected = if a.px[i] < 0.0 { -slope } else { slope };
        if a.px[i] > 30.5 {
            assert_eq!(base.normals[i], [0.0, 0.0, 1.0], "nothing there to meet");
        } else if a.px[i].abs() > 1.0 && a.px[i] < 29.0 {
            let along = base.normals[i][0] / base.normals[i][2];
            assert!((along - expected).abs() < slope * 0.01, "{along} against {expected} at {}", a.px[i]);
        }
    }
    assert!((base.missed.unwrap() - 0.2).abs() < 0.02, "{:?}", base.missed);
    assert!(low(0.05).base_normals().unwrap().missed.unwrap() > 0.5, "too small a cage misses it");
}

#[test]
fn border_part_and_shell_readings_say_what_they_are_named_after() {
    let surface = Surface::new(cube(40.0), 128);
    let a = &surface.atlas;
    let border = measured(&surface, "chart_border", &numbers([("reach", 8.0)]));
    for i in 0..a.len() {
        let p = [a.px[i].abs(), a.py[i].abs(), a.pz[i].abs()];
        let axis = (0..3).max_by(|x, y| p[*x].total_cmp(&p[*y])).unwrap();
        let nearest = (0..3).filter(|k| *k != axis).map(|k| 20.0 - p[k]).fold(f32::MAX, f32::min);
        let expected = (1.0 - nearest / 8.0).clamp(0.0, 1.0);
        assert!((border[i] - expected).abs() < 0.01, "{} against {expected}", border[i]);
    }
    let parts = measured(&surface, "part_value", &[]);
    let mut of: BTreeMap<u16, f32> = BTreeMap::new();
    for i in 0..a.len() {
        assert_eq!(*of.entry(a.part[i]).or_insert(parts[i]), parts[i]);
    }
    let distinct: std::collections::BTreeSet<u32> = of.values().map(|v| v.to_bits()).collect();
    assert_eq!(distinct.len(), 6);
}

#[test]
fn the_grounds_plane_and_the_own_shell_shade_as_told() {
    // A wall of two plates, back to back with a gap: each is shaded by the other only when the whole piece counts.
    let mut soup = Soup::default();
    quad(
        &mut soup,
        "front",
        [[-50.0, 0.0, 0.0], [50.0, 0.0, 0.0], [50.0, 100.0, 0.0], [-50.0, 100.0, 0.0]],
        [0.0, 0.0, 0.5, 1.0],
    );
    quad(
        &mut soup,
        "facing",
        [[500.0, -400.0, 5.0], [-500.0, -400.0, 5.0], [-500.0, 500.0, 5.0], [500.0, 500.0, 5.0]],
        [0.5, 0.0, 1.0, 1.0],
    );
    let surface = Surface::new(built(soup), 128);
    let a = &surface.atlas;
    let mean = |settings: &[(&str, dustcoat_core::setting::Param)]| {
        let open = measured(&surface, "occlusion", settings);
        let of: Vec<f32> = (0..a.len()).filter(|i| a.part[*i] == 0).map(|i| open[i]).collect();
        of.iter().sum::<f32>() / of.len() as f32
    };
    let far = || ("distance", 10_000.0.into());
    assert!(mean(&[far()]) < 0.05, "a wall right before it leaves little open");
    assert!(mean(&[far(), ("by", "shell".into())]) > 0.999, "its own shell shades nothing");
    // A vertical wall sees the ground with half of its sky, by the cosine: ½ where the plane is endless.
    let mut lone = Soup::default();
    quad(
        &mut lone,
        "wall",
        [[-1.0, 0.0, 0.0], [1.0, 0.0, 0.0], [1.0, 2.0, 0.0], [-1.0, 2.0, 0.0]],
        [0.0, 0.0, 1.0, 1.0],
    );
    let surface = Surface::new(built(lone), 64);
    let open = measured(&surface, "occlusion", &[far(), ("ground", "plane".into()), ("rays", 256.0.into())]);
    let mean = open.iter().sum::<f32>() / open.len() as f32;
    assert!((mean - 0.5).abs() < 0.01, "{mean}");
}

#[test]
fn three_radii_come_of_one_set_of_rays() {
    let surface = Surface::new(cube(100.0), 128);
    let radii = [("fine", 3.0), ("medium", 8.0), ("broad", 20.0)];
    let settings = numbers([radii[0], radii[1], radii[2], ("rays", 128.0)]);
    let a = &surface.atlas;
    for (name, radius) in radii {
        let mut with = settings.to_vec();
        with.push(("radius", name.into()));
        let edges = measured(&surface, "edges", &with);
        let mut worst = 0.0f64;
        for i in 0..a.len() {
            let p = [a.px[i].abs(), a.py[i].abs(), a.pz[i].abs()];
            let axis = (0..3).max_by(|x, y| p[*x].total_cmp(&p[*y])).unwrap();
            let mut d: Vec<f32> = (0..3).filter(|k| *k != axis).map(|k| 50.0 - p[k]).collect();
            d.sort_by(f32::total_cmp);
            // The closed form beside one edge: V = (½ + (3u − u³)/4) / 2.
            if d[1] > 20.0 && d[0] > 0.3 {
                let u = f64::from(d[0] / radius as f32).min(1.0);
                let expected = 1.0 - (0.5 + (3.0 * u - u * u * u) / 4.0);
                worst = worst.max((f64::from(edges[i]) - expected).abs());
            }
        }
        assert!(worst < 0.17, "{name}: worst {worst}");
    }
}

#[test]
fn errors_fall_with_the_rays_as_stratified_ones_do() {
    let mut soup = Soup::default();
    quad(
        &mut soup,
        "floor",
        [[0.0, 0.0, 5.0], [40.0, 0.0, 5.0], [40.0, 0.0, -5.0], [0.0, 0.0, -5.0]],
        [0.0, 0.0, 1.0, 0.5],
    );
    quad(
        &mut soup,
        "wall",
        [[0.0, 0.0, 2e3], [0.0, 0.0, -2e3], [0.0, 20.0, -2e3], [0.0, 20.0, 2e3]],
        [0.0, 0.6, 0.1, 0.9],
    );
    let surface = Surface::new(built(soup), 128);
    let a = &surface.atlas;
    let scatter = |rays: f64| {
        let open = measured(
            &surface,
            "occlusion",
            &[("rays", rays.into()), ("distance", 10_000.0.into()), ("smooth", "off".into())],
        );
        let of: Vec<f64> = (0..a.len())
            .filter(|i| a.part[*i] == 0 && a.px[*i] > 1.0)
            .map(|i| {
                let d = f64::from(a.px[i]);
                f64::from(open[i]) - (0.5 + 0.5 * d / (d * d + 400.0).sqrt())
            })
            .collect();
        (of.iter().map(|e| e * e).sum::<f64>() / of.len() as f64).sqrt()
    };
    let (few, many) = (scatter(16.0), scatter(256.0));
    // Independent rays would fall by 4; points of one in each cell fall faster.
    assert!(few / many > 5.0, "{few} with 16 rays, {many} with 256");
}

#[test]
fn edges_have_no_noise_and_are_measured_finely_where_they_are() {
    let surface = Surface::new(cube(100.0), 64);
    let a = &surface.atlas;
    let (on, off) = (
        measured(&surface, "edges", &[("medium", 6.0.into()), ("rays", 64.0.into())]),
        measured(&surface, "edges", &[("medium", 6.0.into()), ("rays", 64.0.into()), ("smooth", "off".into())]),
    );
    // Along an edge all texels see the same, and look in the same directions: there is no noise.
    let noise = |plane: &[f32]| {
        let of: Vec<f32> = (0..a.len())
            .filter(|i| a.py[*i] > 49.9 && (a.px[*i] - 48.0).abs() < 1.2 && a.pz[*i].abs() < 30.0)
            .map(|i| plane[i])
            .collect();
        let mean = of.iter().sum::<f32>() / of.len() as f32;
        (of.iter().map(|v| (v - mean) * (v - mean)).sum::<f32>() / of.len() as f32).sqrt()
    };
    assert!(on != off && noise(&on) < 1e-3 && noise(&off) < 1e-3, "{} and {}", noise(&on), noise(&off));
    let mut dice = Dice(7);
    let flat = (0..a.len()).filter(|i| a.py[*i] > 49.9 && a.px[*i].abs() < 20.0 && a.pz[*i].abs() < 20.0);
    for i in flat.filter(|_| dice.roll() < 0.2) {
        assert_eq!(on[i], off[i], "what lies flat is not measured twice");
    }
}

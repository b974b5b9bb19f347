//! Coarse meshes with smooth normals, measured as what they are meant to be: against the true surfaces.

use std::collections::HashMap;
use std::f32::consts::TAU;
use std::sync::Arc;

use crate::common::{Dice, cube, measured, numbers, sphere, sphere_of};
use dustcoat_core::bake::Surface;
use dustcoat_core::bake::bvh::{Bvh, Packet, WIDTH};
use dustcoat_core::mesh::curved::Curved;
use dustcoat_core::mesh::mend::Mending;
use dustcoat_core::mesh::{Piece, Soup};
use dustcoat_core::setting::Settings;
use glam::Vec3;

/// A solid cylinder around y with so many sides, smooth around and hard at its rims.
fn drum(radius: f32, length: f32, sides: u32) -> Soup {
    let mut soup = Soup::default();
    let (round, lid) = (soup.part("round"), soup.part("lid"));
    let way = |i: u32| {
        let turn = (i % sides) as f32 / sides as f32 * TAU;
        Vec3::new(turn.cos(), 0.0, -turn.sin())
    };
    for i in 0..sides {
        let side = |i: u32, v: f32| {
            let place = way(i) * radius + Vec3::Y * (0.5 - v) * length;
            (place.to_array(), way(i).to_array(), [i as f32 / sides as f32, v * 0.6])
        };
        let [a, b, c, d] = [side(i, 1.0), side(i + 1, 1.0), side(i + 1, 0.0), side(i, 0.0)];
        soup.push(round, [a, b, c]);
        soup.push(round, [a, c, d]);
        for up in [1.0f32, -1.0] {
            let flat = |p: Vec3| {
                let middle = if up > 0.0 { 0.2 } else { 0.7 };
                let uv = [middle + p.x / radius * 0.18, 0.8 + p.z / radius * 0.18];
                ((p + Vec3::Y * up * length * 0.5).to_array(), [0.0, up, 0.0], uv)
            };
            let [m, a, b] = [flat(Vec3::ZERO), flat(way(i) * radius), flat(way(i + 1) * radius)];
            soup.push(lid, if up > 0.0 { [m, a, b] } else { [m, b, a] });
        }
    }
    soup
}

/// A ring around y, `thick` the radius of its tube, of so many sides along and around.
fn ring(radius: f32, thick: f32, sides: u32) -> Soup {
    let mut soup = Soup::default();
    let part = soup.part("ring");
    let around = sides;
    let corner = |i: u32, j: u32| {
        let turn = |k: u32, of: u32| ((k % of) as f32 / of as f32 * TAU).sin_cos();
        let ((s, c), (t, d)) = (turn(i, sides), turn(j, around));
        let (out, n) = (Vec3::new(c, 0.0, -s), Vec3::new(c * d, t, -s * d));
        ((out * radius + n * thick).to_array(), n.to_array(), [i as f32 / sides as f32, 1.0 - j as f32 / around as f32])
    };
    for (i, j) in (0..around).flat_map(|j| (0..sides).map(move |i| (i, j))) {
        let [a, b, c, d] = [corner(i, j), corner(i + 1, j), corner(i + 1, j + 1), corner(i, j + 1)];
        soup.push(part, [a, b, c]);
        soup.push(part, [a, c, d]);
    }
    soup
}

fn built(soup: Soup) -> Arc<Piece> {
    Arc::new(Piece::build(soup).unwrap())
}

fn flat(soup: Soup) -> Arc<Piece> {
    let settings = Settings::from([("faces".into(), "flat".into())]);
    Arc::new(Piece::build_mended(soup, &Mending::new(&settings, Default::default())).unwrap())
}

/// How far the corners of the little faces lie from a surface, the most.
fn off(piece: &Piece, distance: impl Fn(Vec3) -> f32) -> f32 {
    let curved = Curved::of(piece).expect("it is curved");
    curved.faces.iter().flatten().map(|p| distance(*p).abs()).fold(0.0, f32::max)
}

/// Whether each side of a little face is met by one other that runs the other way.
fn is_closed(piece: &Piece) -> bool {
    let mut sides: HashMap<[[u32; 3]; 2], i32> = HashMap::new();
    for face in Curved::of(piece).expect("it is curved").faces {
        let at = face.map(|p| p.to_array().map(|v| (v + 0.0).to_bits()));
        for k in 0..3 {
            let (a, b) = (at[k], at[(k + 1) % 3]);
            *sides.entry([a.min(b), a.max(b)]).or_default() += if a < b { 1 } else { -1 };
        }
    }
    sides.values().all(|n| *n == 0)
}

/// Whether whatever goes out from a place within it, in any direction, leaves it once more often than it enters.
fn is_tight(piece: &Piece) -> bool {
    let bvh = Bvh::build(&Curved::of(piece).expect("it is curved").faces);
    let mut dice = Dice(5);
    let mut way = || Vec3::from_array([0; 3].map(|_: i32| dice.roll() as f32 - 0.5)).normalize_or(Vec3::X);
    // Within the tube of a ring, and within a ball.
    let within = piece.max[0] * 0.8;
    let wrong = |_: usize| {
        let mut packet = Packet::default();
        (0..WIDTH).for_each(|l| packet.set(l, [within, 0.3, 0.2], way().to_array(), 0.0, 1000.0));
        bvh.depth(&packet).iter().filter(|d| **d != 1.0).count()
    };
    // A few of 32,000 run along an edge itself and meet both faces or neither; a gap would let through hundreds.
    (0..2000).map(wrong).sum::<usize>() < 10
}

#[test]
fn little_faces_lie_on_the_round_thing_that_is_meant_and_close_it() {
    // A side of 45° is off by 8 % of the radius in its middle; the curved one by a hundredth, and less by the square of its angle.
    for (sides, allowed) in [(8, 1.2e-2), (16, 2e-3), (32, 1e-3), (64, 5e-4)] {
        let (radius, length) = (50.0, 160.0);
        let piece = built(drum(radius, length, sides));
        assert!(piece.round && is_closed(&piece), "{sides} sides");
        let drum = |p: Vec3| {
            let (out, up) = (p.x.hypot(p.z) - radius, p.y.abs() - length / 2.0);
            if out.abs() < up.abs() || up < -1e-3 { out } else { out.max(0.0).max(up) }
        };
        // What lies on the lids may lie anywhere within the rim.
        let on = |p: Vec3| {
            if (p.y.abs() - length / 2.0).abs() < 1e-3 { (p.x.hypot(p.z) - radius).max(0.0) } else { drum(p) }
        };
        assert!(off(&piece, on) < allowed * radius, "a drum of {sides}: {}", off(&piece, on));
        let ball = sphere_of(radius, sides, sides / 2);
        assert!(
            off(&ball, |p| p.length() - radius) < 3.0 * allowed * radius,
            "a ball of {sides}: {}",
            off(&ball, |p| p.length() - radius)
        );
        assert!(is_tight(&ball), "a ball of {sides}");
        let ring = built(ring(60.0, 20.0, sides));
        let to_ring = |p: Vec3| (p.x.hypot(p.z) - 60.0).hypot(p.y) - 20.0;
        assert!(off(&ring, to_ring) < 6.0 * allowed * 20.0, "a ring of {sides}: {}", off(&ring, to_ring));
        assert!(is_tight(&ring), "a ring of {sides}");
    }
}

#[test]
fn a_rim_is_round_along_itself_and_stays_as_hard_as_it_was() {
    let piece = built(drum(50.0, 160.0, 12));
    let faces = Curved::of(&piece).unwrap().faces;
    let normal = |f: &[Vec3; 3]| (f[1] - f[0]).cross(f[2] - f[0]).normalize();
    // Every little face looks up, down or straight out: none bends over the rim.
    let bent = faces.iter().map(|f| normal(f).y.abs()).find(|y| (0.05..0.9999).contains(y));
    assert_eq!(bent, None);
    let area: f32 = faces.iter().map(|f| (f[1] - f[0]).cross(f[2] - f[0]).length() * 0.5).sum();
    let whole = TAU * 50.0 * 160.0 + TAU * 50.0 * 50.0;
    assert!((area / whole - 1.0).abs() < 5e-3, "{area} of {whole}");
}

#[test]
fn what_is_not_round_stays_as_it_is() {
    assert!(Curved::of(&cube(40.0)).is_none() && !cube(40.0).round);
    // A box whose normals were smoothed over its edges.
    let box_of = |shaded: bool| {
        let mut soup = Soup::default();
        crate::common::add_box(&mut soup, [-20.0; 3], [20.0; 3], [0.0, 0.0, 1.0, 1.0]);
        if shaded {
            soup.normals = soup.positions.iter().map(|p| Vec3::from(*p).normalize().to_array()).collect();
        }
        built(soup)
    };
    assert!(Curved::of(&box_of(true)).is_none() && !box_of(true).round);
    // A fine mesh turns too little at each edge to be cut for it by itself.
    assert!(!sphere(30.0).round);
    let hashes = [built(drum(50.0, 160.0, 16)).hash.clone(), flat(drum(50.0, 160.0, 16)).hash.clone()];
    assert_ne!(hashes[0], hashes[1], "what is measured of them is kept apart");
    let told = |p: &Piece| p.findings.iter().filter(|f| f.what.contains("round")).count();
    assert_eq!((told(&built(drum(50.0, 160.0, 16))), told(&flat(drum(50.0, 160.0, 16))), told(&cube(40.0))), (1, 0, 0));
}

/// Mean and worst distance of a reading from what it should be, over the texels that are asked for; a hundredth of them may be worse.
fn error(surface: &Surface, plane: &[f32], wanted: impl Fn(Vec3) -> Option<f32>) -> (f32, f32) {
    let a = &surface.atlas;
    let place = |i: usize| Vec3::new(a.px[i], a.py[i], a.pz[i]);
    let mut all: Vec<f32> = (0..a.len()).filter_map(|i| Some((plane[i] - wanted(place(i))?).abs())).collect();
    assert!(all.len() > 1000, "{} texels", all.len());
    all.sort_by(f32::total_cmp);
    (all.iter().sum::<f32>() / all.len() as f32, all[all.len() * 99 / 100])
}

#[test]
fn a_drum_of_few_sides_reads_like_the_true_one_along_its_side_and_at_its_rims() {
    let settings = numbers([("fine", 2.0), ("medium", 6.0), ("broad", 20.0), ("rays", 256.0)]);
    let edges = |piece: Arc<Piece>| {
        let surface = Surface::new(piece, 128);
        let plane = measured(&surface, "edges", &settings);
        (surface, plane)
    };
    let (true_one, true_plane) = edges(built(drum(50.0, 160.0, 360)));
    assert!(!true_one.piece.round);
    let mean = |(s, plane): (&Surface, &[f32]), low: f32, high: f32| {
        let near = |i: &usize| s.atlas.part[*i] == 0 && (low..high).contains(&s.atlas.py[*i].abs());
        let all: Vec<f32> = (0..s.atlas.len()).filter(near).map(|i| plane[i]).collect();
        all.iter().sum::<f32>() / all.len() as f32
    };
    let along = mean((&true_one, &true_plane), 0.0, 60.0);
    for sides in [8, 16, 32, 64] {
        let (round, plane) = edges(built(drum(50.0, 160.0, sides)));
        let (off, worst) = error(&round, &plane, |p| (p.y.abs() < 60.0).then_some(along));
        assert!(off < 0.015 && worst < 0.03, "{sides} sides: {off}, {worst}");
        let rims = [mean((&round, &plane), 78.0, 80.0), mean((&true_one, &true_plane), 78.0, 80.0)];
        assert!((rims[0] - rims[1]).abs() < 0.03, "{sides} sides: the rims read {rims:?}");
    }
    // As triangles it has an edge every 22°.
    let (facets, plane) = edges(flat(drum(50.0, 160.0, 16)));
    let (_, worst) = error(&facets, &plane, |p| (p.y.abs() < 60.0).then_some(along));
    assert!(worst > 0.045, "{worst}");
}

#[test]
fn balls_and_rings_of_few_sides_read_as_their_closed_form_and_as_a_fine_one() {
    let settings = numbers([("fine", 2.0), ("medium", 6.0), ("broad", 20.0), ("rays", 256.0)]);
    for (sides, allowed) in [(8, 0.07), (16, 0.03), (32, 0.03), (64, 0.03)] {
        // A ball of r around a spot of a ball of R holds 1/2 − 3r/16R of it.
        let surface = Surface::new(sphere_of(50.0, sides, sides / 2), 128);
        let plane = measured(&surface, "edges", &settings);
        let (off, worst) = error(&surface, &plane, |p| (p.y.abs() < 45.0).then_some(3.0 * 6.0 / (8.0 * 50.0)));
        assert!(off < 0.015 && worst < allowed, "a ball of {sides}: {off}, {worst}");
    }
    let inner = |s: &Surface, plane: &[f32]| {
        let inside = |i: &usize| s.atlas.px[*i].hypot(s.atlas.pz[*i]) < 45.0;
        let all: Vec<f32> = (0..s.atlas.len()).filter(inside).map(|i| plane[i]).collect();
        all.iter().sum::<f32>() / all.len() as f32
    };
    let fine = Surface::new(built(ring(60.0, 20.0, 256)), 256);
    let wanted = ["edges", "occlusion", "thickness"]
        .map(|kind| inner(&fine, &measured(&fine, kind, &numbers([("rays", 64.0)]))));
    for sides in [12, 24] {
        let coarse = Surface::new(built(ring(60.0, 20.0, sides)), 256);
        for (kind, wanted) in ["edges", "occlusion", "thickness"].into_iter().zip(wanted) {
            let found = inner(&coarse, &measured(&coarse, kind, &numbers([("rays", 64.0)])));
            assert!((found - wanted).abs() < 0.03, "{kind} of a ring of {sides}: {found}, not {wanted}");
        }
    }
}

#[test]
fn a_round_thing_of_few_faces_does_not_shade_itself() {
    // Rays around a smooth normal would meet the next facets.
    let open = |piece: Arc<Piece>| {
        let surface = Surface::new(piece, 256);
        let plane = measured(&surface, "occlusion", &numbers([("rays", 64.0)]));
        let side: Vec<f32> = (0..plane.len()).filter(|i| surface.atlas.py[*i].abs() < 79.0).map(|i| plane[i]).collect();
        side.iter().sum::<f32>() / side.len() as f32
    };
    let [round, facets] = [open(built(drum(50.0, 160.0, 8))), open(flat(drum(50.0, 160.0, 8)))];
    assert!(round > 0.995 && round >= facets, "{round}, as facets {facets}");
}

//! Readings against closed forms and brute force.

use std::sync::Arc;

use crate::common::{Dice, add_box, cube, measured, numbers, plate, quad};
use dustcoat_core::bake::Surface;
use dustcoat_core::bake::bvh::{Bvh, Packet, WIDTH};
use dustcoat_core::mesh::{Piece, Soup};
use dustcoat_core::task::Cancel;
use glam::Vec3;

/// A floor 100 mm wide, beside a wall of height `h` that is as good as endless.
fn floor_beside_wall(h: f32) -> Surface {
    let mut soup = Soup::default();
    let far = 2_000.0;
    quad(
        &mut soup,
        "floor",
        [[0.0, 0.0, 1.0], [100.0, 0.0, 1.0], [100.0, 0.0, -1.0], [0.0, 0.0, -1.0]],
        [0.0, 0.0, 1.0, 0.5],
    );
    quad(&mut soup, "wall", [[0.0, 0.0, far], [0.0, 0.0, -far], [0.0, h, -far], [0.0, h, far]], [0.0, 0.6, 0.1, 0.9]);
    Surface::new(Arc::new(Piece::build(soup).unwrap()), 256)
}

#[test]
fn a_wall_shades_the_floor_beside_it_as_the_closed_form_says() {
    for h in [10.0f32, 40.0] {
        let surface = floor_beside_wall(h);
        let open = measured(&surface, "occlusion", &numbers([("rays", 256.0), ("distance", 10_000.0)]));
        let a = &surface.atlas;
        let floor: Vec<usize> = (0..a.len()).filter(|i| a.part[*i] == 0).collect();
        assert!(floor.len() > 10_000, "the floor is covered");
        let errors: Vec<f64> = floor
            .iter()
            .map(|i| {
                let d = f64::from(a.px[*i]);
                let shaded = 0.5 * (1.0 - d / (d * d + f64::from(h * h)).sqrt());
                f64::from(open[*i]) - (1.0 - shaded)
            })
            .collect();
        let mean = errors.iter().sum::<f64>() / errors.len() as f64;
        let rms = (errors.iter().map(|e| e * e).sum::<f64>() / errors.len() as f64).sqrt();
        assert!(mean.abs() < 0.002, "wall of {h} mm: bias {mean}");
        let worst = errors.iter().fold(0.0f64, |w, e| w.max(e.abs()));
        assert!(worst < 0.15, "wall of {h} mm: worst {worst}");
        // 256 independent rays would scatter by up to 0.031; stratified ones by less.
        assert!(rms < 0.02, "wall of {h} mm: scatter {rms}");
    }
}

#[test]
fn what_is_farther_than_the_distance_does_not_shade() {
    let surface = floor_beside_wall(40.0);
    let open = measured(&surface, "occlusion", &numbers([("rays", 64.0), ("distance", 30.0)]));
    let a = &surface.atlas;
    let beyond = |i: &usize| a.part[*i] == 0 && a.px[*i] > 31.0;
    assert!((0..a.len()).filter(beyond).all(|i| open[i] == 1.0));
}

/// Share of a ball of radius r around the middle of a face, `u` r from one edge, that lies inside: F(u) / 2.
fn beside_an_edge(u: f64) -> f64 {
    let u = u.min(1.0);
    (0.5 + (3.0 * u - u * u * u) / 4.0) / 2.0
}

#[test]
fn the_ball_integral_reads_half_on_flats_a_quarter_on_edges_an_eighth_on_corners() {
    let (side, radius) = (100.0f32, 10.0f32);
    let surface = Surface::new(cube(side), 256);
    let edges = measured(&surface, "edges", &numbers([("medium", f64::from(radius)), ("rays", 256.0)]));
    let recesses = measured(&surface, "recesses", &numbers([("medium", f64::from(radius)), ("rays", 256.0)]));
    let a = &surface.atlas;
    let (mut bias, mut worst, mut seen) = (0.0f64, 0.0f64, 0);
    let mut corner = 0.0f32;
    for i in 0..a.len() {
        // Distances to the four edges of the texel's face, nearest first.
        let p = [a.px[i], a.py[i], a.pz[i]];
        let axis = (0..3).max_by(|x, y| p[*x].abs().total_cmp(&p[*y].abs())).unwrap();
        let mut d: Vec<f32> = (0..3).filter(|k| *k != axis).map(|k| side / 2.0 - p[k].abs()).collect();
        d.sort_by(f32::total_cmp);
        if d[0] > radius * 1.05 {
            assert!(edges[i] < 0.01 && recesses[i] < 0.01, "flat: {} {}", edges[i], recesses[i]);
        }
        if d[1] > radius && d[0] >= 0.0 {
            let expected = 1.0 - 2.0 * beside_an_edge(f64::from(d[0] / radius));
            let error = f64::from(edges[i]) - expected;
            bias += error;
            worst = worst.max(error.abs());
            seen += 1;
        }
        if d[1] < 0.8 {
            corner = corner.max(edges[i]);
        }
    }
    assert!(seen > 10_000, "{seen} texels have a closed form");
    assert!((bias / f64::from(seen)).abs() < 0.003, "bias {}", bias / f64::from(seen));
    assert!(worst < 0.12, "worst {worst}");
    assert!((0.62..0.82).contains(&corner), "a corner reads ¾: {corner}");
}

#[test]
fn an_inner_corner_reads_as_a_recess_and_an_outer_one_as_an_edge() {
    // A step: a small box standing on a large one, closed together as they overlap in the solid.
    let mut soup = Soup::default();
    add_box(&mut soup, [-60.0, -40.0, -60.0], [60.0, 0.0, 60.0], [0.0, 0.0, 1.0, 0.5]);
    add_box(&mut soup, [-20.0, -20.0, -20.0], [20.0, 40.0, 20.0], [0.0, 0.5, 1.0, 1.0]);
    let surface = Surface::new(Arc::new(Piece::build(soup).unwrap()), 512);
    let recesses = measured(&surface, "recesses", &numbers([("medium", 8.0), ("rays", 256.0)]));
    let edges = measured(&surface, "edges", &numbers([("medium", 8.0), ("rays", 256.0)]));
    let a = &surface.atlas;
    // What the boxes hide of each other is left out.
    let seen = |i: usize| a.py[i] > 0.02 || (a.py[i] > -0.02 && a.px[i] > 20.02);
    let near = |i: usize, x: f32, y: f32| {
        seen(i) && (a.px[i] - x).abs() < 0.8 && (a.py[i] - y).abs() < 0.8 && a.pz[i].abs() < 8.0
    };
    let mean = |plane: &[f32], x: f32, y: f32| {
        let found: Vec<f32> = (0..a.len()).filter(|i| near(*i, x, y)).map(|i| plane[i]).collect();
        assert!(found.len() > 20, "{} texels near {x}, {y}", found.len());
        found.iter().sum::<f32>() / found.len() as f32
    };
    assert!((mean(&recesses, 20.4, 0.4) - 0.46).abs() < 0.06, "inner corner: {}", mean(&recesses, 20.4, 0.4));
    assert!(mean(&edges, 20.4, 0.4) < 0.02);
    assert!((mean(&edges, 19.6, 39.6) - 0.46).abs() < 0.06, "outer edge: {}", mean(&edges, 19.6, 39.6));
    assert!(mean(&recesses, 19.6, 39.6) < 0.02);
}

#[test]
fn the_hierarchy_finds_what_brute_force_finds() {
    // Few triangles are sorted by one thread, many by several.
    for (count, size) in [(500, 20.0), (12_000, 3.0)] {
        against_brute_force(count, size);
    }
}

fn against_brute_force(count: usize, size: f64) {
    let mut dice = Dice(0x2545_f491_4f6c_dd1d);
    let mut point = |scale: f64| Vec3::from([0; 3].map(|_: i32| ((dice.roll() - 0.5) * scale) as f32));
    let triangles: Vec<[Vec3; 3]> = (0..count)
        .map(|_| {
            let middle = point(100.0);
            [middle + point(size), middle + point(size), middle + point(size)]
        })
        .collect();
    let bvh = Bvh::build(&triangles);
    let brute = |o: Vec3, d: Vec3| {
        triangles
            .iter()
            .enumerate()
            .filter_map(|(k, [a, b, c])| {
                // Cramer's rule in f64, another way than the packets go.
                let [o, d, a, b, c] = [o, d, *a, *b, *c].map(|v| v.as_dvec3());
                let n = (b - a).cross(c - a);
                let t = n.dot(a - o) / n.dot(d);
                let p = o + d * t;
                let inside = [(a, b), (b, c), (c, a)].iter().all(|(x, y)| (*y - *x).cross(p - *x).dot(n) >= 0.0);
                (t > 0.0 && inside).then_some((t, k as u32))
            })
            .min_by(|x, y| x.0.total_cmp(&y.0))
    };
    let mut hits = 0;
    for _ in 0..400 {
        let (o, d) = (point(160.0), point(2.0).normalize());
        let (found, expected) = (bvh.first_hit(o, d), brute(o, d));
        let mut packet = Packet::default();
        packet.set(0, o.to_array(), d.to_array(), 0.0, 1e6);
        assert_eq!(bvh.occluded(&mut packet)[0], expected.is_some());
        match (found, expected) {
            (Some((t, _, [b, c])), Some((u, _))) => {
                hits += 1;
                assert!((f64::from(t) - u).abs() < 1e-3, "{t} against {u}");
                assert!(b >= -1e-5 && c >= -1e-5 && b + c <= 1.0 + 1e-5);
            }
            (None, None) => {}
            other => panic!("{other:?}"),
        }
    }
    assert!(hits > 50, "{hits} of 400 rays hit something; {WIDTH} lanes");
}

#[test]
fn measuring_gives_the_same_bytes_on_any_number_of_threads() {
    let surface = Surface::new(cube(50.0), 128);
    let on = |threads: usize, kind: &str| {
        let pool = rayon::ThreadPoolBuilder::new().num_threads(threads).build().unwrap();
        pool.install(|| measured(&surface, kind, &numbers([("rays", 32.0)])))
    };
    for kind in ["occlusion", "edges", "recesses", "thickness"] {
        let one = on(1, kind);
        assert!([2, 5].iter().all(|n| on(*n, kind) == one), "{kind}");
    }
}

#[test]
fn facing_and_altitude_follow_from_normal_and_position() {
    let surface = Surface::new(cube(40.0), 128);
    let a = &surface.atlas;
    let facing = measured(&surface, "facing", &[]);
    let altitude = measured(&surface, "altitude", &numbers([("low", 4.0), ("high", 36.0)]));
    for i in 0..a.len() {
        if a.ny[i] > 0.9 {
            assert!(facing[i] > 0.99, "tops face up");
        }
        if a.ny[i] < -0.9 {
            assert!(facing[i] < 0.01, "undersides don't");
        }
        let expected = (a.py[i] + 20.0 - 4.0) / 32.0;
        assert!((altitude[i] - expected.clamp(0.0, 1.0)).abs() < 1e-4, "{} at {}", altitude[i], a.py[i]);
    }
}

#[test]
fn the_atlas_covers_the_square_measures_area_and_fills_its_gutters() {
    let surface = Surface::new(plate(100.0), 64);
    assert_eq!(surface.atlas.len(), 64 * 64, "every texel of a full chart is covered");
    let area: f64 = surface.atlas.area.iter().map(|a| f64::from(*a)).sum();
    assert!((area - 10_000.0).abs() < 1.0, "{area} mm²");
    let boxed = Surface::new(cube(10.0), 128);
    assert_eq!(boxed.atlas.overlaps.len(), 0);
    assert!((boxed.atlas.total_area - 600.0).abs() < 6.0, "{}", boxed.atlas.total_area);
    let free = 128 * 128 - boxed.atlas.len();
    assert!(boxed.atlas.gutter.len() > free / 2, "gutters are filled: {} of {free}", boxed.atlas.gutter.len());
    assert!(boxed.atlas.gutter.iter().all(|(_, from)| (*from as usize) < boxed.atlas.len()));
}

/// Mean of min(t / cos θ, d) over the cosine-weighted hemisphere, as a share of d: for a slab thinner than d,
/// ∫ min(t / c, d) 2c dc from 0 to 1 = 2t − t² / d.
fn through_a_slab(t: f64, d: f64) -> f64 {
    (2.0 * t - t * t / d) / d
}

#[test]
fn a_slab_reads_as_thick_as_it_is() {
    for t in [2.0f32, 15.0] {
        let mut soup = Soup::default();
        add_box(&mut soup, [-300.0, 0.0, -300.0], [300.0, t, 300.0], [0.0, 0.0, 1.0, 1.0]);
        let surface = Surface::new(Arc::new(Piece::build(soup).unwrap()), 256);
        let thickness = measured(&surface, "thickness", &numbers([("distance", 40.0), ("rays", 256.0)]));
        let a = &surface.atlas;
        let inner = |i: &usize| a.ny[*i].abs() > 0.9 && a.px[*i].abs() < 200.0 && a.pz[*i].abs() < 200.0;
        let found: Vec<f64> = (0..a.len()).filter(inner).map(|i| f64::from(thickness[i])).collect();
        assert!(found.len() > 3000);
        let mean = found.iter().sum::<f64>() / found.len() as f64;
        let expected = through_a_slab(f64::from(t), 40.0);
        assert!((mean - expected).abs() < 0.004, "{t} mm: {mean} against {expected}");
        let worst = found.iter().map(|v| (v - expected).abs()).fold(0.0, f64::max);
        assert!(worst < 0.05, "{t} mm: worst {worst}");
    }
}

#[test]
fn the_ground_reaches_up_and_every_shell_has_a_value_of_its_own() {
    let mut soup = Soup::default();
    for k in 0..12 {
        let x = k as f32 * 10.0;
        let u = k as f32 / 12.0;
        add_box(&mut soup, [x, 0.0, 0.0], [x + 8.0, 60.0, 8.0], [u, 0.0, u + 1.0 / 12.0, 1.0]);
    }
    let surface = Surface::new(Arc::new(Piece::build(soup).unwrap()), 256);
    let a = &surface.atlas;
    let ground = measured(&surface, "ground", &numbers([("reach", 20.0)]));
    assert!((0..a.len()).all(|i| (ground[i] - (1.0 - a.py[i] / 20.0).clamp(0.0, 1.0)).abs() < 1e-4));
    let values = |seed: f64| {
        let shell = measured(&surface, "shell", &numbers([("seed", seed)]));
        let mut of = std::collections::BTreeMap::new();
        for i in 0..a.len() {
            let own = surface.piece.shell_of[a.triangle[i] as usize];
            assert_eq!(*of.entry(own).or_insert(shell[i]), shell[i], "one value for one shell");
        }
        of.into_values().collect::<Vec<f32>>()
    };
    let (one, two) = (values(1.0), values(2.0));
    assert_eq!(one.len(), 12);
    assert_ne!(one, two);
    let (low, high) = one.iter().fold((1.0f32, 0.0f32), |(l, h), v| (l.min(*v), h.max(*v)));
    assert!(high - low > 0.5, "they differ: {one:?}");
}

#[test]
fn a_contrived_mesh_does_not_overflow_the_walk() {
    // Triangles in a geometric row: each cut by cost takes one off, which would make a tree as deep as they are many.
    let triangles: Vec<[Vec3; 3]> = (0..1500)
        .map(|k| {
            let x = 1.04f32.powi(k.min(1400)) * 1e-12;
            [Vec3::new(x, 0.0, 0.0), Vec3::new(x, x, 0.0), Vec3::new(x, 0.0, x)]
        })
        .collect();
    let bvh = Bvh::build(&triangles);
    for k in (0..1400).step_by(50) {
        let [a, b, c] = triangles[k];
        let middle = (a + b + c) / 3.0;
        let from = middle + Vec3::new(-middle.x * 0.01, 0.0, 0.0);
        assert!(bvh.first_hit(from, Vec3::X).is_some(), "triangle {k} is found");
    }
}

#[test]
fn the_hierarchy_is_not_built_when_somebody_has_asked_to_stop() {
    let surface = Surface::new(cube(40.0), 64);
    let cancel = Cancel::default();
    cancel.cancel();
    assert!(surface.solid(&cancel).is_err() && Bvh::of_piece_unless(&surface.piece, &cancel).is_err());
    // Asked again it is built, and is the one that would have been built at once.
    surface.solid(&Cancel::default()).unwrap();
    let (late, at_once) = (surface.bvh(), Bvh::of_piece(&surface.piece));
    for direction in [Vec3::X, Vec3::new(0.3, -0.8, 0.52), Vec3::new(-0.6, 0.1, -0.79)] {
        let from = Vec3::new(1.0, 2.0, 3.0) - direction * 200.0;
        assert_eq!(late.first_hit(from, direction), at_once.first_hit(from, direction));
        assert!(late.first_hit(from, direction).is_some());
    }
}

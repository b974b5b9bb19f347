//! Fills, paths and the pen's tilt: areas against closed forms, arcs against the true ones, and points that are moved later.

use std::f64::consts::PI;
use std::sync::Arc;

use crate::common::{add_box, area, cube, cylinder, plate, quad, sphere};
use crate::strokes::{UP, add, drawn, near, stroke, with_strokes};
use dustcoat_core::bake::Surface;
use dustcoat_core::document::{Edit, EditError, StrokeChange, adrift, apply, label};
use dustcoat_core::mesh::{Piece, Soup};
use dustcoat_core::stroke::{Covers, Led, Point, Points, Stroke, Tilted, Track, covering};
use glam::Vec3;
use serde_json::json;

/// A fill that begins at a place.
fn fill(covers: Covers, at: [f32; 3], normal: [f32; 3]) -> Stroke {
    Stroke { covers, id: "s1".into(), ..stroke(5.0, [(at, normal)]) }
}

#[test]
fn a_fill_covers_its_shell_its_part_or_all_up_to_edges() {
    // Two boxes are two shells and one part; a third one is another part.
    let mut soup = Soup::default();
    for (x, v) in [(0.0, 0.0), (100.0, 0.3), (200.0, 0.6)] {
        add_box(&mut soup, [x, 0.0, 0.0], [x + 40.0, 40.0, 40.0], [0.0, v, 1.0, v + 0.3]);
    }
    let (body, other) = (soup.part("body"), soup.part("other"));
    let third = soup.parts.len() * 2 / 3;
    soup.parts.iter_mut().enumerate().for_each(|(t, part)| *part = if t < third { body } else { other });
    let surface = Surface::new(Arc::new(Piece::build(soup).unwrap()), 512);
    let on = |covers| fill(covers, [20.0, 40.0, 20.0], UP);
    let of = |stroke: &Stroke| area(&surface, &drawn(&surface, vec![stroke.clone()]).0);
    near(of(&on(Covers::Shell)), 6.0 * 1600.0, "the shell");
    near(of(&on(Covers::Part)), 12.0 * 1600.0, "the part");
    let (side, a) = (drawn(&surface, vec![on(Covers::Edges)]).0, &surface.atlas);
    assert!((0..a.len()).all(|i| (side[i] == 1.0) == (a.ny[i] > 0.9 && a.px[i] < 50.0)), "one side, up to its edges");
    near(of(&Stroke { crease: 100.0, ..on(Covers::Edges) }), 6.0 * 1600.0, "over edges that are not sharp enough");
    near(of(&Stroke { flow: 0.5, value: 0.4, ..on(Covers::Shell) }), 0.2 * 6.0 * 1600.0, "half of a value");
    // It takes away, and its place in the row counts.
    let taken = drawn(&surface, vec![on(Covers::Part), Stroke { take: true, ..on(Covers::Shell) }]);
    near(area(&surface, &taken.0), 6.0 * 1600.0, "the part without the shell");
    let before = drawn(&surface, vec![Stroke { take: true, ..on(Covers::Shell) }, on(Covers::Part)]);
    near(area(&surface, &before.0), 12.0 * 1600.0, "the part over it");
    // It is found where it lies, and nowhere else.
    let all = [on(Covers::Edges), Stroke { id: "s2".into(), ..on(Covers::Part) }];
    let at = |p: [f32; 3], n: [f32; 3]| covering(&all, &surface.piece, p.into(), n.into());
    assert_eq!(at([5.0, 40.0, 5.0], UP), ["s2", "s1"]);
    assert_eq!(at([105.0, 40.0, 5.0], UP), ["s2"]);
    assert!(at([205.0, 40.0, 5.0], UP).is_empty());
    // Where there is no surface any more it fills nothing, and that is told.
    let off = fill(Covers::Shell, [20.0, 55.0, 20.0], UP);
    assert_eq!(of(&off), 0.0);
    let (d, id) = with_strokes();
    let told = |stroke: Stroke| adrift(&add(&d, &id, stroke).unwrap(), &surface.piece.shape(), surface.bvh()).len();
    assert_eq!((told(off), told(on(Covers::Shell))), (1, 0));
}

#[test]
fn up_to_edges_it_goes_over_seams_and_round_what_is_round_and_stays_on_its_side() {
    let ball = Surface::new(sphere(50.0), 256);
    let all = drawn(&ball, vec![fill(Covers::Edges, [50.0, 0.0, 0.0], [1.0, 0.0, 0.0])]).0;
    assert!(all.iter().all(|m| *m == 1.0), "all of a ball, over the cut at its back");
    let tube = Surface::new(cylinder(40.0), 256);
    let all = drawn(&tube, vec![fill(Covers::Edges, [40.0, 0.0, 0.0], [1.0, 0.0, 0.0])]).0;
    assert!(all.iter().all(|m| *m == 1.0));
    // Flat faces of one cube: the one that is faced, also where another is as near.
    let cube = Surface::new(cube(60.0), 128);
    for (normal, axis) in [([1.0, 0.0, 0.0], 0), ([0.0, 1.0, 0.0], 1)] {
        let side = drawn(&cube, vec![fill(Covers::Edges, [30.0, 30.0, 0.0], normal)]).0;
        let normals = [&cube.atlas.nx, &cube.atlas.ny];
        assert!(side.iter().zip(normals[axis]).all(|(m, n)| (*m == 1.0) == (*n > 0.9)));
    }
}

fn track(places: impl IntoIterator<Item = ([f32; 3], [f32; 3])>, led: Led, closed: bool) -> Stroke {
    Stroke { led, closed, ..stroke(3.0, places) }
}

#[test]
fn a_path_is_straight_on_a_plane_and_an_arc_on_what_is_round() {
    let far = |way: &[Point]| way.array_windows().map(|[a, b]| f64::from(a.at.distance(b.at))).sum::<f64>();
    // On a plane, through three corners and back.
    let corners = [[-20.0, 0.0, -20.0], [20.0, 0.0, -20.0], [20.0, 0.0, 20.0]].map(|p| (p, UP));
    let open = track(corners, Led::Corners, false);
    assert_eq!(open.way().unwrap().len(), 3, "nothing is put in where nothing bends");
    near(far(&open.way().unwrap()), 80.0, "two sides");
    near(far(&track(corners, Led::Corners, true).way().unwrap()), 80.0 + 40.0 * 2f64.sqrt(), "and back");
    assert_eq!(track(corners, Led::Hand, true).way().unwrap().len(), 3, "what the hand drew is as it drew it");
    // Around a cylinder and over a ball: as far from the axis all the way, as long as the arc, with normals that lean out.
    let out = |turn: f32| [turn.cos(), 0.0, turn.sin()];
    let ring = |turns: &[f32], up: f32| {
        turns
            .iter()
            .map(|t| (out(*t).map(|c| c * 40.0), out(*t)))
            .map(move |(p, n)| ([p[0], p[1] + up, p[2]], n))
            .collect::<Vec<_>>()
    };
    for led in [Led::Corners, Led::Curve] {
        let quarter = track(ring(&[0.2, 0.2 + 1.5], 0.0), led, false);
        let way = quarter.way().unwrap();
        near(far(&way), 40.0 * 1.5, "a quarter around");
        for p in way.iter() {
            assert!((p.at.length() - 40.0).abs() < 40.0 * 3e-4, "{:?}", p.at);
            assert!(p.normal.dot(p.at.normalize()) > 0.999);
        }
    }
    // A curve through six places of a circle on a plane is that circle.
    let six = (0..6)
        .map(|i| (i as f32 * std::f32::consts::TAU / 6.0).sin_cos())
        .map(|(s, c)| ([c * 30.0, 0.0, s * 30.0], UP));
    let circle = Stroke { hardness: 1.0, ..track(six.clone(), Led::Curve, true) };
    near(far(&circle.way().unwrap()), 2.0 * PI * 30.0, "a circle");
    assert!(circle.way().unwrap().iter().all(|p| (p.at.length() - 30.0).abs() < 0.1));
    let surface = Surface::new(plate(100.0), 512);
    near(area(&surface, &drawn(&surface, vec![circle]).0), 2.0 * PI * 30.0 * 6.0, "a ring");
    // An open one through places of an arc ends as the arc does.
    let half = track(six.take(4), Led::Curve, false);
    near(far(&half.way().unwrap()), PI * 30.0, "half a circle");
    // Twice the same place, opposite normals, a single point: a way all the same.
    let twice = track([([0.0; 3], UP), ([0.0; 3], UP), ([9.0, 0.0, 0.0], UP)], Led::Curve, true);
    near(far(&twice.way().unwrap()), 9.0, "two places are a line, closed or not");
    let through = track([([0.0, 1.0, 0.0], UP), ([0.0, -1.0, 0.0], [0.0, -1.0, 0.0])], Led::Corners, false);
    assert!(through.way().unwrap().iter().all(|p| p.at.is_finite() && p.normal.is_finite()));
    assert_eq!(track([([1.0; 3], UP)], Led::Curve, true).way().unwrap().len(), 1);
}

#[test]
fn a_path_around_a_cylinder_covers_what_its_closed_form_says_on_any_uvs() {
    let round = Surface::new(cylinder(40.0), 1024);
    let at = |turn: f32| {
        let n = [turn.cos(), 0.0, turn.sin()];
        ([n[0] * 40.0, 10.0, n[2] * 40.0], n)
    };
    let ring = Stroke { radius: 8.0, ..track((0..5).map(|i| at(i as f32 * 1.2566)), Led::Curve, true) };
    near(area(&round, &drawn(&round, vec![ring]).0), 16.0 * 2.0 * PI * 40.0, "five points, closed, over the cut");
    // A patch of the same cylinder with UVs turned by a quarter reads alike.
    let laid = |turned: bool| {
        let mut soup = Soup::default();
        let mut corners = [[-50.0, 0.0, 50.0], [50.0, 0.0, 50.0], [50.0, 0.0, -50.0], [-50.0, 0.0, -50.0]];
        if turned {
            corners.rotate_left(1);
        }
        quad(&mut soup, "plate", corners, [0.0, 0.0, 1.0, 1.0]);
        Surface::new(Arc::new(Piece::build(soup).unwrap()), 512)
    };
    let wave = || track([([-30.0, 0.0, 0.0], UP), ([-5.0, 0.0, 14.0], UP), ([25.0, 0.0, -9.0], UP)], Led::Curve, false);
    let (a, b) = (laid(false), laid(true));
    near(area(&a, &drawn(&a, vec![wave()]).0), area(&b, &drawn(&b, vec![wave()]).0), "another unwrap");
}

#[test]
fn points_are_moved_later_and_all_else_of_the_stroke_stays() {
    let (d, id) = with_strokes();
    let places = |x: f32| [([x, 0.0, 0.0], UP), ([x + 9.0, 0.0, 0.0], UP)];
    let path = |x| Stroke { flow: 0.3, ..track(places(x), Led::Curve, false) };
    let d = add(&add(&d, &id, path(0.0)).unwrap(), &id, path(20.0)).unwrap();
    let to = |stroke: &str, points: Points| Edit::SetStrokePoints {
        layer: "a".into(),
        step: id.clone(),
        stroke: stroke.into(),
        points,
    };
    let moved = to("s1", path(5.0).points);
    assert_eq!(label(&d, &moved), "lead a stroke elsewhere");
    let after = apply(&d, &moved).unwrap();
    let [before, now] = [&d, &after].map(|d| &d.layers[0].mask.steps[1].strokes);
    assert_eq!(now[0], Stroke { points: path(5.0).points, ..before[0].clone() });
    assert_eq!(now[1], before[1]);
    assert!(matches!(apply(&d, &to("s9", path(0.0).points)), Err(EditError::Unknown { .. })));
    let gone: Points = serde_json::from_value(json!("00ff")).unwrap();
    assert!(matches!(apply(&d, &to("s1", gone)), Err(EditError::Unknown { .. })), "points that nobody has");
    // As a page sends it.
    let sent = json!({"edit": "set_stroke_points", "layer": "a", "step": id, "stroke": "s1",
        "points": [[1, 2, 3, 0, 1, 0, 1, 0], [4, 5, 6, 0, 1, 0, 1, 0]]});
    let edit: Edit = serde_json::from_value(sent).unwrap();
    let after = apply(&d, &edit).unwrap();
    assert_eq!(after.layers[0].mask.steps[1].strokes[0].points.track().unwrap().points[1].at, Vec3::new(4.0, 5.0, 6.0));
    // How it is led and what it covers are restyled like all else.
    let change = StrokeChange {
        led: Some(Led::Corners),
        closed: Some(true),
        covers: Some(Covers::Edges),
        crease: Some(45.0),
        tilted: Some(Tilted::Width),
        ..StrokeChange::default()
    };
    let restyle = |change| Edit::SetStrokes { layer: "a".into(), step: id.clone(), strokes: vec!["s1".into()], change };
    let s = apply(&d, &restyle(change)).unwrap().layers[0].mask.steps[1].strokes[0].clone();
    assert_eq!(
        (s.led, s.closed, s.covers, s.crease, s.tilted),
        (Led::Corners, true, Covers::Edges, 45.0, Tilted::Width)
    );
    let wrong = apply(&d, &restyle(StrokeChange { crease: Some(0.0), ..StrokeChange::default() }));
    assert!(wrong.unwrap_err().to_string().contains("Edges from"));
    // Written, what stands as it begins is left out; read, it is there again.
    let text = serde_json::to_string(&d).unwrap();
    assert!(!text.contains("crease") && !text.contains("covers") && text.contains("\"led\":\"curve\""), "{text}");
    assert_eq!(serde_json::from_str::<dustcoat_core::document::Document>(&text).unwrap(), d);
}

#[test]
fn a_pen_that_is_laid_down_draws_wider_or_fainter_and_its_points_keep_it() {
    let surface = Surface::new(plate(100.0), 512);
    let flat = |tilt: f64| {
        let row = |x: f64| vec![x, 0.0, 0.0, 0.0, 1.0, 0.0, 1.0, 0.0, tilt];
        let points = Points::new(&Track::of_numbers(&[row(-25.0), row(25.0)]).unwrap()).unwrap();
        Stroke { points, ..stroke(8.0, [([0.0; 3], UP)]) }
    };
    let line = |radius: f64| 2.0 * radius * 50.0 + PI * radius * radius;
    let of = |tilted, tilt| area(&surface, &drawn(&surface, vec![Stroke { tilted, ..flat(tilt) }]).0);
    near(of(Tilted::Nothing, 1.0), line(8.0), "tilt changes nothing");
    near(of(Tilted::Width, 0.5), line(12.0), "half laid down");
    near(of(Tilted::Width, 1.0), line(16.0), "flat");
    near(of(Tilted::Flow, 1.0), 0.1 * line(8.0), "fainter");
    // Bytes keep it; those of points without are as they were.
    let bytes = |tilt| flat(tilt).points.track().unwrap().bytes();
    assert_eq!((&bytes(0.0)[..4], bytes(0.0).len()), (&b"DCT1"[..], 8 + 2 * 24));
    assert_eq!((&bytes(0.5)[..4], bytes(0.5).len()), (&b"DCT2"[..], 8 + 2 * 26));
    let read = Track::read(&bytes(0.5)).unwrap();
    assert!((read.points[1].tilt - 0.5).abs() < 1e-4 && read.bytes() == bytes(0.5));
    assert!(Track::read(&bytes(0.5)[..40]).is_err());
    for wrong in [vec![f64::NAN], vec![0.0, 0.0]] {
        let row = [vec![0.0, 0.0, 0.0, 0.0, 1.0, 0.0, 1.0, 0.0], wrong].concat();
        assert!(Track::of_numbers(&[row]).is_err());
    }
}

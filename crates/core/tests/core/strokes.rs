//! Strokes: their area against closed forms, their order against an oracle that goes place by place, and where they don't go.

use std::sync::Arc;

use crate::common::{Dice, add_box, area, coat, cube, cylinder, document, evaluated, plate, quad, sphere, step};
use dustcoat_core::bake::Surface;
use dustcoat_core::document::{
    Document, Edit, EditError, Layer, StrokeChange, adrift, apply, check, drawn_elsewhere, hold_points, label, layers,
    opened_recipe, points, points_files,
};
use dustcoat_core::evaluate::Cache;
use dustcoat_core::mask::Join;
use dustcoat_core::mesh::{Piece, Soup};
use dustcoat_core::recipe::package::{PackageLimits, read_recipe, write_recipe};
use dustcoat_core::recipe::{self, Recipe};
use dustcoat_core::stroke::{
    Drawing, MOST_POINTS, Point, Points, Pressed, State, Stroke, Tilted, Tip, Track, TrackError, covering,
};
use dustcoat_core::task::Cancel;
use glam::Vec3;
use serde_json::json;

pub fn stroke(radius: f64, places: impl IntoIterator<Item = ([f32; 3], [f32; 3])>) -> Stroke {
    let point =
        |(at, n): ([f32; 3], [f32; 3])| Point { at: at.into(), normal: n.into(), pressure: 1.0, tilt: 0.0, time: 0 };
    let track = Track { points: places.into_iter().map(point).collect() };
    Stroke { hardness: 1.0, ..Stroke::new(Points::new(&track).unwrap(), radius) }
}

pub const UP: [f32; 3] = [0.0, 1.0, 0.0];

/// What is laid down, and what is left of the mask before.
pub fn drawn(surface: &Surface, strokes: Vec<Stroke>) -> (Vec<f32>, Vec<f32>) {
    let texels = surface.atlas.len();
    let drawing = Drawing::new(Arc::new(strokes));
    let both = drawing.over(surface, State::untouched(texels), &Cancel::default()).unwrap().planes;
    (both[..texels].to_vec(), both[texels..].to_vec())
}

pub fn near(found: f64, wanted: f64, what: &str) {
    assert!((found / wanted - 1.0).abs() < 0.01, "{what}: {found} and not {wanted}");
}

#[test]
fn a_stroke_covers_what_its_closed_form_says() {
    let surface = Surface::new(plate(100.0), 512);
    let line = |radius| stroke(radius, [([-25.0, 0.0, 3.0], UP), ([25.0, 0.0, 3.0], UP)]);
    let pi = std::f64::consts::PI;
    let hard = drawn(&surface, vec![line(8.0)]).0;
    near(area(&surface, &hard), 2.0 * 8.0 * 50.0 + pi * 64.0, "a hard stroke on a plane");
    // Falling smoothly from the middle to the border: ∫(1 − s(x)) dx = 1/2, ∫(1 − s(x)) x dx = 3/20.
    let soft = drawn(&surface, vec![Stroke { hardness: 0.0, ..line(8.0) }]).0;
    near(area(&surface, &soft), 8.0 * 50.0 + 2.0 * pi * 64.0 * 0.15, "a soft stroke on a plane");
    let dot = drawn(&surface, vec![stroke(12.0, [([10.0, 0.0, -9.0], UP)])]).0;
    near(area(&surface, &dot), pi * 144.0, "a single point");
    let thin = Stroke { flow: 0.25, value: 0.8, ..line(8.0) };
    near(area(&surface, &drawn(&surface, vec![thin]).0), 0.2 * (800.0 + pi * 64.0), "a quarter of a value");
    // Along a cylinder the distance is a chord: as long as the arc but for a share of (r/R)²/24.
    let round = Surface::new(cylinder(40.0), 1024);
    let at = |turn: f32, y: f32| {
        let n = [turn.cos(), 0.0, turn.sin()];
        ([n[0] * 40.0, y, n[2] * 40.0], n)
    };
    let along = stroke(8.0, [at(0.3, -40.0), at(0.3, 40.0)]);
    near(area(&round, &drawn(&round, vec![along]).0), 16.0 * 80.0 + pi * 64.0, "along a cylinder");
    // All around it, over the cut at its back.
    let ring = stroke(8.0, (0..=180).map(|i| at(i as f32 * std::f32::consts::TAU / 180.0, 10.0)));
    let ring = drawn(&round, vec![ring]).0;
    near(area(&round, &ring), 16.0 * 2.0 * pi * 40.0, "around a cylinder");
}

#[test]
fn it_is_the_same_whatever_the_uvs_are_and_goes_on_over_seams() {
    let laid = |uvs: [f32; 4], turned: bool| {
        let mut soup = Soup::default();
        let mut corners = [[-50.0, 0.0, 50.0], [50.0, 0.0, 50.0], [50.0, 0.0, -50.0], [-50.0, 0.0, -50.0]];
        if turned {
            corners.rotate_left(1);
        }
        quad(&mut soup, "plate", corners, uvs);
        Surface::new(Arc::new(Piece::build(soup).unwrap()), 512)
    };
    let path = || stroke(6.0, (0..40).map(|i| ([i as f32 - 20.0, 0.0, (i as f32 * 0.3).sin() * 10.0], UP)));
    let (a, b) = (laid([0.0, 0.0, 1.0, 1.0], false), laid([0.1, 0.3, 0.9, 0.8], true));
    let (on_a, on_b) = (drawn(&a, vec![path()]).0, drawn(&b, vec![path()]).0);
    near(area(&a, &on_a), area(&b, &on_b), "another unwrap");
    // The same places read alike.
    let at = |s: &Surface, i: usize| Vec3::new(s.atlas.px[i], s.atlas.py[i], s.atlas.pz[i]);
    for i in (0..b.atlas.len()).step_by(97) {
        let p = at(&b, i);
        let nearest =
            (0..a.atlas.len()).min_by(|x, y| at(&a, *x).distance(p).total_cmp(&at(&a, *y).distance(p))).unwrap();
        let border = (at(&a, nearest).distance(p) + 0.3) / a.atlas.texel_length;
        assert!((on_a[nearest] - on_b[i]).abs() < 0.1 + border, "{p}: {} and {}", on_a[nearest], on_b[i]);
    }
    // Over the cut at the back of a sphere: texels on both sides of it read alike at the same height.
    let ball = Surface::new(sphere(50.0), 256);
    let over = |i: i32| {
        let turn = std::f32::consts::PI + i as f32 * 0.05;
        let n = [turn.cos(), 0.0, turn.sin()];
        (n.map(|c| c * 50.0), n)
    };
    let mask = drawn(&ball, vec![Stroke { hardness: 0.2, ..stroke(10.0, (-8..=8).map(over)) }]).0;
    let last = ball.atlas.size as usize - 1;
    let mut compared = 0;
    for row in 0..=last {
        let at = |x: usize| Some(ball.atlas.lookup[row * (last + 1) + x]).filter(|i| *i != u32::MAX);
        if let (Some(left), Some(right)) = (at(0), at(last)) {
            assert!((mask[left as usize] - mask[right as usize]).abs() < 0.02, "row {row}");
            compared += usize::from(mask[left as usize] > 0.2);
        }
    }
    assert!(compared > 10, "{compared} rows of it lie there");
}

/// A stroke's cover of a place, segment by segment, in f64, as the module's text says it.
fn oracle(stroke: &Stroke, p: Vec3, n: Vec3, texel: f32) -> f64 {
    let rise = |from: f64, to: f64, v: f64| {
        let t = ((v - from) / (to - from)).clamp(0.0, 1.0);
        t * t * (3.0 - 2.0 * t)
    };
    let points = &stroke.points.track().unwrap().points;
    let segment = |pair: [&Point; 2]| {
        let (a, b) = (pair[0].at.as_dvec3(), pair[1].at.as_dvec3());
        let (p, along) = (p.as_dvec3(), b - a);
        let t = if along.length() > 0.0 { ((p - a).dot(along) / along.length_squared()).clamp(0.0, 1.0) } else { 0.0 };
        let off = p - (a + along * t);
        let normal = pair[0].normal.as_dvec3().lerp(pair[1].normal.as_dvec3(), t);
        let pressure = f64::from(pair[0].pressure) * (1.0 - t) + f64::from(pair[1].pressure) * t;
        let (wide, much) = match stroke.pressed {
            Pressed::Flow => (1.0, pressure),
            Pressed::Width => (pressure, 1.0),
            Pressed::Both => (pressure, pressure),
            Pressed::Nothing => (1.0, 1.0),
        };
        let tilt = f64::from(pair[0].tilt) * (1.0 - t) + f64::from(pair[1].tilt) * t;
        let (wide, much) = match stroke.tilted {
            Tilted::Nothing => (wide, much),
            Tilted::Width => (wide * (1.0 + tilt), much),
            Tilted::Flow => (wide, much * (1.0 - 0.9 * tilt)),
        };
        let (radius, texel) = (stroke.radius * wide, f64::from(texel));
        let soft = radius * (1.0 - stroke.hardness);
        let (from, to) =
            if soft >= texel { (radius - soft, radius) } else { (radius - texel / 2.0, radius + texel / 2.0) };
        let facing = rise(0.1, 0.35, normal.dot(n.as_dvec3()));
        let depth = 1.0 - rise(0.5, 0.7, off.dot(normal).abs() / radius.max(1e-6));
        (1.0 - rise(from, to, off.length())) * facing * depth * stroke.flow * much
    };
    let alone = [[&points[0], &points[0]]];
    let pairs: Vec<[&Point; 2]> = points.windows(2).map(|w| [&w[0], &w[1]]).collect();
    let all = if pairs.is_empty() { &alone[..] } else { &pairs[..] };
    all.iter().map(|pair| segment(*pair)).fold(0.0, f64::max)
}

fn scribbles(count: usize, seed: u64) -> Vec<Stroke> {
    let mut roll = Dice(seed);
    let mut number = move |low: f64, high: f64| low + (high - low) * roll.roll();
    let pressed = [Pressed::Flow, Pressed::Width, Pressed::Both, Pressed::Nothing];
    let tilted = [Tilted::Nothing, Tilted::Width, Tilted::Flow];
    let one = |k: usize| {
        let (x, z) = (number(-30.0, 30.0), number(-30.0, 30.0));
        let point = |_| Point {
            at: Vec3::new((x + number(-12.0, 12.0)) as f32, 30.0, (z + number(-12.0, 12.0)) as f32),
            normal: Vec3::new(number(-0.3, 0.3) as f32, 1.0, number(-0.3, 0.3) as f32).normalize(),
            pressure: number(0.2, 1.0) as f32,
            tilt: number(0.0, 1.0) as f32,
            time: 0,
        };
        let track = Track { points: (0..1 + k % 23).map(point).collect() };
        Stroke {
            points: Points::new(&track).unwrap(),
            radius: number(1.0, 9.0),
            hardness: number(0.0, 1.0),
            flow: number(0.2, 1.0),
            value: number(0.0, 1.0),
            take: k % 3 == 2,
            pressed: pressed[k % 4],
            tilted: tilted[k % 3],
            shown: k % 7 != 6,
            id: format!("s{}", k + 1),
            ..stroke(1.0, [([0.0; 3], UP)])
        }
    };
    (0..count).map(one).collect()
}

#[test]
fn order_and_taking_away_are_those_of_an_oracle_that_goes_place_by_place() {
    let surface = Surface::new(cube(60.0), 128);
    let strokes = scribbles(30, 7);
    let (add, keep) = drawn(&surface, strokes.clone());
    let a = &surface.atlas;
    for i in 0..a.len() {
        let (p, n) = (Vec3::new(a.px[i], a.py[i], a.pz[i]), Vec3::new(a.nx[i], a.ny[i], a.nz[i]));
        for before in [0.0, 0.7] {
            let mut m = before;
            for s in strokes.iter().filter(|s| s.shown) {
                let value = if s.take { 0.0 } else { s.value };
                m += (value - m) * oracle(s, p, n, a.texel_length);
            }
            let found = before * f64::from(keep[i]) + f64::from(add[i]);
            assert!((found - m).abs() < 2e-4, "{p} from {before}: {found} and not {m}");
        }
    }
    // What lies at a place is told, the topmost first.
    let spot = (0..a.len()).find(|i| keep[*i] < 0.1 && a.ny[*i] > 0.9).unwrap();
    let (p, n) = (Vec3::new(a.px[spot], a.py[spot], a.pz[spot]), Vec3::Y);
    let there = strokes.iter().rev().filter(|s| s.shown && oracle(s, p, n, 0.01) > 0.02).map(|s| s.id.as_str());
    assert_eq!(covering(&strokes, &surface.piece, p, n), there.collect::<Vec<_>>());
    assert!(covering(&strokes, &surface.piece, Vec3::new(0.0, -30.0, 0.0), Vec3::NEG_Y).is_empty());
    assert!(keep.iter().any(|k| *k < 0.01) && keep.iter().filter(|k| **k == 1.0).count() > a.len() / 2);
}

#[test]
fn what_is_drawn_after_is_what_is_drawn_at_once() {
    let surface = Surface::new(cube(60.0), 128);
    let line = |n: usize| {
        let mut s = step(Join::Replace, "strokes", &[]);
        s.strokes = Arc::new(scribbles(n, 11));
        document(vec![coat("a", "#808080", vec![]), coat("b", "#803010", vec![step(Join::Replace, "perlin", &[]), s])])
    };
    let cache = Cache::new(1 << 26);
    for n in [5, 6, 9, 24, 25] {
        let after = crate::common::evaluated_with(&line(n), &surface, &cache);
        assert_eq!(after.channels, evaluated(&line(n), &surface).channels, "{n} strokes");
    }
    // An empty step leaves the line as it is, and so does one that comes in by the finder.
    let plain =
        document(vec![coat("a", "#808080", vec![]), coat("b", "#803010", vec![step(Join::Replace, "perlin", &[])])]);
    assert_eq!(evaluated(&line(0), &surface).channels, evaluated(&plain, &surface).channels);
    let steps = vec![step(Join::Replace, "strokes", &[])];
    let found = apply(&plain, &Edit::AddSteps { layer: "b".into(), index: 1, steps }).unwrap();
    assert_eq!(evaluated(&found, &surface).channels, evaluated(&plain, &surface).channels);
    // A hidden one does nothing, and one that is shown anew is drawn in its place again.
    let hidden = Edit::SetStrokes {
        layer: "b".into(),
        step: line(24).layers[1].mask.steps[1].id.clone(),
        strokes: vec!["s4".into()],
        change: StrokeChange { shown: Some(false), ..StrokeChange::default() },
    };
    let d = apply(&line(24), &hidden).unwrap();
    let e = crate::common::evaluated_with(&d, &surface, &cache);
    assert_eq!(e.channels, evaluated(&d, &surface).channels);
    assert_ne!(e.channels, evaluated(&line(24), &surface).channels);
}

#[test]
fn it_stays_on_its_side_in_its_fold_and_on_its_shell() {
    // A sheet of 1 mm.
    let mut soup = Soup::default();
    add_box(&mut soup, [-50.0, 0.0, -50.0], [50.0, 1.0, 50.0], [0.0, 0.0, 1.0, 1.0]);
    let sheet = Surface::new(Arc::new(Piece::build(soup).unwrap()), 256);
    let mask = drawn(&sheet, vec![stroke(10.0, [([0.0, 1.0, 0.0], UP), ([48.0, 1.0, 0.0], UP)])]).0;
    for (i, m) in mask.iter().enumerate().filter(|m| *m.1 > 0.0) {
        assert!(sheet.atlas.ny[i] > 0.9, "{m} below, or on the rim");
    }
    // Steps of a stair: one runs 8 mm above the other, both face up.
    let mut soup = Soup::default();
    add_box(&mut soup, [-50.0, 0.0, -50.0], [0.0, 8.0, 50.0], [0.0, 0.0, 1.0, 0.5]);
    add_box(&mut soup, [0.0, 0.0, -50.0], [50.0, 16.0, 50.0], [0.0, 0.5, 1.0, 1.0]);
    let stair = Surface::new(Arc::new(Piece::build(soup).unwrap()), 256);
    let mask = drawn(&stair, vec![stroke(10.0, [([-3.0, 8.0, 0.0], UP), ([-3.0, 8.0, 30.0], UP)])]).0;
    assert!(area(&stair, &mask) > 300.0);
    assert!(mask.iter().zip(&stair.atlas.py).all(|(m, y)| *m == 0.0 || *y < 9.0), "not on the step above");
    // Two plates in one plane are two shells.
    let mut soup = Soup::default();
    for (x, uv) in [(-50.0, [0.0, 0.0, 0.5, 1.0]), (0.0, [0.5, 0.0, 1.0, 1.0])] {
        let corners = [[x, 0.0, 50.0], [x + 49.9, 0.0, 50.0], [x + 49.9, 0.0, -50.0], [x, 0.0, -50.0]];
        quad(&mut soup, "plate", corners, uv);
    }
    let two = Surface::new(Arc::new(Piece::build(soup).unwrap()), 256);
    let across = || stroke(10.0, [([-20.0, 0.0, 0.0], UP), ([20.0, 0.0, 0.0], UP)]);
    let (all, one) = (drawn(&two, vec![across()]).0, drawn(&two, vec![Stroke { one_shell: true, ..across() }]).0);
    near(area(&two, &all), 800.0 + std::f64::consts::PI * 100.0, "over both");
    near(area(&two, &one), 400.0 + std::f64::consts::PI * 50.0, "on the one that it begins on");
}

/// A grey coat with clouds, and strokes over them.
pub fn with_strokes() -> (Document, String) {
    let steps = vec![step(Join::Replace, "perlin", &[]), step(Join::Replace, "strokes", &[])];
    let d = apply(&document(vec![coat("a", "#808080", steps)]), &Edit::Rename { name: "drawn on".into() }).unwrap();
    let id = d.layers[0].mask.steps[1].id.clone();
    (d, id)
}

pub fn add(d: &Document, step: &str, stroke: Stroke) -> Result<Document, EditError> {
    apply(d, &Edit::AddStroke { layer: "a".into(), step: step.into(), stroke })
}

#[test]
fn strokes_are_added_restyled_moved_and_removed_one_by_one() {
    let (d, id) = with_strokes();
    let dot = |x: f32| stroke(5.0, [([x, 0.0, 0.0], UP)]);
    let d = add(&add(&add(&d, &id, dot(1.0)).unwrap(), &id, dot(2.0)).unwrap(), &id, dot(3.0)).unwrap();
    let ids = |d: &Document| d.layers[0].mask.steps[1].strokes.iter().map(|s| s.id.clone()).collect::<Vec<_>>();
    assert_eq!(ids(&d), ["s1", "s2", "s3"]);
    let (layer, step) = ("a".to_owned(), id.clone());
    let change = StrokeChange { radius: Some(9.0), take: Some(true), ..StrokeChange::default() };
    let restyle = Edit::SetStrokes { layer, step, strokes: vec!["s1".into(), "s3".into()], change };
    assert_eq!(label(&d, &restyle), "restyle 2 strokes");
    let restyled = apply(&d, &restyle).unwrap();
    let all = &restyled.layers[0].mask.steps[1].strokes;
    assert_eq!([all[0].radius, all[1].radius, all[2].radius], [9.0, 5.0, 9.0]);
    assert!(all[0].take && !all[1].take && all[0].hardness == 1.0, "what isn't named stays");
    let (layer, step) = ("a".to_owned(), id.clone());
    let moved = apply(&d, &Edit::MoveStroke { layer, step, stroke: "s3".into(), index: 0 }).unwrap();
    assert_eq!(ids(&moved), ["s3", "s1", "s2"]);
    let gone = Edit::RemoveStrokes { layer: "a".into(), step: id.clone(), strokes: vec!["s3".into(), "s1".into()] };
    let left = apply(&moved, &gone).unwrap();
    assert_eq!(ids(&left), ["s2"]);
    assert_eq!(ids(&add(&left, &id, dot(4.0)).unwrap()), ["s2", "s3"]);
    assert!(apply(&left, &gone).is_err(), "those are gone");
    // On the way through a file the points stay away, and come back by their hashes.
    let text = serde_json::to_string(&d).unwrap();
    assert!(text.len() < 3_000, "a document names its strokes: {} bytes", text.len());
    let mut read: Document = serde_json::from_str(&text).unwrap();
    assert_eq!(read, d);
    assert!(points(&read).iter().all(|p| p.track().is_none()));
    let kept: Vec<(String, Vec<u8>)> =
        points(&d).iter().map(|p| (p.hash().to_owned(), p.track().unwrap().bytes())).collect();
    hold_points(&mut read, &mut |hash| kept.iter().find(|k| k.0 == hash).map(|k| k.1.clone()));
    assert_eq!(
        points(&read).iter().map(|p| p.track()).collect::<Vec<_>>(),
        points(&d).iter().map(|p| p.track()).collect::<Vec<_>>()
    );
    // One whose points are gone draws nothing, and nothing else is lost by it.
    let mut lost: Document = serde_json::from_str(&text).unwrap();
    hold_points(&mut lost, &mut |hash| kept[1..].iter().find(|k| k.0 == hash).map(|k| k.1.clone()));
    let surface = Surface::new(plate(60.0), 64);
    assert_ne!(evaluated(&lost, &surface).channels, evaluated(&d, &surface).channels);
    check(&lost).unwrap();
}

#[test]
fn a_recipe_leaves_the_step_empty_and_what_others_use_is_not_drawn_on() {
    let (d, id) = with_strokes();
    let d = add(&d, &id, stroke(5.0, [([0.0; 3], UP)])).unwrap();
    let recipe = recipe::Recipe::of_layer(&d, Some("a"), "Drawn").unwrap();
    let steps = &recipe.layers[0].mask.steps;
    assert_eq!((steps[1].kind.as_str(), steps[1].strokes.len()), ("strokes", 0));
    assert_eq!(d.layers[0].mask.steps[1].strokes.len(), 1, "the piece keeps what was drawn on it");
    let used = Edit::AddLayer { inside: None, index: 1, layer: recipe.to_use(), dials: vec![] };
    let d = apply(&d, &used).unwrap();
    let open = apply(&d, &Edit::OpenUse { layer: d.layers[1].id.clone() }).unwrap();
    let inner =
        dustcoat_core::document::layers(&open.layers[1..]).into_iter().find(|l| !l.mask.steps.is_empty()).unwrap();
    let draw = Edit::AddStroke {
        layer: inner.id.clone(),
        step: inner.mask.steps[1].id.clone(),
        stroke: stroke(5.0, [([0.0; 3], UP)]),
    };
    assert_eq!(apply(&open, &draw), Err(EditError::DrawnInRecipe));
    let into = Edit::MoveLayer { layer: "a".into(), inside: Some(open.layers[1].id.clone()), index: 0 };
    assert_eq!(apply(&open, &into), Err(EditError::DrawnInRecipe), "nor is what was drawn moved into it");
}

#[test]
fn a_recipe_may_keep_what_was_drawn_for_pieces_of_its_shape() {
    let (d, id) = with_strokes();
    let d = add(&d, &id, stroke(9.0, [([-12.0, 0.0, 4.0], UP), ([12.0, 0.0, 4.0], UP)])).unwrap();
    let own = Surface::new(plate(60.0), 128);
    let recipe = Recipe::of_layer_as_drawn(&d, Some("a"), "Drawn", own.piece.shape()).unwrap();
    assert_eq!(recipe.layers[0].mask.steps[1].strokes.len(), 1);
    // Its points go along in a file.
    let packed = write_recipe(&recipe, None);
    let read = read_recipe(&packed, PackageLimits::default()).unwrap();
    assert_eq!(read, recipe);
    assert!(points(&read).iter().all(|p| p.track().is_some()));
    let used = |of: &Recipe| document(vec![Layer { id: "u1".into(), ..of.to_use() }]);
    let colors = |d: &Document, surface: &Surface| evaluated(d, surface).channels["base_color"].clone();
    assert_eq!(colors(&used(&read), &own), colors(&d, &own));
    // Unwrapped otherwise the piece has the same shape; of another size it has not, and looks as if nothing had been drawn.
    let bare = Recipe::of_layer(&d, Some("a"), "Drawn").unwrap();
    assert_eq!((bare.drawn_on, bare.layers[0].mask.steps[1].strokes.len()), (None, 0));
    let mut soup = Soup::default();
    let corners = [[-30.0, 0.0, 30.0], [30.0, 0.0, 30.0], [30.0, 0.0, -30.0], [-30.0, 0.0, -30.0]];
    quad(&mut soup, "plate", corners, [0.3, 0.2, 0.9, 0.7]);
    let (anew, other) = (Surface::new(Arc::new(Piece::build(soup).unwrap()), 128), Surface::new(plate(80.0), 128));
    assert_ne!(colors(&used(&recipe), &anew), colors(&used(&bare), &anew));
    assert_eq!(colors(&used(&recipe), &other), colors(&used(&bare), &other));
    let told = |d: &Document, s: &Surface| drawn_elsewhere(d, &s.piece.shape()).len();
    assert_eq!([&own, &anew, &other].map(|s| told(&used(&recipe), s)), [0, 0, 1]);
    let fit = |of: &Recipe, s: &Surface| of.fit(&Default::default(), &s.piece).drawn.map(|d| (d.strokes, d.shows));
    assert_eq!(
        [fit(&recipe, &anew), fit(&recipe, &other), fit(&bare, &own)],
        [Some((1, true)), Some((1, false)), None]
    );
    // Within another recipe as well, and through a document's text.
    let outer = Recipe::of_layer(&used(&recipe), None, "Outer").unwrap();
    assert_eq!((outer.drawn_on, points(&outer).len()), (None, 1), "what it uses stays the version that it is");
    let outer_as_drawn = Recipe::of_layer_as_drawn(&used(&recipe), None, "Outer", own.piece.shape()).unwrap();
    assert_eq!(outer_as_drawn, outer, "nothing is drawn in it itself");
    let mut back: Document = serde_json::from_str(&serde_json::to_string(&used(&outer)).unwrap()).unwrap();
    assert!(points(&back).iter().all(|p| p.track().is_none()));
    // Points that are gone are told of where the recipe would show them.
    let lost = |s: &Surface| adrift(&back, &s.piece.shape(), s.bvh()).into_iter().map(|f| f.what).collect::<Vec<_>>();
    assert!(lost(&own)[0].contains("The points of a stroke of") && lost(&own)[0].contains("in the recipe Drawn"));
    assert!(lost(&other).is_empty());
    hold_points(&mut back, &mut |hash| points_files(&d).get(hash).cloned());
    assert_eq!(colors(&back, &own), colors(&d, &own));
    // Opened in place it is restyled and not drawn on; on another piece it shows nothing then either.
    let open = apply(&used(&recipe), &Edit::OpenUse { layer: "u1".into() }).unwrap();
    assert_eq!((colors(&open, &own), told(&open, &other)), (colors(&d, &own), 1));
    assert_eq!(colors(&open, &other), colors(&used(&bare), &other));
    let inner = layers(&open.layers).into_iter().find(|l| !l.mask.steps.is_empty()).unwrap();
    let (layer, step) = (inner.id.clone(), inner.mask.steps[1].id.clone());
    let (strokes, change) = (vec!["s1".to_owned()], StrokeChange { radius: Some(3.0), ..StrokeChange::default() });
    let styled = apply(&open, &Edit::SetStrokes { layer: layer.clone(), step: step.clone(), strokes, change }).unwrap();
    let now = opened_recipe(&styled).unwrap().unwrap();
    assert_eq!((now.drawn_on, now.layers[0].mask.steps[1].strokes[0].radius), (recipe.drawn_on, 3.0));
    let draw = Edit::AddStroke { layer, step, stroke: stroke(5.0, [([0.0; 3], UP)]) };
    assert_eq!(apply(&styled, &draw), Err(EditError::DrawnInRecipe));
    // Another recipe that keeps strokes may be laid into it: it brings its own.
    let mut two = open.clone();
    two.layers.push(Layer { id: "u2".into(), ..Recipe { name: "Other".into(), ..recipe.clone() }.to_use() });
    let into = Edit::MoveLayer { layer: "u2".into(), inside: Some("u1".into()), index: 0 };
    let moved = opened_recipe(&apply(&two, &into).unwrap()).unwrap().unwrap();
    assert_eq!((moved.layers.len(), points(&moved).len()), (2, 2));
}

#[test]
fn what_is_no_stroke_is_refused_with_a_sentence() {
    let row = |x: f64| vec![x, 0.0, 0.0, 0.0, 1.0, 0.0, 1.0, 0.0];
    assert_eq!(Track::of_numbers(&[]), Err(TrackError::Count(0)));
    assert_eq!(Track::of_numbers(&vec![row(0.0); MOST_POINTS + 1]), Err(TrackError::Count(MOST_POINTS + 1)));
    for wrong in [row(f64::NAN), row(1e9), vec![1.0, 2.0], vec![0.0; 8]] {
        assert_eq!(Track::of_numbers(&[row(0.0), wrong]), Err(TrackError::Point(2)));
    }
    let bytes = Track::of_numbers(&[row(0.0), row(1.0)]).unwrap().bytes();
    assert_eq!(Track::read(&bytes[..bytes.len() - 1]), Err(TrackError::Bytes));
    for stroke in scribbles(40, 3) {
        let track = stroke.points.track().unwrap();
        let hash = blake3::hash(&track.bytes()).to_hex().to_string();
        assert_eq!((hash.as_str(), &Track::read(&track.bytes()).unwrap()), (stroke.points.hash(), track.as_ref()));
    }
    assert_eq!(Track::read(b"no stroke at all"), Err(TrackError::Bytes));
    let mut nowhere = bytes.clone();
    nowhere[8..12].copy_from_slice(&f32::NAN.to_le_bytes());
    assert_eq!(Track::read(&nowhere), Err(TrackError::Point(1)));
    let written = json!({"points": [row(0.0), [1.0]], "radius": 5.0, "hardness": 0.5, "flow": 1.0, "value": 1.0});
    let said = serde_json::from_value::<Stroke>(written).unwrap_err().to_string();
    assert!(said.contains("Point 2"), "{said}");
    let (d, id) = with_strokes();
    let dot = || stroke(5.0, [([0.0; 3], UP)]);
    for (wrong, what) in [
        (Stroke { radius: 0.01, ..dot() }, "Radius"),
        (Stroke { radius: 10_000.0, ..dot() }, "Radius"),
        (Stroke { hardness: f64::NAN, ..dot() }, "Hardness"),
        (Stroke { flow: 1.5, ..dot() }, "Flow"),
    ] {
        let said = add(&d, &id, wrong).unwrap_err().to_string();
        assert!(said.contains(what), "{said}");
    }
    let clouds = d.layers[0].mask.steps[0].id.clone();
    assert!(add(&d, &clouds, dot()).is_err(), "nothing else is drawn on");
}

#[test]
fn tips_let_some_of_a_stroke_through_each_in_its_way_and_alike_at_every_size() {
    let (small, large) = (Surface::new(plate(100.0), 256), Surface::new(plate(100.0), 512));
    let path = |tip, z: f32| {
        let along = (0..60).map(|i| ([i as f32 - 30.0, 0.0, z + (i as f32 * 0.1).sin() * 4.0], UP));
        Stroke { tip, hardness: 0.8, ..stroke(12.0, along) }
    };
    let round = drawn(&large, vec![path(Tip::Round, 0.0)]).0;
    let mut seen: Vec<Vec<f32>> = vec![];
    for tip in [Tip::Bristle, Tip::Sponge, Tip::Splash] {
        let mask = drawn(&large, vec![path(tip, 0.0)]).0;
        assert!(mask.iter().zip(&round).all(|(m, r)| *m <= *r + 1e-6), "{tip:?} goes nowhere else");
        let share = area(&large, &mask) / area(&large, &round);
        assert!((0.2..0.8).contains(&share), "{tip:?} lets {share} through");
        let at_half = area(&small, &drawn(&small, vec![path(tip, 0.0)]).0);
        assert!((at_half / area(&large, &mask) - 1.0).abs() < 0.02, "{tip:?} at half the size");
        // Holes and what touches, rather than a grey.
        let within = mask.iter().zip(&round).filter(|(_, r)| **r > 0.95).map(|(m, _)| *m);
        let (all, clear) = within.fold((0, 0), |(n, k), m| (n + 1, k + usize::from(!(0.15..=0.85).contains(&m))));
        assert!(f64::from(clear as u32) > 0.6 * f64::from(all as u32), "{tip:?}: {clear} of {all}");
        // Another stroke, another arrangement.
        let moved = drawn(&large, vec![path(tip, 0.001)]).0;
        let differs = mask.iter().zip(&moved).filter(|(a, b)| (**a - **b).abs() > 0.5).count();
        assert!(differs > 500, "{tip:?}: {differs}");
        assert!(seen.iter().all(|other| *other != mask));
        seen.push(mask);
    }
    // Hairs draw lines along the stroke: along it the mask changes less than across it.
    let straight = stroke(12.0, [([-40.0, 0.0, 0.0], UP), ([40.0, 0.0, 0.0], UP)]);
    let hairs = drawn(&large, vec![Stroke { tip: Tip::Bristle, ..straight }]).0;
    let at = |x: usize, y: usize| hairs[large.atlas.lookup[y * 512 + x] as usize];
    let inside = || (226..286).flat_map(|y| (126..386).map(move |x| (x, y)));
    let along: f32 = inside().map(|(x, y)| (at(x + 1, y) - at(x, y)).abs()).sum();
    let across: f32 = inside().map(|(x, y)| (at(x, y + 1) - at(x, y)).abs()).sum();
    assert!(across > 4.0 * along, "{across} across and {along} along");
}

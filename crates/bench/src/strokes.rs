//! Strokes at 2048² on a plate that fills its square, each 50 points long: all of them anew, and one more upon them; beside copying their planes, which any work on them takes.

use std::hint::black_box;
use std::sync::Arc;

use dustcoat_core::stroke::{Drawing, Point, Points, State, Stroke, Track};
use dustcoat_core::task::Cancel;
use glam::Vec3;

use crate::shapers::plate;
use crate::{Line, fastest, print};

/// Side of the plate in mm.
const SIDE: f32 = 400.0;

/// A bent stroke of 50 points, 50 mm long, somewhere on the plate.
fn stroke(k: usize) -> Stroke {
    let place = |n: f32| ((k as f32 * n).fract() - 0.5) * SIDE;
    let (x, z, turn) = (place(0.618_034), place(0.754_877_7), k as f32 * 2.4);
    let point = |i: u32| {
        let along = i as f32 - 25.0;
        let bent = turn + along * 0.03;
        let at = Vec3::new(x + along * bent.cos(), 0.0, z + along * bent.sin());
        Point { at, normal: Vec3::Y, pressure: 1.0, tilt: 0.0, time: i * 10 }
    };
    let track = Track { points: (0..50).map(point).collect() };
    let points = Points::new(&track).expect("points");
    Stroke { id: format!("s{k}"), hardness: 0.5, flow: 0.8, take: k % 4 == 3, ..Stroke::new(points, 2.0) }
}

pub fn run() {
    let surface = plate(SIDE);
    let texels = surface.atlas.len();
    let cancel = Cancel::default();
    let drawn = |strokes: Vec<Stroke>, on: State| {
        Drawing::new(Arc::new(strokes)).over(&surface, on, &cancel).expect("nobody stops it")
    };
    for count in [2_000, 20_000] {
        let strokes: Vec<Stroke> = (0..count).map(stroke).collect();
        let clean = State::untouched(texels);
        let all = fastest(3, || drop(black_box(drawn(strokes.clone(), clean.clone()))));
        against_copy(&format!("{count} strokes of 50 points, 2048²"), all, &clean);
        let before = drawn(strokes, clean);
        let one = fastest(5, || drop(black_box(drawn(vec![stroke(count)], before.clone()))));
        against_copy(&format!("one more upon {count} strokes, 2048²"), one, &before);
    }
}

/// Beside copying the planes, in ms.
fn against_copy(bench: &str, ours: f64, planes: &State) {
    let theirs = fastest(5, || drop(black_box(planes.clone())));
    let reference = "copying their planes";
    print(&Line { bench, ours: ours * 1e3, unit: "ms", reference, theirs: theirs * 1e3, rate: false });
}

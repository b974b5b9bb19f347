//! Patterns: what they promise of range, size, seed and place.

use crate::common::Dice;
use dustcoat_core::pattern::Field;
use dustcoat_core::pattern::perlin::Perlin;
use dustcoat_core::pattern::{PATTERNS, Placed};
use dustcoat_core::setting::{DialStates, Param, Settings, Value, resolve};

fn sample(p: &Perlin, points: &[[f32; 3]]) -> Vec<f32> {
    let axis = |k: usize| points.iter().map(|p| p[k]).collect::<Vec<_>>();
    let mut out = vec![0.0; points.len()];
    p.sample(&axis(0), &axis(1), &axis(2), &mut out);
    out
}

fn scattered(n: usize, extent: f64) -> Vec<[f32; 3]> {
    let mut dice = Dice(77);
    (0..n).map(|_| [0; 3].map(|_: i32| ((dice.roll() - 0.5) * extent) as f32)).collect()
}

#[test]
fn clouds_stay_in_range_around_a_half_and_use_most_of_it() {
    for octaves in [1, 3, 8] {
        let values = sample(&Perlin::with(10.0, octaves, 2.0, 0.5, 5), &scattered(50_000, 2000.0));
        let mean = values.iter().sum::<f32>() / values.len() as f32;
        let (low, high) = values.iter().fold((1.0f32, 0.0f32), |(l, h), v| (l.min(*v), h.max(*v)));
        assert!(values.iter().all(|v| (0.0..=1.0).contains(v)));
        assert!((mean - 0.5).abs() < 0.02, "{octaves} octaves: mean {mean}");
        assert!(low < 0.2 && high > 0.8, "{octaves} octaves: {low} to {high}");
    }
}

#[test]
fn its_size_is_the_distance_at_which_it_forgets_itself_alike_in_all_directions() {
    let p = Perlin::with(8.0, 1, 2.0, 0.5, 3);
    let points = scattered(40_000, 3000.0);
    let here = sample(&p, &points);
    let likeness = |direction: [f32; 3], distance: f32| {
        let moved: Vec<_> = points.iter().map(|p| [0, 1, 2].map(|k| p[k] + direction[k] * distance)).collect();
        let there = sample(&p, &moved);
        let product: f32 = here.iter().zip(&there).map(|(a, b)| (a - 0.5) * (b - 0.5)).sum();
        product / here.iter().map(|a| (a - 0.5) * (a - 0.5)).sum::<f32>()
    };
    for direction in [[1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0], [0.577, 0.577, 0.577], [0.0, -0.707, 0.707]] {
        assert!(likeness(direction, 0.8) > 0.93, "a tenth of the size away it is nearly the same along {direction:?}");
        assert!(likeness(direction, 16.0).abs() < 0.03, "two sizes away it is another along {direction:?}");
    }
}

#[test]
fn twice_the_size_is_the_same_pattern_twice_as_large() {
    let points = scattered(2000, 300.0);
    let doubled: Vec<_> = points.iter().map(|p| p.map(|x| x * 2.0)).collect();
    let (a, b) =
        (sample(&Perlin::with(12.0, 5, 2.0, 0.5, 9), &points), sample(&Perlin::with(24.0, 5, 2.0, 0.5, 9), &doubled));
    assert!(a.iter().zip(&b).all(|(x, y)| (x - y).abs() < 1e-4));
}

#[test]
fn the_seed_changes_the_pattern_and_nothing_else_does() {
    let points = scattered(5000, 500.0);
    let with = |seed| sample(&Perlin::with(15.0, 4, 2.0, 0.5, seed), &points);
    assert_eq!(with(1), with(1));
    let (a, b) = (with(1), with(2));
    let correlation = a.iter().zip(&b).map(|(x, y)| (x - 0.5) * (y - 0.5)).sum::<f32>();
    let power = a.iter().map(|x| (x - 0.5) * (x - 0.5)).sum::<f32>();
    assert!((correlation / power).abs() < 0.1, "{}", correlation / power);
    // Neither the company of other points nor their order has a say.
    let alone: Vec<f32> =
        points.iter().take(100).map(|p| sample(&Perlin::with(15.0, 4, 2.0, 0.5, 1), &[*p])[0]).collect();
    assert_eq!(alone[..], a[..100]);
}

#[test]
fn it_is_smooth_at_the_scale_of_its_finest_octave() {
    let p = Perlin::with(20.0, 3, 2.0, 0.5, 4);
    let line: Vec<[f32; 3]> = (0..4000).map(|i| [i as f32 * 0.02, 3.0, 7.0]).collect();
    let values = sample(&p, &line);
    let jump = values.windows(2).map(|w| (w[1] - w[0]).abs()).fold(0.0f32, f32::max);
    assert!(jump < 0.01, "{jump} in a 250th of the finest octave");
}

/// A pattern's values on a plane through space that goes along no axis, so that every side of it is met.
fn with(kind: &str, changes: &[(&str, Value)], points: &[[f32; 3]]) -> Vec<f32> {
    let pattern = PATTERNS.iter().find(|p| p.kind == kind).unwrap();
    let settings: Settings = changes.iter().map(|(k, v)| ((*k).to_owned(), Param::Const(v.clone()))).collect();
    let field = (pattern.field)(&resolve(&pattern.all_specs(), &settings, &DialStates::new()));
    let axis = |k: usize| points.iter().map(|p| p[k]).collect::<Vec<_>>();
    let mut out = vec![0.0; points.len()];
    field.sample(&axis(0), &axis(1), &axis(2), &mut out);
    out
}

fn text(v: &str) -> Value {
    Value::Text(v.into())
}

fn moments(values: &[f32]) -> (f32, f32) {
    let mean = values.iter().sum::<f32>() / values.len() as f32;
    (mean, (values.iter().map(|v| (v - mean) * (v - mean)).sum::<f32>() / values.len() as f32).sqrt())
}

/// Mean and spread of every pattern at its defaults, over a wide stretch of space: what a threshold or a level is set by.
#[rustfmt::skip]
const STATISTICS: &[(&str, f32, f32)] = &[
    ("perlin", 0.500, 0.225), ("simplex", 0.499, 0.255), ("value", 0.499, 0.190), ("billow", 0.399, 0.179), ("ridged", 0.504, 0.194),
    ("worley", 0.520, 0.173), ("cracks", 0.084, 0.261), ("veins", 0.051, 0.171), ("spots", 0.127, 0.321), ("droplets", 0.154, 0.287),
    ("scratches", 0.010, 0.073), ("fibres", 0.033, 0.139), ("brushed", 0.501, 0.152), ("rings", 0.334, 0.222), ("weave", 0.667, 0.237), ("cord", 0.719, 0.216),
    ("planks", 0.918, 0.259), ("bands", 0.503, 0.495), ("gradient", 0.496, 0.487),
];

#[test]
fn every_pattern_keeps_its_range_its_mean_and_its_spread() {
    let points = scattered(60_000, 4000.0);
    let told: Vec<String> = PATTERNS
        .iter()
        .filter_map(|p| {
            let values = with(p.kind, &[], &points);
            assert!(values.iter().all(|v| (0.0..=1.0).contains(v)), "{} leaves 0…1", p.kind);
            let (mean, spread) = moments(&values);
            let known = STATISTICS.iter().find(|s| s.0 == p.kind);
            let kept = known.is_some_and(|s| (s.1 - mean).abs() < 0.02 && (s.2 - spread).abs() < 0.02);
            (!kept).then(|| format!("(\"{}\", {mean:.3}, {spread:.3}),", p.kind))
        })
        .collect();
    assert!(told.is_empty(), "measured otherwise than stored:\n{}", told.join("\n"));
}

#[test]
fn seeds_are_unlike_each_other_and_places_alone_decide() {
    let points = scattered(20_000, 2000.0);
    for p in PATTERNS.iter().filter(|p| (p.specs)().iter().any(|s| s.key == "seed")) {
        let (a, b) = (with(p.kind, &[], &points), with(p.kind, &[("seed", Value::Number(2.0))], &points));
        let ((ma, sa), (mb, sb)) = (moments(&a), moments(&b));
        let shared = a.iter().zip(&b).map(|(x, y)| (x - ma) * (y - mb)).sum::<f32>() / a.len() as f32 / (sa * sb);
        // What repeats in rank and file whatever the seed (gaps of planks, threads) is alike by right.
        let limit = if matches!(p.kind, "planks" | "weave" | "cord") { 0.99 } else { 0.1 };
        assert!(shared.abs() < limit, "{}: two seeds share {shared}", p.kind);
        let alone: Vec<f32> = points.iter().take(50).map(|q| with(p.kind, &[], &[*q])[0]).collect();
        assert_eq!(alone[..], a[..50], "{} depends on its company", p.kind);
    }
}

#[test]
fn patterns_without_direction_look_alike_along_every_axis() {
    for kind in ["perlin", "simplex", "value", "billow", "ridged", "worley"] {
        let points = scattered(20_000, 3000.0);
        let here = with(kind, &[], &points);
        let (mean, spread) = moments(&here);
        let likeness = |d: [f32; 3]| {
            let moved: Vec<_> = points.iter().map(|p| [0, 1, 2].map(|k| p[k] + d[k])).collect();
            let there = with(kind, &[], &moved);
            here.iter().zip(&there).map(|(a, b)| (a - mean) * (b - mean)).sum::<f32>()
                / here.len() as f32
                / (spread * spread)
        };
        let along = [[6.0, 0.0, 0.0], [0.0, 6.0, 0.0], [0.0, 0.0, 6.0]].map(likeness);
        let (low, high) = along.iter().fold((1.0f32, -1.0f32), |(l, h), v| (l.min(*v), h.max(*v)));
        assert!(high - low < 0.04, "{kind}: {along:?}");
    }
}

#[test]
fn worley_distances_agree_with_all_points_asked_one_by_one() {
    // The points, found from outside: where a dense grid's nearest distance has its least values next to 0.
    let points = scattered(3000, 60.0);
    let get = |output: &str| with("worley", &[("size", Value::Number(20.0)), ("output", text(output))], &points);
    let (first, second, gap, border) = (get("first"), get("second"), get("gap"), get("border"));
    for i in 0..points.len() {
        let (f1, f2) = (first[i], second[i] / 0.75);
        if first[i] < 1.0 && second[i] < 1.0 && gap[i] < 1.0 {
            assert!(f2 >= f1 - 1e-5 && (gap[i] / 1.4 - (f2 - f1)).abs() < 1e-4);
            // The border lies half-way between both points: never further than half of the gap, never nearer than the triangle inequality allows.
            assert!(border[i] / 2.2 <= 0.5 * (f1 + f2) + 1e-4);
        }
    }
    // Moving by d changes no distance by more than d.
    let moved: Vec<_> = points.iter().map(|p| [p[0] + 0.5, p[1], p[2]]).collect();
    let there = with("worley", &[("size", Value::Number(20.0)), ("output", text("first"))], &moved);
    assert!(first.iter().zip(&there).all(|(a, b)| (a - b).abs() <= 0.5 / 20.0 + 1e-4), "a distance is 1-Lipschitz");
    // Points at which it reads nearly 0 are the seeds; every other point's value is the distance to the nearest of them.
    let grid: Vec<[f32; 3]> =
        (0..80 * 80 * 80).map(|i| [i % 80, i / 80 % 80, i / 6400].map(|k| k as f32 * 0.75 - 30.0)).collect();
    let values = with("worley", &[("size", Value::Number(20.0)), ("output", text("first"))], &grid);
    let seeds: Vec<[f32; 3]> = grid.iter().zip(&values).filter(|(_, v)| **v < 0.034).map(|(p, _)| *p).collect();
    assert!(seeds.len() > 20);
    for (p, v) in points.iter().zip(&first).filter(|(p, v)| p.iter().all(|c| c.abs() < 12.0) && **v < 0.85) {
        let nearest = seeds
            .iter()
            .map(|s| (0..3).map(|k| (s[k] - p[k]).powi(2)).sum::<f32>().sqrt())
            .fold(f32::INFINITY, f32::min);
        assert!((nearest / 20.0 - v).abs() < 0.04, "{nearest} mm against {v}");
    }
}

#[test]
fn what_repeats_repeats_and_what_is_measured_in_mm_is_as_long_as_it_says() {
    let along = |n: usize, step: f32| (0..n).map(|i| [i as f32 * step, 4.0, 0.0]).collect::<Vec<_>>();
    let stripes = with("bands", &[("size", Value::Number(25.0))], &along(4000, 0.25));
    assert!((0..3900).all(|i| (stripes[i] - stripes[i + 100]).abs() < 1e-3), "every 25 mm");
    let (mean, _) = moments(&stripes);
    assert!((mean - 0.5).abs() < 0.01, "half of it is stripe: {mean}");
    let ramp = with("gradient", &[("size", Value::Number(100.0))], &along(100, 1.0));
    assert!((ramp[25] - ramp[0] - 0.25).abs() < 1e-3, "a quarter of 100 mm");
    // Gaps of 3 mm between planks 50 mm wide: 6 % of a walk across.
    let across: Vec<_> = (0..20_000).map(|i| [0.37, i as f32 * 0.05, 0.0]).collect();
    let settings = [
        ("size", Value::Number(50.0)),
        ("gap", Value::Number(3.0)),
        ("round", Value::Number(0.01)),
        ("uneven", Value::Number(0.0)),
        ("length", Value::Number(10_000.0)),
        ("offset", Value::Number(0.0)),
    ];
    let mut at_middle = across.clone();
    at_middle.iter_mut().for_each(|p| p[0] = 5000.0);
    let (faces, _) = moments(&with("planks", &settings, &at_middle));
    assert!((faces - 0.94).abs() < 0.005, "{faces}");
    let threads = with("weave", &[("size", Value::Number(2.0)), ("uneven", Value::Number(0.0))], &along(4000, 0.05));
    assert!((0..3900).all(|i| (threads[i] - threads[i + 80]).abs() < 0.02), "plain weave repeats after two threads");
}

#[test]
fn placement_moves_turns_and_scales_and_crosses_seams() {
    let piece = crate::common::cube(40.0);
    let surface = dustcoat_core::bake::Surface::new(piece, 128);
    let laid = |kind: &str, changes: &[(&str, Value)]| {
        let pattern = PATTERNS.iter().find(|p| p.kind == kind).unwrap();
        let settings: Settings = changes.iter().map(|(k, v)| ((*k).to_owned(), Param::Const(v.clone()))).collect();
        let placed = Placed::new(pattern, &resolve(&pattern.all_specs(), &settings, &DialStates::new()));
        let mut out = vec![0.0; surface.atlas.len()];
        out.chunks_mut(4096).enumerate().for_each(|(i, run)| placed.fill(&surface, i * 4096, run));
        out
    };
    let a = &surface.atlas;
    let n = Value::Number;
    // A ramp along x, moved by 10 mm, turned upright, stretched to twice its length.
    let plain = laid("gradient", &[("size", n(100.0))]);
    type Case<'a> = (&'a [(&'a str, Value)], &'a dyn Fn(usize) -> f32);
    let checks: [Case; 4] = [
        (&[("size", n(100.0)), ("offset_x", n(10.0))], &|i| (a.px[i] - 10.0) / 100.0 + 0.5),
        (&[("size", n(100.0)), ("turn_z", n(90.0))], &|i| a.py[i] / 100.0 + 0.5),
        (&[("size", n(50.0)), ("stretch_x", n(2.0))], &|i| plain[i]),
        (&[("size", n(100.0)), ("contrast", n(2.0))], &|i| (0.5 + 2.0 * (plain[i] - 0.5)).clamp(0.0, 1.0)),
    ];
    for (changes, want) in checks {
        let got = laid("gradient", changes);
        let off = (0..a.len()).map(|i| (got[i] - want(i)).abs()).fold(0.0f32, f32::max);
        assert!(off < 1e-4, "{changes:?}: off by {off}");
    }
    // Warped by w mm, a ramp of 100 mm strays by about w/100.
    let warped = laid("gradient", &[("size", n(100.0)), ("warp", n(6.0))]);
    let stray = (0..a.len()).map(|i| (warped[i] - plain[i]).abs()).fold(0.0f32, f32::max);
    assert!((0.01..0.09).contains(&stray), "{stray}");
    // Texels that lie close in space read alike, whatever chart they are on: solid, and from three sides along the edges of a cube.
    for (kind, placement) in [("perlin", "solid"), ("perlin", "triplanar"), ("worley", "solid")] {
        let values = laid(kind, &[("placement", text(placement)), ("sharpness", n(4.0))]);
        let mut worst = 0.0f32;
        let place = |i: usize| [a.px[i], a.py[i], a.pz[i]];
        for i in (0..a.len()).step_by(7) {
            for j in (0..a.len()).step_by(11) {
                let d: f32 = (0..3).map(|k| (place(i)[k] - place(j)[k]).powi(2)).sum();
                let alike = placement == "solid"
                    || surface.piece.chart_of[a.triangle[i] as usize] == surface.piece.chart_of[a.triangle[j] as usize];
                if d < 0.09 && alike {
                    worst = worst.max((values[i] - values[j]).abs());
                }
            }
        }
        assert!(worst < 0.08, "{kind} {placement}: {worst} within a third of a millimetre");
    }
    assert_ne!(
        laid("perlin", &[("scale", text("piece"))]),
        laid("perlin", &[]),
        "sizes follow the piece when asked to"
    );
    for placement in ["planar", "cylindrical", "radial", "uv"] {
        let (_, spread) = moments(&laid("brushed", &[("placement", text(placement))]));
        assert!(spread > 0.05, "{placement} lays it down: {spread}");
    }
}

#[test]
fn planks_tell_head_gap_and_face_in_one_number() {
    use dustcoat_core::pattern::planks::{FACES, GAPS, HEADS};
    let mut dice = crate::common::Dice(99);
    let points: Vec<[f32; 3]> =
        (0..40_000).map(|_| [dice.roll() as f32 * 600.0, dice.roll() as f32 * 300.0, 0.0]).collect();
    let of = |output: &str| {
        with("planks", &[("output", text(output)), ("gap", Value::Number(4.0)), ("head", Value::Number(9.0))], &points)
    };
    let (whole, heads, border) = (of("whole"), of("heads"), of("border"));
    let within = |v: f32, [low, high]: [f32; 2]| v >= low - 1e-6 && v <= high + 1e-6;
    let mut seen = [0; 3];
    for (i, v) in whole.iter().enumerate() {
        // A head's own output is one half at its border.
        let kind = if border[i] <= 0.0 { 1 } else { usize::from(heads[i] < 0.5) * 2 };
        let range = [HEADS, GAPS, [GAPS[1], FACES[1]]][kind];
        assert!((heads[i] - 0.5).abs() < 0.01 || within(*v, range), "{v} at {:?} is none of {range:?}", points[i]);
        seen[kind] += 1;
    }
    assert!(seen.iter().all(|n| *n > 100), "heads, gaps and faces: {seen:?}");
    // Streaks run along a plank: a step along it changes less than one across.
    let aside = |dx: f32, dy: f32| {
        let moved: Vec<[f32; 3]> = points.iter().map(|p| [p[0] + dx, p[1] + dy, 0.0]).collect();
        let there = with(
            "planks",
            &[("output", text("whole")), ("gap", Value::Number(4.0)), ("head", Value::Number(9.0))],
            &moved,
        );
        let face = |v: f32| v > FACES[0] + 0.02;
        let both: Vec<f32> =
            whole.iter().zip(&there).filter(|(a, b)| face(**a) && face(**b)).map(|(a, b)| (a - b).abs()).collect();
        both.iter().sum::<f32>() / both.len() as f32
    };
    let (along, across) = (aside(1.5, 0.0), aside(0.0, 1.5));
    assert!(along * 3.0 < across, "{along} along, {across} across");
}

//! Patterns: what they promise of range, size, seed and place.

mod common;

use common::Dice;
use dustcoat_core::pattern::Field;
use dustcoat_core::pattern::perlin::Perlin;

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

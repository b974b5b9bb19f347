//! The cord: its strands, their lay and how they slant.

use dustcoat_core::pattern;
use dustcoat_core::setting::{DialStates, Settings, resolve};

fn at(settings: &[(&str, f64)], points: impl Iterator<Item = [f32; 2]>) -> Vec<f32> {
    let settings: Settings = settings.iter().map(|(k, v)| ((*k).into(), (*v).into())).collect();
    let cord = pattern::find("cord").unwrap();
    let field = (cord.field)(&resolve(&(cord.specs)(), &settings, &DialStates::new()));
    let (x, y): (Vec<f32>, Vec<f32>) = points.map(|[x, y]| (x, y)).unzip();
    let mut out = vec![0.0; x.len()];
    field.sample(&x, &y, &x, &mut out);
    out
}

#[test]
fn a_strand_comes_again_after_the_lay_over_the_strands_and_turns_after_the_thickness() {
    let even = [("size", 10.0), ("strands", 3.0), ("lay", 3.0), ("uneven", 0.0)];
    // Along the crest of a turn: 3 strands in 30 mm.
    let line = at(&even, (0..4000).map(|k| [k as f32 * 0.01, 5.0]));
    assert!((0..3000).all(|k| (line[k] - line[k + 1000]).abs() < 1e-3));
    assert!((0..500).any(|k| (line[k] - line[k + 500]).abs() > 0.1), "but not before");
    // Between turns it is lowest, whatever the strands do.
    let gaps = at(&even, (0..50).flat_map(|k| [[k as f32, 0.0], [k as f32, 30.0]]));
    assert!(gaps.iter().all(|v| *v < 1e-3));
    // A strand slants: half-way to the side it is a third of the way to its back, and so that much further along.
    let crest = |y: f32| {
        let line = at(&even, (0..1000).map(|k| [k as f32 * 0.01, y]));
        (0..1000).max_by(|a, b| line[*a].total_cmp(&line[*b])).unwrap() as f32 * 0.01
    };
    let slant = (crest(5.0) - crest(7.5)).rem_euclid(10.0);
    assert!((slant - 30.0 / 12.0).abs() < 0.3, "a twelfth of the lay: {slant}");
}

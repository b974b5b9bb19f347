//! How a layer lies on what is below it, against the formulas of the recommendation on compositing.

use dustcoat_core::finish::blend::BLENDS;

/// The formulas as the recommendation writes them, in double precision and from one another.
fn recommended(kind: &str, b: f64, s: f64) -> f64 {
    let multiply = |b: f64, s: f64| b * s;
    let screen = |b: f64, s: f64| 1.0 - (1.0 - b) * (1.0 - s);
    let hard = |b: f64, s: f64| if s <= 0.5 { multiply(b, 2.0 * s) } else { screen(b, 2.0 * s - 1.0) };
    match kind {
        "normal" => s,
        "multiply" => multiply(b, s),
        "screen" => screen(b, s),
        "overlay" => hard(s, b),
        "darken" => b.min(s),
        "lighten" => b.max(s),
        "color_dodge" if b == 0.0 => 0.0,
        "color_dodge" if s == 1.0 => 1.0,
        "color_dodge" => 1f64.min(b / (1.0 - s)),
        "color_burn" if b == 1.0 => 1.0,
        "color_burn" if s == 0.0 => 0.0,
        "color_burn" => 1.0 - 1f64.min((1.0 - b) / s),
        "hard_light" => hard(b, s),
        "soft_light" if s <= 0.5 => b - (1.0 - 2.0 * s) * b * (1.0 - b),
        "soft_light" => {
            let d = if b <= 0.25 { ((16.0 * b - 12.0) * b + 4.0) * b } else { b.powf(0.5) };
            b + (2.0 * s - 1.0) * (d - b)
        }
        "difference" => (b - s).abs(),
        "exclusion" => b + s - 2.0 * b * s,
        "add" => (b + s).min(1.0),
        "subtract" => (b - s).max(0.0),
        other => panic!("no formula for {other}"),
    }
}

#[test]
fn every_mode_is_what_the_recommendation_says() {
    for mode in &BLENDS {
        for (b, s) in (0..=20).flat_map(|b| (0..=20).map(move |s| (b as f32 / 20.0, s as f32 / 20.0))) {
            let mut below = [b];
            mode.lay(&[s], &[1.0], (0.0, 1.0), &mut below);
            let wanted = recommended(mode.kind, f64::from(b), f64::from(s));
            assert!((f64::from(below[0]) - wanted).abs() < 2e-6, "{} of {b} and {s}: {}", mode.kind, below[0]);
            let mut half = [b];
            mode.lay(&[s], &[0.25], (0.0, 1.0), &mut half);
            let part = f64::from(b) + (wanted - f64::from(b)) * 0.25;
            assert!((f64::from(half[0]) - part).abs() < 2e-6, "{}: a quarter of the way", mode.kind);
        }
    }
}

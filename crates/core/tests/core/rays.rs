//! Directions of rays.

use dustcoat_core::bake::rays::{Directions, sin_cos_turn};

#[test]
fn each_texel_has_one_point_in_each_cell() {
    let plan = Directions::new(64);
    let mut points = vec![];
    for texel in [0, 1, 77, 1_000_003] {
        plan.square(texel, 5, &mut points);
        for (i, p) in points.iter().enumerate() {
            let cell = (p[0] * 8.0) as usize * 8 + (p[1] * 8.0) as usize;
            assert_eq!(cell, i, "texel {texel}: points are stratified and sorted");
        }
    }
}

#[test]
fn sine_and_cosine_agree_with_the_library() {
    for i in 0..=1000 {
        let t = i as f32 / 1000.0;
        let (s, c) = sin_cos_turn(t);
        let (ws, wc) = (t * std::f32::consts::TAU).sin_cos();
        assert!((s - ws).abs() < 2e-6 && (c - wc).abs() < 2e-6, "{t}: {s} {ws} {c} {wc}");
    }
}

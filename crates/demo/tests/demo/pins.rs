//! The made-up pictures of pins.

use std::collections::BTreeSet;

use dustcoat_core::raster::picture::Picture;
use dustcoat_demo::pins::{PICTURES, find, letters};
use glam::Vec2;

#[test]
fn every_picture_is_there_in_part_and_clear_in_part_and_the_same_twice() {
    let mut seen = BTreeSet::new();
    for made in PICTURES {
        assert!(seen.insert(made.key) && !made.label.is_empty() && !made.help.is_empty(), "{}", made.key);
        assert!(find(made.key).is_some_and(|f| f.label == made.label));
        let bytes = made.small(160);
        assert_eq!(bytes, made.small(160));
        let picture = Picture::decode(&made.file(), &bytes).unwrap();
        let [width, height] = picture.size();
        assert!((155..=160).contains(&width.max(height)), "{}: {width} × {height}", made.key);
        let alpha: Vec<f32> = (0..picture.len()).map(|i| picture.texel(i)[3]).collect();
        let share = alpha.iter().sum::<f32>() / alpha.len() as f32;
        let range = if made.key == "warning-stripes" { 1.0..=1.0 } else { 0.1..=0.99 };
        assert!(range.contains(&share), "{}: {share}", made.key);
        // Clear borders still have the colour of what they border on, so that nothing darkens when it is evened out.
        assert!((0..picture.len()).all(|i| picture.texel(i)[..3].iter().any(|c| *c > 0.02)), "{}", made.key);
    }
}

#[test]
fn letters_are_as_wide_as_their_text_says_and_held_by_bridges() {
    let inside = |x: f32, y: f32, what: &str| letters::text(Vec2::new(x, y), what) < 0.0;
    assert!((letters::width("OPEN") - (4.0 * 4.7 - 0.7)).abs() < 1e-4);
    // A ring would fall out of its sheet: bridges at the top and at the bottom.
    assert!(!inside(2.0, 5.5, "O") && !inside(2.0, 0.5, "O") && inside(0.5, 3.0, "O") && inside(1.4, 5.5, "O"));
    assert!(inside(0.5, 3.0, "I") && !inside(1.4, 3.0, "I"));
    assert!(!inside(2.0, 3.0, " "), "a space is clear");
    for what in ["TIDEGATE 7", "WRACK POINT", "OPEN", "04", "TESTED", "2-74"] {
        for c in what.chars().filter(|c| *c != ' ') {
            let there = (0..40 * 60).filter(|i| inside((i % 40) as f32 * 0.1, (i / 40) as f32 * 0.1, &c.to_string()));
            assert!(there.count() > 150, "{c} is drawn");
        }
    }
}

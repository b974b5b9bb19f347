//! Ready finishes: documents take them, their dials change nothing until they are turned, they reflect what such things reflect, and their relief is as
//! deep as things are.

use std::collections::BTreeSet;

use crate::common::{document, evaluated, sphere};
use crate::dials::done;
use dustcoat_core::bake::Surface;
use dustcoat_core::document::{Document, Edit, check, driven, layers};
use dustcoat_core::ready::{READY, Ready, fitted_layer};

fn laid(finish: &Ready) -> Document {
    let add = Edit::AddLayer { inside: None, index: 0, layer: finish.layer(), dials: finish.dials() };
    done(&document(vec![]), add)
}

#[test]
fn there_are_more_than_forty_each_with_a_text_and_two_to_five_dials_that_drive_something() {
    assert!(READY.len() > 40, "{}", READY.len());
    let names: BTreeSet<&str> = READY.iter().map(|r| r.recipe.name.as_str()).collect();
    assert_eq!(names.len(), READY.len(), "no two are called alike");
    for r in READY.iter() {
        let d = laid(r);
        assert!((2..=5).contains(&d.dials.len()), "{} has {} dials", r.kind, d.dials.len());
        assert!(!r.recipe.note.is_empty() && r.recipe.check().is_ok(), "{}", r.kind);
        for dial in &d.dials {
            assert!(!driven(&d, &dial.id).is_empty(), "{} › {} drives something", r.kind, dial.label);
            assert_eq!(dial.group, r.recipe.name);
        }
        // It may be laid twice, and goes with its dials.
        let twice = done(&d, Edit::AddLayer { inside: None, index: 1, layer: r.layer(), dials: r.dials() });
        let again = twice.layers[1].id.clone();
        let gone = done(
            &done(&twice, Edit::RemoveLayer { layer: again }),
            Edit::RemoveLayer { layer: d.layers[0].id.clone() },
        );
        assert!(gone.dials.is_empty() && gone.layers.is_empty(), "{}", r.kind);
    }
}

#[test]
fn their_lengths_suit_small_and_large_pieces() {
    for r in READY.iter() {
        for diagonal in [3.0, 60.0, 9_000.0] {
            let layer = fitted_layer(r.layer(), diagonal);
            let add = Edit::AddLayer { inside: None, index: 0, layer, dials: r.dials() };
            check(&done(&document(vec![]), add)).unwrap_or_else(|e| panic!("{} at {diagonal} mm: {e}", r.kind));
        }
    }
}

#[test]
fn dials_change_nothing_until_they_are_turned() {
    let surface = Surface::new(sphere(70.0), 64);
    for r in READY.iter() {
        let d = laid(r);
        let before = evaluated(&d, &surface).channels;
        let add = Edit::AddLayer { inside: None, index: 0, layer: r.plain(), dials: vec![] };
        let plain = evaluated(&done(&document(vec![]), add), &surface).channels;
        for (channel, values) in &plain {
            let close = |(a, b): (&f32, &f32)| (a - b).abs() <= 2e-4 * a.abs().max(1.0) || a == b;
            assert!(values.iter().zip(before[channel].iter()).all(close), "{} › {channel}", r.kind);
        }
    }
}

#[test]
fn they_reflect_what_such_things_reflect_and_are_as_deep_as_things_are() {
    let surface = Surface::new(sphere(70.0), 96);
    let n = surface.atlas.len();
    for r in READY.iter() {
        let e = evaluated(&laid(r), &surface);
        let (color, metal, height) = (&e.channels["base_color"], &e.channels["metallic"], &e.channels["height"]);
        for i in 0..n {
            let brightest = (0..3).map(|c| color[c * n + i]).fold(0.0, f32::max);
            // Nothing reflects more than snow or silver, nothing less than soot; what is wholly metal reflects at least what magnetite does.
            let least = if metal[i] > 0.99 { 0.08 } else { 0.003 };
            assert!((least..=0.96).contains(&brightest), "{}: {brightest}, metallic {}", r.kind, metal[i]);
        }
        let (low, high) = height.iter().fold((f32::MAX, f32::MIN), |(l, h), v| (l.min(*v), h.max(*v)));
        assert!(low >= -6.0 && high <= 6.0, "{}: {low} to {high} mm", r.kind);
        assert!(
            high - low < 0.5 || layers(&r.recipe.layers).len() > 1,
            "{}: {low} to {high} mm in a single coat",
            r.kind
        );
    }
}

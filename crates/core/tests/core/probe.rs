//! The probe against the evaluation of the whole surface: the same numbers, layer by layer and step by step.

use crate::common::{coat, cube, document, evaluated, step, with_context};
use dustcoat_core::bake::Surface;
use dustcoat_core::document::{Document, Layer, check};
use dustcoat_core::evaluate::probe::{Probe, probe};
use dustcoat_core::evaluate::{Cache, mask};
use dustcoat_core::mask::Join;
use serde_json::json;

/// A base, a rusty coat whose mask looks around and is measured, a group with a coat that follows it, an adjustment, and a hidden coat.
fn weathered() -> Document {
    let rust = vec![
        step(Join::Replace, "edges", &[("radius", "fine".into())]),
        step(Join::Add, "perlin", &[("size", 12.0.into())]),
        step(Join::Replace, "blur", &[("radius", 1.5.into())]),
        step(Join::Replace, "levels", &[("black", 0.3.into()), ("white", 0.7.into())]),
    ];
    let mut d = document(vec![coat("l1", "#336699", vec![]), coat("l2", "#cc6622", rust)]);
    d.layers[1].publish = Some("rust".into());
    let below = vec![
        step(Join::Replace, "follow", &[("name", "rust".into())]),
        step(Join::Multiply, "below", &[("channel", "metallic".into())]),
    ];
    let mut inner = coat("l4", "#112211", below);
    inner.opacity = 0.5.into();
    let group: Layer = serde_json::from_value(json!({
        "id": "l3", "name": "Group", "kind": "group", "opacity": 0.8, "layers": [serde_json::to_value(&inner).unwrap()]
    }))
    .unwrap();
    let adjust: Layer = serde_json::from_value(json!({
        "id": "l5", "name": "Adjust", "kind": "adjust", "opacity": 0.5,
        "finish": {"channels": {"base_color": {"on": true, "settings": {"hue": 30}}}}
    }))
    .unwrap();
    let mut hidden = coat("l6", "#ffffff", vec![]);
    hidden.shown = false;
    d.layers.extend([group, adjust, hidden]);
    check(&d).unwrap();
    d
}

/// Some texels all over the piece, looked into.
fn probed(d: &Document, surface: &Surface, step: usize) -> Vec<(usize, Probe)> {
    with_context(d, surface, &Cache::new(1 << 26), |context| {
        (0..surface.atlas.len()).step_by(step).map(|i| (i, probe(d, i as u32, context).unwrap())).collect()
    })
}

#[test]
fn the_last_slice_is_the_texel_that_is_exported() {
    let (d, surface) = (weathered(), Surface::new(cube(60.0), 128));
    let (e, n) = (evaluated(&d, &surface), surface.atlas.len());
    for (texel, sample) in probed(&d, &surface, n / 23) {
        let last = |kind: &str| {
            let after = sample.layers.iter().rev().find_map(|l| l.after.iter().find(|v| v.channel == kind));
            after.unwrap().value.clone()
        };
        for (kind, plane) in &e.channels {
            let wanted: Vec<f32> = plane.chunks(n).map(|c| c[texel]).collect();
            assert_eq!(last(kind), wanted, "{kind} at {texel}");
        }
        assert_eq!(sample.place, [surface.atlas.px[texel], surface.atlas.py[texel], surface.atlas.pz[texel]]);
    }
}

#[test]
fn masks_and_steps_are_those_of_the_whole_and_what_is_seen_adds_up() {
    let (d, surface) = (weathered(), Surface::new(cube(60.0), 128));
    let n = surface.atlas.len();
    let masks: Vec<Vec<f32>> = with_context(&d, &surface, &Cache::new(1 << 26), |context| {
        ["l1", "l2", "l3", "l4", "l5", "l6"].map(|id| mask(&d, id, context).unwrap().0.to_vec()).to_vec()
    });
    let mut worn = 0;
    for (texel, sample) in probed(&d, &surface, n / 31) {
        assert_eq!(
            sample.layers.iter().map(|l| l.layer.as_str()).collect::<Vec<_>>(),
            ["l1", "l2", "l3", "l4", "l5", "l6"]
        );
        assert_eq!(sample.layers.iter().map(|l| l.depth).collect::<Vec<_>>(), [0, 0, 0, 1, 0, 0]);
        for (layer, mask) in sample.layers.iter().zip(&masks) {
            assert_eq!(layer.mask, mask[texel], "{}", layer.name);
            assert_eq!(layer.steps.last().map_or(1.0, |s| s.mask), mask[texel], "{}", layer.name);
        }
        let rust = &sample.layers[1];
        assert_eq!(
            rust.steps.iter().map(|s| s.label.as_str()).collect::<Vec<_>>(),
            ["Edges", "Clouds", "Blur", "Levels"]
        );
        let inner = &sample.layers[3];
        assert!((inner.weight - inner.mask * 0.5 * 0.8).abs() < 1e-6, "its own opacity and the group's");
        assert!(!sample.layers[5].shown && sample.layers[5].weight == 0.0 && sample.layers[5].after.is_empty());
        // Coats hide what lies below; an adjustment and a group don't, and the first coat is full.
        let seen: f32 = [0, 1, 3].iter().map(|i| sample.layers[*i].visible).sum();
        assert!((seen - 1.0).abs() < 1e-5, "{seen}");
        assert!((sample.layers[4].visible - 0.5).abs() < 1e-6);
        worn += u32::from(rust.mask > 0.1 && rust.mask < 0.9);
    }
    assert!(worn > 2, "there is something to tell of: {worn}");
}

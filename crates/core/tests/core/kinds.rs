//! What the catalog offers: every kind once with valid defaults, starters, and lengths that follow the piece.

use std::collections::BTreeSet;

use dustcoat_core::catalog::catalog;
use dustcoat_core::document::{Document, Layer, check};
use dustcoat_core::mask::fit::{fitted, fresh};
use dustcoat_core::mask::starter::STARTERS;
use dustcoat_core::mask::{Step, StepKind};
use dustcoat_core::setting::{Param, Value};

#[test]
fn starters_are_lines_that_a_document_takes() {
    assert!(STARTERS.len() >= 14);
    for s in STARTERS {
        let mut steps = s.steps();
        steps.iter_mut().enumerate().for_each(|(i, s)| s.id = format!("s{i}"));
        let layer: Layer = serde_json::from_value(serde_json::json!({
            "id": "l1", "name": s.label, "kind": "group", "layers": [], "mask": {"steps": steps}
        }))
        .unwrap();
        let document = Document { layers: vec![layer], ..Document::new("Starter") };
        check(&document).unwrap_or_else(|e| panic!("{}: {e}", s.kind));
    }
}

#[test]
fn every_kind_is_there_once_and_every_default_is_valid() {
    let mut seen = BTreeSet::new();
    for e in catalog() {
        let family = if matches!(
            e.family,
            "adjustment"
                | "change"
                | "channel"
                | "finish"
                | "function"
                | "join"
                | "ladder"
                | "layer"
                | "layout"
                | "measurement"
                | "palette"
                | "piece"
                | "plain"
                | "sharing"
                | "starter"
                | "step"
                | "way"
        ) {
            e.family
        } else {
            "step"
        };
        assert!(seen.insert((family, e.kind)), "{} is there twice", e.kind);
        assert!(!e.help.is_empty() && !e.label.is_empty(), "{} is described", e.kind);
        for p in &e.params {
            assert!(p.check(&p.default).is_ok(), "{} › {}", e.kind, p.key);
            assert!(!p.help.is_empty() && p.min < p.max, "{} › {}", e.kind, p.key);
        }
    }
}

fn size(steps: &[Step]) -> Option<f64> {
    match steps[0].settings.get("size") {
        Some(Param::Const(Value::Number(n))) => Some(*n),
        _ => None,
    }
}

#[test]
fn lengths_follow_the_piece_and_are_round() {
    assert_eq!(size(&fitted(vec![fresh("perlin")], 600.0)), None, "a piece of the usual size takes the defaults");
    assert_eq!(size(&fitted(vec![fresh("perlin")], 700.0)), None);
    assert_eq!(size(&fitted(vec![fresh("perlin")], 60.0)), Some(4.0));
    assert_eq!(size(&fitted(vec![fresh("perlin")], 6_000.0)), Some(400.0));
    assert_eq!(size(&fitted(vec![fresh("perlin")], 83.0)), Some(5.5));
    assert_eq!(size(&fitted(vec![fresh("perlin")], 6.0)), Some(0.4));
    assert_eq!(size(&fitted(vec![fresh("perlin")], 0.0)), None, "a piece without size");
}

#[test]
fn what_is_fitted_is_within_range_for_any_piece() {
    for starter in STARTERS {
        for diagonal in [2.0, 40.0, 3_000.0, 29_000.0] {
            for step in fitted(starter.steps(), diagonal) {
                let kind = StepKind::find(&step.kind).unwrap();
                for spec in kind.specs() {
                    if let Some(Param::Const(v)) = step.settings.get(spec.key) {
                        assert!(spec.check(v).is_ok(), "{} › {}: {v:?}", step.kind, spec.key);
                    }
                }
            }
        }
    }
}

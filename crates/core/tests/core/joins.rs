//! Laws of the joins: what an artist relies on without knowing it.

use dustcoat_core::catalog::catalog;
use dustcoat_core::mask::Join;
use dustcoat_core::mask::join::JOINS;
use proptest::prelude::*;

fn joined(join: Join, amount: f32, m: f32, f: f32) -> f32 {
    let mut mask = [m];
    join.apply(amount, &mut mask, &[f]);
    mask[0]
}

fn any_join() -> impl Strategy<Value = Join> {
    prop::sample::select(JOINS.iter().map(|j| j.0).collect::<Vec<_>>())
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 500, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn a_mask_stays_a_mask(join in any_join(), amount in 0f32..=1.0, m in 0f32..=1.0, f in 0f32..=1.0) {
        prop_assert!((0.0..=1.0).contains(&joined(join, amount, m, f)));
    }

    #[test]
    fn no_amount_is_no_change_and_amounts_lie_between(join in any_join(), amount in 0f32..=1.0, m in 0f32..=1.0, f in 0f32..=1.0) {
        prop_assert_eq!(joined(join, 0.0, m, f), m);
        let (full, some) = (joined(join, 1.0, m, f), joined(join, amount, m, f));
        prop_assert!(some >= m.min(full) - 1e-6 && some <= m.max(full) + 1e-6);
    }

    #[test]
    fn order_does_not_matter_where_it_should_not(m in 0f32..=1.0, f in 0f32..=1.0) {
        for join in [Join::Multiply, Join::Add, Join::Max, Join::Min, Join::Screen] {
            prop_assert!((joined(join, 1.0, m, f) - joined(join, 1.0, f, m)).abs() < 1e-6, "{join:?}");
        }
    }

    #[test]
    fn what_adds_never_lowers_and_what_takes_never_raises(m in 0f32..=1.0, f in 0f32..=1.0) {
        for join in [Join::Add, Join::Max, Join::Screen] {
            prop_assert!(joined(join, 1.0, m, f) >= m - 1e-6, "{join:?}");
        }
        for join in [Join::Multiply, Join::Subtract, Join::Min] {
            prop_assert!(joined(join, 1.0, m, f) <= m + 1e-6, "{join:?}");
        }
    }

    #[test]
    fn nothing_and_everything_are_what_they_should_be(m in 0f32..=1.0) {
        for (join, nothing, everything) in [
            (Join::Multiply, 0.0, m), (Join::Add, m, 1.0), (Join::Subtract, m, 0.0), (Join::Max, m, 1.0),
            (Join::Min, 0.0, m), (Join::Screen, m, 1.0), (Join::Replace, 0.0, 1.0),
        ] {
            prop_assert!((joined(join, 1.0, m, 0.0) - nothing).abs() < 1e-6, "{join:?} nothing");
            prop_assert!((joined(join, 1.0, m, 1.0) - everything).abs() < 1e-6, "{join:?} everything");
        }
        prop_assert!((joined(Join::Overlay, 1.0, m, 0.5) - m).abs() < 1e-6, "a middling source leaves it");
    }
}

#[test]
fn every_join_is_described_and_read_aloud() {
    let catalog = catalog();
    for (join, key, ..) in &JOINS {
        let entry = catalog.iter().find(|e| e.family == "join" && e.kind == *key).unwrap_or_else(|| panic!("{key}"));
        assert!(!entry.sign.is_empty() && !entry.word.is_empty() && !entry.help.is_empty());
        assert_eq!(serde_json::to_value(join).unwrap(), *key, "the file says it by its key");
    }
}

#[test]
fn joins_do_what_their_formulas_say() {
    let cases = [0.5, 0.5 * 0.3, 0.8, 0.2, 0.5, 0.3, 0.65, 0.3];
    for ((join, ..), want) in JOINS.iter().zip(cases) {
        let (mut m, f) = ([0.5f32], [0.3f32]);
        if *join == Join::Replace {
            m = [0.9];
            join.apply(1.0, &mut m, &[0.5]);
        } else {
            join.apply(1.0, &mut m, &f);
        }
        assert!((m[0] - want).abs() < 1e-6, "{join:?}: {} instead of {want}", m[0]);
    }
    let mut m = [0.5];
    Join::Multiply.apply(0.5, &mut m, &[0.0]);
    assert_eq!(m[0], 0.25, "half the amount goes half the way");
}

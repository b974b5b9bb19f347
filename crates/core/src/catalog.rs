//! The catalog: every reading, pattern, source, shaper, join and channel, described. The interface is drawn from it.

use serde::Serialize;
use ts_rs::TS;

use crate::bake::{Extent, MEASUREMENTS, READINGS};
use crate::document::{Dial, opacity_spec, tolerance_spec};
use crate::finish::adjust;
use crate::finish::channel::CHANNELS;
use crate::finish::knob::FinishDial;
use crate::finish::preset::{ADJUSTMENTS, PALETTES};
use crate::finish::{self, Finish};
use crate::handoff::maps;
use crate::mask::fit::{fitted, fitted_finish, fresh};
use crate::mask::join::JOINS;
use crate::mask::shaper::SHAPERS;
use crate::mask::source::{OF_COLORS, OF_FINISH, SOURCES};
use crate::mask::starter::STARTERS;
use crate::mask::{Step, StepKind, amount_spec};
use crate::pattern::PATTERNS;
use crate::setting::formula::FUNCTIONS;
use crate::setting::{DialKind, ParamSpec, Value};

/// One thing that can be used.
#[derive(Debug, Clone, PartialEq, Serialize, TS)]
pub struct Entry {
    /// Its key.
    pub kind: &'static str,
    /// `measurement`, `reading`, `pattern`, `source`, `own` (a source for the values of a finish alone), `colors` (one for its colours), `shaper`, `join`, `channel`, `starter` (of a mask line), `finish` (a ready one), `change` (a channel as a layer changes it), `adjustment` (a ready one), `palette` (a coat that varies), `map` (of a hand-off), or `step`, `layer` and `piece` (what each of them has).
    pub family: &'static str,
    /// What the artist reads.
    pub label: &'static str,
    /// One sentence of help.
    pub help: &'static str,
    /// Its settings.
    pub params: Vec<ParamSpec>,
    /// Of a reading: the measurement that it is read from; empty when it costs no rays.
    pub measured: &'static str,
    /// Of a join: the sign that stands between two tiles.
    pub sign: &'static str,
    /// Of a join: the word that stands for it in the sentence.
    pub word: &'static str,
    /// What taking it puts into a mask line; empty for what is not put into one.
    pub steps: Vec<Step>,
    /// Of a ready finish: what it lays down.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub finish: Option<Finish>,
    /// Of a ready finish: the dials that come with it.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    #[ts(as = "Option<Vec<Dial>>", optional)]
    pub dials: Vec<Dial>,
    /// Of a join: whether it brings its source in as it is where the mask is full, so that as the first of a line it needs no sign.
    pub opens: bool,
    /// Of a channel: whether every piece has it.
    pub always: bool,
}

fn entry(
    family: &'static str,
    kind: &'static str,
    label: &'static str,
    help: &'static str,
    params: Vec<ParamSpec>,
) -> Entry {
    Entry {
        kind,
        family,
        label,
        help,
        params,
        measured: "",
        sign: "",
        word: "",
        steps: vec![],
        finish: None,
        dials: vec![],
        opens: false,
        always: false,
    }
}

/// A ready finish's dial as one of a document, in a group of the finish's name.
fn dial(group: &str, d: FinishDial) -> Dial {
    let kind = if matches!(d.value, Value::Number(_)) { DialKind::Number } else { DialKind::Color };
    let (min, max) = d.range;
    Dial { group: group.into(), unit: d.unit.into(), min, max, ..Dial::new(&d.id, d.label, kind, d.value) }
}

/// Everything there is, in the order it is shown.
pub fn catalog() -> Vec<Entry> {
    let mut out = vec![];
    out.extend(
        MEASUREMENTS.iter().map(|m| entry("measurement", m.kind, m.label, m.help, (m.specs)(Extent::default()))),
    );
    out.extend(READINGS.iter().map(|r| Entry {
        measured: r.measurement().map_or("", |m| m.kind),
        ..entry("reading", r.kind, r.label, r.help, StepKind::Reading(r).specs())
    }));
    out.extend(PATTERNS.iter().map(|p| entry("pattern", p.kind, p.label, p.help, StepKind::Pattern(p).specs())));
    out.extend(SOURCES.iter().map(|s| entry("source", s.kind, s.label, s.help, StepKind::Source(s).specs())));
    out.extend(OF_FINISH.iter().map(|s| entry("own", s.kind, s.label, s.help, (s.specs)())));
    out.extend(OF_COLORS.iter().map(|s| entry("colors", s.kind, s.label, s.help, (s.specs)())));
    out.extend(SHAPERS.iter().map(|s| entry("shaper", s.kind, s.label, s.help, StepKind::Shaper(s).specs())));
    out.extend(
        STARTERS.iter().map(|s| Entry { steps: s.steps(), ..entry("starter", s.kind, s.label, s.help, vec![]) }),
    );
    out.extend(finish::starter::all().map(|s| {
        let (finish, dials) = s.with_dials();
        let dials = dials.into_iter().map(|d| dial(s.label, d)).collect();
        Entry { finish: Some(finish), dials, ..entry("finish", s.kind, s.label, s.help, vec![]) }
    }));
    out.extend(
        CHANNELS.iter().map(|c| Entry { always: c.always, ..entry("channel", c.kind, c.label, c.help, (c.specs)()) }),
    );
    out.extend(
        CHANNELS
            .iter()
            .filter(|c| !adjust::changes(c).is_empty())
            .map(|c| Entry { always: c.always, ..entry("change", c.kind, c.label, c.help, adjust::specs(c)) }),
    );
    out.extend(
        ADJUSTMENTS
            .iter()
            .map(|a| Entry { finish: Some(a.finish()), ..entry("adjustment", a.kind, a.label, a.help, vec![]) }),
    );
    out.extend(
        PALETTES
            .iter()
            .map(|p| Entry { finish: Some(p.finish()), ..entry("palette", p.kind, p.label, p.help, vec![]) }),
    );
    out.extend(JOINS.iter().map(|(join, kind, label, sign, word, help)| Entry {
        sign,
        word,
        opens: join.leaves_source_on_full(),
        ..entry("join", kind, label, help, vec![])
    }));
    out.extend(FUNCTIONS.iter().map(|f| Entry { word: f.takes, ..entry("function", f.name, f.name, f.help, vec![]) }));
    out.extend(maps().map(|m| entry("map", m.key, m.label, m.holds, vec![])));
    for e in out.iter_mut().filter(|e| ["reading", "pattern", "source", "shaper"].contains(&e.family)) {
        e.steps = vec![fresh(e.kind)];
    }
    out.push(entry("step", "step", "Step", "What every step of a mask line has.", vec![amount_spec()]));
    out.push(entry("piece", "piece", "Piece", "What tells the parts of the piece apart.", vec![tolerance_spec()]));
    out.push(entry("layer", "layer", "Layer", "What every layer has.", vec![opacity_spec()]));
    out
}

/// The same, for use on a piece with a diagonal of `diagonal` mm: what is put into a line begins with lengths that suit it.
pub fn catalog_for(diagonal: f32) -> Vec<Entry> {
    let fit = |e: Entry| Entry {
        steps: fitted(e.steps, diagonal),
        finish: e.finish.map(|f| fitted_finish(f, diagonal)),
        ..e
    };
    catalog().into_iter().map(fit).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::BTreeSet;

    #[test]
    fn starters_are_lines_that_a_document_takes() {
        use crate::document::{Document, Layer, check};
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
    fn ready_finishes_are_plausible_and_a_document_takes_them() {
        use crate::document::{Document, Layer, check, colors};
        use crate::setting::parse_hex;
        for s in finish::starter::all() {
            let fitted = fitted_finish(s.finish(), 60.0);
            for finish in [s.finish(), fitted] {
                let layer = serde_json::json!({"id": "l1", "name": s.label, "kind": "coat", "finish": finish});
                let layer: Layer = serde_json::from_value(layer).unwrap();
                // Nothing reflects more than snow, and nothing but a hole less than charcoal.
                for hex in colors(&layer, &Default::default()) {
                    let brightest = parse_hex(&hex).unwrap().into_iter().fold(0.0, f32::max);
                    assert!((0.004..=0.92).contains(&brightest), "{}: {hex}", s.kind);
                }
                let document = Document { layers: vec![layer], ..Document::new("Starter") };
                check(&document).unwrap_or_else(|e| panic!("{}: {e}", s.kind));
            }
        }
    }

    #[test]
    fn ready_finishes_have_dials_that_change_nothing_until_they_are_turned() {
        use crate::document::{Document, Edit, Layer, LayerKind, apply};
        use crate::setting::{Param, resolve};
        for e in catalog().into_iter().filter(|e| e.family == "finish") {
            assert!((2..=5).contains(&e.dials.len()), "{} has {} dials", e.kind, e.dials.len());
            let layer = serde_json::json!({"name": e.label, "kind": "coat", "finish": e.finish});
            let layer: Layer = serde_json::from_value(layer).unwrap();
            let add = Edit::AddLayer { inside: None, index: 0, layer, dials: e.dials.clone() };
            let mut document = apply(&Document::new("Dials"), &add).unwrap_or_else(|x| panic!("{}: {x}", e.kind));
            for d in document.dials.clone() {
                assert!(
                    !crate::document::driven(&document, &d.id).is_empty(),
                    "{} › {} drives something",
                    e.kind,
                    d.label
                );
            }
            // Taken off one by one, what they drove keeps what it had: the finish without dials.
            for d in document.dials.clone() {
                document = apply(&document, &Edit::RemoveDial { dial: d.id }).unwrap();
            }
            let LayerKind::Coat { finish } = &document.layers[0].kind else { panic!("it is a coat") };
            let plain = finish::starter::find(e.kind).unwrap().finish();
            for (kind, used) in &plain.channels {
                let channel = crate::finish::channel::find(kind).unwrap();
                let (specs, none) = ((channel.specs)(), Default::default());
                let now = &finish.channels[kind].settings;
                let same = |a: f64, b: f64| (a - b).abs() <= 1e-9 * a.abs().max(1.0);
                for spec in &specs {
                    match (used.settings.get(spec.key), now.get(spec.key)) {
                        (Some(Param::Ramp(a)), Some(Param::Ramp(b))) => {
                            for (a, b) in a.stops.iter().zip(&b.stops) {
                                match (&a.value, &b.value) {
                                    (crate::setting::Value::Number(x), crate::setting::Value::Number(y)) => {
                                        assert!(same(*x, *y), "{} › {kind}: {x} and {y}", e.kind);
                                    }
                                    (x, y) => assert_eq!(x, y, "{} › {kind}", e.kind),
                                }
                            }
                            for (key, was) in &a.along.settings {
                                let kinds = crate::mask::StepKind::find(&a.along.kind).unwrap().specs();
                                let one =
                                    |p: &Param| resolve(&kinds, &[(key.clone(), p.clone())].into(), &none).number(key);
                                if matches!(was, Param::Const(crate::setting::Value::Number(_))) {
                                    let (x, y) = (one(was), one(&b.along.settings[key]));
                                    assert!(
                                        (x - y).abs() < 1e-4 * x.abs().max(1.0),
                                        "{} › {kind} › {key}: {x}, {y}",
                                        e.kind
                                    );
                                }
                            }
                        }
                        _ => {
                            let (x, y) = (resolve(&specs, &used.settings, &none), resolve(&specs, now, &none));
                            if matches!(spec.default, crate::setting::Value::Number(_)) {
                                assert!(
                                    same(x.number(spec.key).into(), y.number(spec.key).into()),
                                    "{} › {kind}",
                                    e.kind
                                );
                            } else {
                                assert_eq!(x.text(spec.key), y.text(spec.key), "{} › {kind}", e.kind);
                            }
                        }
                    }
                }
            }
            let gone = apply(&apply(&Document::new("Dials"), &add).unwrap(), &Edit::RemoveLayer { layer: "l1".into() });
            assert!(gone.unwrap().dials.is_empty(), "{}: its dials go with it", e.kind);
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
                    | "layer"
                    | "map"
                    | "measurement"
                    | "palette"
                    | "piece"
                    | "starter"
                    | "step"
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
}

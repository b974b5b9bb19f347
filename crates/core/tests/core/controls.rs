//! No control does nothing: every dial of a ready finish, every setting of a pattern, a shaper, an adjustment and a still changes what comes out.

use std::collections::BTreeMap;
use std::sync::Arc;

use crate::common::{add_box, coat, document, evaluated, step};
use dustcoat_core::bake::Surface;
use dustcoat_core::catalog::catalog;
use dustcoat_core::document::{Document, Edit, Layer, apply};
use dustcoat_core::finish::adjust;
use dustcoat_core::finish::channel::{AMOUNT, CHANNELS};
use dustcoat_core::mask::Join;
use dustcoat_core::mask::shaper::SHAPERS;
use dustcoat_core::mesh::{Piece, Soup};
use dustcoat_core::pattern::{Axes, PATTERNS, Placed};
use dustcoat_core::ready::{READY, Ready};
use dustcoat_core::setting::{DialStates, Param, ParamSpec, ParamType, Settings, Value, resolve};
use dustcoat_core::still::shoot::{StillSettings, Surround, shoot};
use dustcoat_core::task::{Cancel, silent};
use serde_json::json;

/// A block and a slab beside it: two shells, with edges, hollows and room for patterns; as large as what starters are meant for.
fn block(size: u32) -> Surface {
    let mut soup = Soup::default();
    add_box(&mut soup, [-90.0, -60.0, -40.0], [90.0, 60.0, 40.0], [0.0, 0.0, 1.0, 0.7]);
    add_box(&mut soup, [110.0, -60.0, -60.0], [140.0, 90.0, 50.0], [0.0, 0.7, 1.0, 1.0]);
    Surface::new(Arc::new(Piece::build(soup).unwrap()), size)
}

/// Values of a setting that are worth trying against `now`: far enough from it to be told apart.
fn others(spec: &ParamSpec, now: &Value) -> Vec<Value> {
    match (spec.kind, now) {
        (ParamType::Integer, Value::Number(n)) => {
            let near = [n + 1.0, n - 1.0, n + 2.0].into_iter();
            near.filter(|v| (spec.min..=spec.max).contains(v)).map(Value::Number).take(1).collect()
        }
        (ParamType::Number, Value::Number(n)) => {
            let room = |to: f64| spec.between(*n, to, 0.5);
            let far = if (spec.max - n).abs() > (n - spec.min).abs() || spec.log {
                room(spec.max.min(n.max(1.0) * 4.0))
            } else {
                room(spec.min)
            };
            vec![Value::Number(far)]
        }
        (ParamType::Color, _) => vec![Value::Text("#3060c0".into())],
        (ParamType::Choice, Value::Text(t)) => {
            spec.choices.iter().filter(|c| c.0 != *t).map(|c| Value::Text(c.0.to_string())).collect()
        }
        _ => vec![],
    }
}

/// Settings under which a setting has an effect at all: what it asks for, and what that asks for.
fn under(specs: &[ParamSpec], spec: &ParamSpec) -> Vec<Settings> {
    let (key, values) = &spec.when;
    if key.is_empty() {
        return vec![Settings::new()];
    }
    let asked = specs.iter().find(|s| s.key == *key).expect("it asks for a setting that is there");
    let outer = under(specs, asked);
    values
        .iter()
        .flat_map(|v| {
            outer.iter().map(move |o| {
                let mut all = o.clone();
                all.insert((*key).to_owned(), Param::Const(Value::Text((*v).into())));
                all
            })
        })
        .collect()
}

/// The same settings, and each with one more choice made, or turned: what shows only there shows.
fn company(specs: &[ParamSpec], settings: Settings, but: &str) -> Vec<Settings> {
    let with = |more: &[(&str, Param)]| {
        let mut all = settings.clone();
        all.extend(more.iter().map(|(k, v)| ((*k).to_owned(), v.clone())));
        all
    };
    let mut all = vec![settings.clone(), with(&[("turn_y", 40.0.into()), ("turn_z", 30.0.into())])];
    // What bends by noise has a length only while it bends.
    all.push(with(&[("warp", 6.0.into())]));
    for spec in specs.iter().filter(|s| s.key != but && !settings.contains_key(s.key)) {
        all.extend(spec.choices.iter().map(|(choice, _)| with(&[(spec.key, (&**choice).into())])));
    }
    all
}

#[test]
fn every_setting_of_a_pattern_changes_it() {
    let surface = Surface::new(crate::common::sphere(120.0), 128);
    let mut idle = vec![];
    for pattern in PATTERNS {
        let specs = pattern.all_specs();
        let laid = |settings: &Settings| {
            let placed = Placed::new(pattern, &resolve(&specs, settings, &DialStates::new()));
            let mut out = vec![0.0f32; surface.atlas.len()];
            out.chunks_mut(4096).enumerate().for_each(|(i, run)| placed.fill(&surface, i * 4096, run));
            out
        };
        for spec in &specs {
            for settings in under(&specs, spec) {
                for value in others(spec, &spec.default) {
                    // What differs along its x alone is the same seen along y and along z.
                    if pattern.axes == Axes::One && (spec.key, &value) == ("axis", &Value::Text("z".into())) {
                        continue;
                    }
                    let moves = company(&specs, settings.clone(), spec.key).into_iter().any(|mut settings| {
                        let before = laid(&settings);
                        settings.insert(spec.key.into(), Param::Const(value.clone()));
                        let after = laid(&settings);
                        before.iter().zip(&after).filter(|(a, b)| (*a - *b).abs() > 1e-3).count() * 2000 > before.len()
                    });
                    if !moves {
                        idle.push(format!("{} › {} at {value:?} under {settings:?}", pattern.kind, spec.key));
                    }
                }
            }
        }
    }
    assert!(idle.is_empty(), "these change nothing:\n{}", idle.join("\n"));
}

#[test]
fn every_setting_of_a_shaper_changes_the_mask() {
    let surface = block(256);
    let mut idle = vec![];
    for shaper in SHAPERS {
        let specs = (shaper.specs)();
        let shaped = |settings: &Settings| {
            let mut shape = step(Join::Replace, shaper.kind, &[]);
            shape.settings = settings.clone();
            let clouds = step(Join::Replace, "perlin", &[("size", 40.0.into()), ("octaves", 3.0.into())]);
            let e = evaluated(&document(vec![coat("l1", "#ffffff", vec![clouds, shape])]), &surface);
            e.channels["base_color"].to_vec()
        };
        for spec in &specs {
            for mut settings in under(&specs, spec) {
                let before = shaped(&settings);
                // Less than a texel can't be seen.
                let all = match spec.key {
                    "softness" if spec.unit == "mm" => vec![Value::Number(20.0)],
                    _ => others(spec, &spec.default),
                };
                let moves = all.iter().any(|value| {
                    settings.insert(spec.key.into(), Param::Const(value.clone()));
                    let after = shaped(&settings);
                    before.iter().zip(&after).filter(|(a, b)| (*a - *b).abs() > 1e-3).count() * 2000 > before.len()
                });
                if !moves && !all.is_empty() {
                    idle.push(format!("{} › {} at {:?} under {settings:?}", shaper.kind, spec.key, all[0]));
                }
            }
        }
    }
    assert!(idle.is_empty(), "these change nothing:\n{}", idle.join("\n"));
}

/// A document with a ready finish over another coat.
fn ready(finish: &Ready) -> Document {
    let below = document(vec![coat("l1", "#a06030", vec![])]);
    let add = Edit::AddLayer { inside: None, index: 1, layer: finish.layer(), dials: finish.dials() };
    apply(&below, &add).unwrap()
}

#[test]
fn every_dial_of_a_ready_finish_changes_what_it_lays() {
    let surface = block(128);
    let planes = |d: &Document| -> BTreeMap<&'static str, Vec<f32>> {
        evaluated(d, &surface).channels.iter().map(|(k, p)| (*k, p.to_vec())).collect()
    };
    let mut idle = vec![];
    for entry in READY.iter() {
        let d = ready(entry);
        let before = planes(&d);
        for dial in &d.dials {
            let ends = match &dial.value {
                Value::Number(_) => vec![Value::Number(dial.min), Value::Number(dial.max)],
                _ => vec![Value::Text("#3060c0".into())],
            };
            let moves = ends.into_iter().any(|value| {
                let turned = apply(&d, &Edit::TurnDial { layer: None, dial: dial.id.clone(), value }).unwrap();
                planes(&turned).iter().any(|(kind, plane)| {
                    before[kind].iter().zip(plane).filter(|(a, b)| (*a - *b).abs() > 1e-4).count() * 1000 > plane.len()
                })
            });
            if !moves {
                idle.push(format!("{} › {}", entry.kind, dial.label));
            }
        }
    }
    assert!(idle.is_empty(), "these change nothing:\n{}", idle.join("\n"));
}

#[test]
fn every_number_of_an_adjustment_changes_what_lies_below() {
    let surface = Surface::new(crate::common::cube(40.0), 64);
    let adjusted = |kind: &str, settings: &Settings| {
        let channels = json!({kind: {"on": true, "settings": settings}});
        let layer = json!({"id": "a1", "name": "Adjust", "kind": "adjust", "finish": {"channels": channels}});
        let layer: Layer = serde_json::from_value(layer).unwrap();
        // Half metal, half rough: neither end of what is changed.
        let half = |kind| (crate::common::of_channel("l1", kind, "value"), Some(Param::from(0.4)));
        let edits = [half("metallic"), half("roughness")].map(|(target, value)| Edit::SetParam { target, value });
        let start = document(vec![coat("l1", "#a06030", vec![]), layer]);
        let d = edits.iter().fold(start, |d, edit| apply(&d, edit).unwrap());
        evaluated(&d, &surface).channels[kind].to_vec()
    };
    let mut tried = 0;
    for channel in CHANNELS.iter().filter(|c| c.always && !adjust::changes(c).is_empty()) {
        let before = adjusted(channel.kind, &Settings::new());
        for spec in adjust::specs(channel).into_iter().filter(|s| s.key != AMOUNT) {
            let moves = [spec.min, spec.max].into_iter().any(|end| {
                let value = spec.between(end, if let Value::Number(n) = spec.default { n } else { end }, 0.5);
                adjusted(channel.kind, &Settings::from([(spec.key.to_owned(), value.into())])) != before
            });
            assert!(moves, "{} › {} changes nothing", channel.kind, spec.key);
            tried += 1;
        }
        // How much of it is taken shows beside a change.
        let with = |amount: f64| {
            let change = adjust::specs(channel).into_iter().find(|s| s.key != AMOUNT).unwrap();
            let value = Param::from(change.min.max(-50.0) * 0.5 + change.max.min(50.0) * 0.5 + 0.2);
            adjusted(
                channel.kind,
                &Settings::from([(change.key.to_owned(), value), (AMOUNT.to_owned(), amount.into())]),
            )
        };
        assert!(with(0.4) != with(1.0) && with(0.0) == before, "{} › amount", channel.kind);
    }
    assert!(tried >= 15, "{tried} numbers were tried");
}

#[test]
fn every_setting_of_a_still_changes_the_picture() {
    let surface = Surface::new(crate::common::cube(40.0), 64);
    let d = document(vec![coat("l1", "#c08040", vec![step(Join::Replace, "perlin", &[("size", 8.0.into())])])]);
    let thick = Edit::SetParam { target: crate::common::of_channel("l1", "height", "value"), value: Some(5.0.into()) };
    let e = evaluated(&apply(&d, &thick).unwrap(), &surface);
    let plain = StillSettings { width: 40, height: 30, samples: 16, ..StillSettings::default() };
    let taken = |s: &StillSettings| shoot(&surface, &e, s, &Cancel::default(), &silent).unwrap();
    let before = taken(&plain);
    type Change = fn(&mut StillSettings);
    let changes: [(&str, Change); 14] = [
        ("eye", |s| s.eye = Some([90.0, 30.0, 10.0])),
        ("eye and target", |s| (s.eye, s.target) = (Some([90.0, 30.0, 10.0]), [0.0, 15.0, 0.0])),
        ("fov", |s| (s.eye, s.fov) = (Some([90.0, 30.0, 10.0]), 50.0)),
        ("width", |s| s.width = 50),
        ("height", |s| s.height = 40),
        ("samples", |s| s.samples = 64),
        ("light", |s| s.light = "dusk".into()),
        ("turn", |s| s.turn = 90.0),
        ("brightness", |s| s.brightness = 2.0),
        ("rim", |s| s.rim = 1.0),
        ("exposure", |s| s.exposure = -1.0),
        ("surround", |s| s.surround = Surround::Sky),
        ("ground", |s| s.ground = true),
        ("relief", |s| s.relief = true),
    ];
    let mut seen = vec![before.clone()];
    for (what, change) in changes {
        let mut settings = plain.clone();
        change(&mut settings);
        let after = taken(&settings);
        assert!(!seen.contains(&after), "{what} changes nothing");
        seen.push(after);
    }
    let round = taken(&StillSettings { turntable: 4, ..plain.clone() });
    assert!(round.len() == 4 && round[0] == before[0], "a turntable begins where a still is taken");
    // By a quarter at a time, a cube that is dressed alike all around shows other sides under a light that stands.
    assert!((1..4).all(|k| round[k] != round[0]));
}

#[test]
fn what_a_setting_asks_for_is_offered() {
    for entry in catalog() {
        for spec in entry.params.iter().filter(|s| !s.when.0.is_empty()) {
            let asked = entry.params.iter().find(|s| s.key == spec.when.0);
            let asked = asked.unwrap_or_else(|| panic!("{} › {} asks for {}", entry.kind, spec.key, spec.when.0));
            for value in &spec.when.1 {
                assert!(asked.choices.iter().any(|c| c.0 == *value), "{} › {}: {value}", entry.kind, spec.key);
            }
        }
    }
}

//! Whatever is done with dials, uses, variants and what is open: undo has each state back as it was, and redo brings it again.

use serde_json::{Value, json};

use crate::common::{Server, lay};

/// Numbers that are as good as random, the same every time.
struct Chance(u64);

impl Chance {
    fn below(&mut self, n: usize) -> usize {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (self.0 >> 33) as usize % n.max(1)
    }

    fn share(&mut self) -> f64 {
        self.below(1000) as f64 / 1000.0
    }

    fn one<'a>(&mut self, all: &'a [Value]) -> &'a Value {
        &all[self.below(all.len())]
    }
}

fn layers(p: &Value, kind: &str) -> Vec<Value> {
    let all = p["document"]["layers"].as_array().expect("layers");
    all.iter().filter(|l| l["kind"] == kind).map(|l| l["id"].clone()).collect()
}

fn ids(p: &Value, key: &str, id: &str) -> Vec<Value> {
    let all = p["document"][key].as_array().cloned().unwrap_or_default();
    all.iter().filter(|x| x["formula"].is_null()).map(|x| x[id].clone()).collect()
}

/// Some edit that can be made on what stands there, or one that can't, which has to change nothing.
fn some_edit(chance: &mut Chance, p: &Value) -> Value {
    let (uses, coats) = (layers(p, "use"), layers(p, "coat"));
    let (dials, variants) = (ids(p, "dials", "id"), ids(p, "variants", "name"));
    let of_use = |layer: &Value| json!({"layer": layer, "dial": "d1", "key": "value"});
    let name = ["New", "Worn", "Salted"][chance.below(3)];
    let value = chance.share();
    match chance.below(16) {
        0 if !dials.is_empty() => json!({"edit": "turn_dial", "dial": chance.one(&dials), "value": value}),
        1 if !uses.is_empty() => json!({"edit": "turn_dial", "layer": chance.one(&uses), "dial": "d1", "value": value}),
        2 if !uses.is_empty() && !dials.is_empty() => {
            let param = json!({"dial": chance.one(&dials), "low": 0.1, "high": 0.9});
            json!({"edit": "set_param", "target": of_use(chance.one(&uses)), "value": param})
        }
        3 if !uses.is_empty() => json!({"edit": "set_param", "target": of_use(chance.one(&uses)), "value": null}),
        4 => json!({"edit": "keep_variant", "name": name}),
        5 if !variants.is_empty() => json!({"edit": "keep_variant", "name": name, "on": chance.one(&variants)}),
        6 if !variants.is_empty() => json!({"edit": "take_variant", "name": chance.one(&variants)}),
        7 if !variants.is_empty() && !dials.is_empty() => {
            json!({"edit": "set_variant", "name": chance.one(&variants), "dial": chance.one(&dials), "value": value})
        }
        8 if !variants.is_empty() && !uses.is_empty() => {
            json!({"edit": "show_in_variant", "name": chance.one(&variants), "layer": chance.one(&uses), "shown": value < 0.5})
        }
        9 if !variants.is_empty() => json!({"edit": "remove_variant", "name": chance.one(&variants)}),
        10 if !uses.is_empty() => json!({"edit": "open_use", "layer": chance.one(&uses)}),
        11 => json!({"edit": "close_use", "kept": null}),
        12 if !uses.is_empty() => json!({"edit": "duplicate_layer", "layer": chance.one(&uses)}),
        13 if uses.len() > 2 => json!({"edit": "loosen", "layer": chance.one(&uses)}),
        14 if !uses.is_empty() => json!({"edit": "take_preset", "layer": chance.one(&uses), "name": "As found"}),
        _ if !coats.is_empty() => {
            let target = json!({"layer": chance.one(&coats), "key": "opacity"});
            let label = format!("Dial {}", chance.below(1000));
            json!({"edit": "make_dial", "target": target, "label": label})
        }
        _ => json!({"edit": "add_dial", "dial": {"label": "Age", "default": 0.5, "value": value}}),
    }
}

#[test]
fn every_state_of_sixty_edits_comes_back_with_undo_and_again_with_redo() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = server.project();
    let id = p["id"].as_i64().unwrap();
    let at = |what: &str| format!("/api/projects/{id}/{what}");
    let target = json!({"layer": "l1", "step": "s2", "key": "cut"});
    server.edit(
        &mut p,
        json!([
            {"edit": "set_draft_size", "size": 64},
            lay("Rust", json!([{"kind": "perlin", "join": "replace"}, {"kind": "threshold", "join": "multiply"}])),
            {"edit": "make_dial", "target": target, "label": "Wear"},
            {"edit": "keep_variant", "name": "As found"},
        ]),
    );
    let cards = server.post(&at("recipe"), json!({"layer": "l1", "name": "Rust"}));
    let recipe = cards.as_array().unwrap().iter().find(|c| c["name"] == "Rust").unwrap()["id"].clone();
    for _ in 0..2 {
        p = server.post(&at("lay"), json!({"revision": p["revision"], "recipe": recipe}));
    }
    let (mut chance, mut states, mut refused) = (Chance(7), vec![p["document"].clone()], 0);
    while states.len() < 60 {
        let edit = some_edit(&mut chance, &p);
        let answer = server.try_post(&at("edit"), json!({"revision": p["revision"], "edits": [edit]}));
        if answer.status().is_success() {
            p = answer.json().unwrap();
            states.push(p["document"].clone());
        } else {
            refused += 1;
            let now = server.get(at("").trim_end_matches('/'));
            assert_eq!(now["document"], p["document"], "a refused edit changes nothing: {edit}");
        }
        assert!(refused < 200, "most edits can be made");
    }
    for state in states.iter().rev().skip(1) {
        p = server.post(&at("undo"), json!({"revision": p["revision"]}));
        assert_eq!(&p["document"], state);
    }
    for state in &states[1..] {
        p = server.post(&at("redo"), json!({"revision": p["revision"]}));
        assert_eq!(&p["document"], state);
    }
}

#[test]
fn any_state_is_gone_to_at_once_and_none_is_lost() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = server.project();
    let id = p["id"].as_i64().unwrap();
    let at = |what: &str| format!("/api/projects/{id}/{what}");
    let mut states = vec![(p["revision"].clone(), p["document"].clone())];
    for name in ["First", "Second", "Third"] {
        server.edit(&mut p, json!([lay(name, json!([]))]));
        states.push((p["revision"].clone(), p["document"].clone()));
    }
    let told = |server: &Server| -> Vec<(Value, String, String)> {
        let all = server.get(&at("history"));
        let text = |v: &Value| v.as_str().unwrap().to_owned();
        let one = |s: &Value| (s["revision"].clone(), text(&s["label"]), text(&s["when"]));
        all.as_array().unwrap().iter().map(one).collect()
    };
    let go = |server: &Server, p: &Value, to: &Value| {
        server.request("PUT", &at("history")).json(&json!({"revision": p["revision"], "to": to})).send().unwrap()
    };
    // The latest first; from the second state on, what came later lies ahead.
    p = crate::common::ok(go(&server, &p, &states[1].0));
    assert_eq!(p["document"], states[1].1);
    let all = told(&server);
    let whens: Vec<&str> = all.iter().map(|s| s.2.as_str()).collect();
    assert_eq!(whens, ["ahead", "ahead", "now", "behind"]);
    assert_eq!(all.iter().map(|s| &s.0).collect::<Vec<_>>(), states.iter().rev().map(|s| &s.0).collect::<Vec<_>>());
    assert!(all[0].1.contains("Third") && all[2].1.contains("First"), "{all:?}");
    assert_eq!(server.post(&at("redo"), json!({"revision": p["revision"]}))["document"], states[2].1);
    // Forward over several at once, and a look at one that is not in force.
    p = server.get(at("").trim_end_matches('/'));
    p = crate::common::ok(go(&server, &p, &states[3].0));
    assert_eq!(p["document"], states[3].1);
    let still = json!({"eye": null, "target": [0, 0, 0], "fov": 28, "width": 96, "height": 96, "samples": 1, "light": "quay",
                       "turn": 0, "brightness": 1, "rim": 0, "exposure": 0, "surround": "grey", "ground": false, "turntable": 8});
    let look = |still: &Value, state: &Value| {
        let asked = json!({"at": state, "edits": [], "still": still});
        server.try_post(&at("look"), asked)
    };
    assert!(look(&still, &states[0].0).status().is_success());
    assert_eq!(crate::common::problem(look(&still, &json!(9_999))).0, 404);
    // Only a project's own states, and only from the one in force.
    let other = server.project();
    assert_eq!(crate::common::problem(go(&server, &p, &other["revision"])).0, 404);
    let stale = json!({"revision": states[0].0});
    assert_eq!(crate::common::problem(go(&server, &stale, &states[1].0)).0, 409);
    // Something else done from an earlier state leaves the others where no redo leads, and loses none of those before.
    p = crate::common::ok(go(&server, &p, &states[1].0));
    server.edit(&mut p, json!([lay("Instead", json!([]))]));
    let labels: Vec<String> = told(&server).into_iter().map(|s| s.1).collect();
    assert!(labels.len() == 3 && labels[0].contains("Instead") && labels[1].contains("First"), "{labels:?}");
}

//! Mask lines over HTTP: kept as starters, steps seen alone, numbers that vary, and what is refused.

use std::collections::BTreeSet;

use crate::common::{Server, lay, ok, problem};
use dustcoat_core::raster::picture::Picture;
use serde_json::{Value, json};

fn started() -> (tempfile::TempDir, Server, Value) {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = server.project();
    server.edit(&mut p, json!([{"edit": "set_draft_size", "size": 128}]));
    (data, server, p)
}

fn pixels(server: &Server, project: &Value, ask: Value) -> Vec<u8> {
    let seen = server.post(&format!("/api/projects/{}/evaluate", project["id"]), ask);
    server.bytes(&format!("/api/pixels/{}", seen["mask"].as_str().unwrap()))
}

#[test]
fn a_line_is_kept_as_a_starter_and_outlives_a_kill() {
    let (data, server, mut p) = started();
    let target = json!({"layer": "l1", "step": "s2", "key": "cut"});
    server.edit(&mut p, json!([lay("Wear", json!([{"kind": "perlin", "join": "replace"}, {"kind": "threshold"}]))]));
    server.edit(
        &mut p,
        json!([
            {"edit": "make_dial", "target": target, "label": "Wear", "low": 0.0, "high": 0.8},
            {"edit": "turn_dial", "dial": "d1", "value": 0.25},
        ]),
    );
    let path = format!("/api/projects/{}/line", p["id"]);
    let kept = server.post(&path, json!({"layer": "l1", "name": " Worn in patches ", "note": "For flat sheet."}));
    server.kill();
    let server = Server::on(data.path());
    assert_eq!(server.get("/api/lines"), kept);
    let shown = server.request("GET", &format!("/api/lines/{}/picture", kept[0]["id"])).send().unwrap();
    assert_eq!(shown.headers()["content-type"], "image/png");
    let picture = Picture::decode("line.png", &shown.bytes().unwrap()).unwrap().quadruples().values;
    let shades: BTreeSet<u32> = picture.iter().map(|p| (p[0] * 16.0) as u32).collect();
    assert!(shades.len() > 6, "dark paint lies on pale paint in places: {shades:?}");
    let none = server.request("GET", "/api/lines/99/picture").send().unwrap();
    assert_eq!(none.status(), 404);
    assert!(none.text().unwrap().contains("mask line"));
    let line = &kept[0];
    assert_eq!((line["name"].as_str(), line["note"].as_str()), (Some("Worn in patches"), Some("For flat sheet.")));
    assert_eq!(line["steps"][1]["settings"]["cut"], 0.2, "what the dial drove stands where it stood");

    // It goes into another project like any line.
    let mut q = server.project();
    server.edit(&mut q, json!([lay("New", json!([]))]));
    server.edit(&mut q, json!([{"edit": "add_steps", "layer": "l1", "index": 0, "steps": line["steps"]}]));
    assert_eq!(q["document"]["layers"][0]["mask"]["steps"].as_array().unwrap().len(), 2);

    let id = &line["id"];
    let mark = |id: &Value, removed: bool| {
        let request = server.request("PUT", &format!("/api/lines/{id}/marks"));
        request.json(&json!({"removed": removed})).send().unwrap()
    };
    assert_eq!(ok(mark(id, true))[0]["marks"]["removed"], true);
    assert_eq!(ok(mark(id, false)), kept);
    assert_eq!(server.post(&format!("/api/lines/{id}/used"), json!({}))[0]["marks"]["laid"], 1);
    let (status, kind, _) = problem(mark(&json!(999), true));
    assert_eq!((status, kind.as_str()), (404, "not-found"));
    for (layer, name, says) in [("l1", "", "needs a name"), ("nope", "A", "no layer")] {
        let (_, kind, said) = problem(server.try_post(&path, json!({"layer": layer, "name": name})));
        assert!(kind == "edit" && said.contains(says), "{said}");
    }
    server.edit(&mut q, json!([lay("Bare", json!([]))]));
    let path = format!("/api/projects/{}/line", q["id"]);
    let (_, _, said) = problem(server.try_post(&path, json!({"layer": "l2", "name": "Nothing"})));
    assert!(said.contains("no steps"), "{said}");
}

#[test]
fn a_step_is_seen_alone_whatever_it_joins() {
    let (_data, server, mut p) = started();
    let steps = json!([
        {"kind": "even", "join": "replace", "settings": {"value": 0.0}},
        {"kind": "perlin", "join": "multiply", "amount": 0.3},
        {"kind": "invert"},
        {"kind": "worley", "on": false}
    ]);
    server.edit(&mut p, json!([lay("Dust", steps), lay("Clouds", json!([{"kind": "perlin", "join": "replace"}]))]));
    let ask = |layer: &str, step: &str, alone: bool| json!({"page": "t", "layer": layer, "step": step, "mask": true, "alone": alone});
    // Layers are laid at the bottom: the second one got the next id.
    let clouds = pixels(&server, &p, ask("l2", "s1", false));
    assert_eq!(pixels(&server, &p, ask("l1", "s2", true)), clouds, "neither the join nor the amount counts");
    let inverted = pixels(&server, &p, ask("l1", "s3", true));
    assert_eq!(inverted, pixels(&server, &p, ask("l1", "s3", false)), "a shaper alone is the mask after it");
    assert!(pixels(&server, &p, ask("l1", "s4", true)).iter().all(|v| *v == 0), "a step that is off shows nothing");
}

#[test]
fn a_number_varies_and_its_measurement_is_needed() {
    let (_data, server, mut p) = started();
    let size = json!({"mask": {"kind": "edges", "settings": {"radius": "broad"}}, "low": 2, "high": 12});
    let steps = json!([{"kind": "perlin", "join": "replace", "settings": {"size": size}}]);
    server.edit(&mut p, json!([lay("Grain", steps)]));
    let curvature = p["measurements"].as_array().unwrap().iter().find(|m| m["kind"] == "curvature").unwrap();
    assert_eq!(curvature["needed"], true);
    let ask = json!({"page": "t", "layer": "l1", "mask": true, "tiles": true});
    let varied = pixels(&server, &p, ask.clone());
    let target = json!({"layer": "l1", "step": "s1", "key": "size"});
    server.edit(&mut p, json!([{"edit": "set_param", "target": target, "value": 2}]));
    assert_ne!(pixels(&server, &p, ask), varied);
}

#[test]
fn what_hidden_layers_read_is_measured_once_they_are_looked_at() {
    let (_data, server, mut p) = started();
    server.edit(
        &mut p,
        json!([
            lay("Stained", json!([{"kind": "flow", "join": "replace"}])),
            {"edit": "set_layer", "layer": "l1", "shown": false}
        ]),
    );
    let path = format!("/api/projects/{}", p["id"]);
    let flow = || {
        let now = server.get(&path);
        let flow = now["measurements"].as_array().unwrap().iter().find(|m| m["kind"] == "flow").unwrap().clone();
        (flow["needed"] == true, flow["state"] == "fresh")
    };
    server.post(&format!("{path}/evaluate"), json!({"page": "t"}));
    assert_eq!(flow(), (false, false), "nothing of it is shown");
    // The probe tells of hidden layers too, by a coarse measurement where there is no other.
    let told = server.post(&format!("{path}/probe"), json!({"u": 0.1, "v": 0.2}));
    assert_eq!((&told["layers"][0]["name"], &told["coarse"]), (&json!("Stained"), &json!(["Flow"])), "{told}");
    assert_eq!(flow(), (false, false));
    let looked_at = pixels(&server, &p, json!({"page": "t", "layer": "l1", "mask": true}));
    assert_eq!(flow(), (false, true), "its mask was looked at");
    server.edit(&mut p, json!([{"edit": "set_layer", "layer": "l1", "shown": true}]));
    assert_eq!(pixels(&server, &p, json!({"page": "t", "layer": "l1", "mask": true})), looked_at);
    assert_eq!(flow(), (true, true));
}

#[test]
fn what_is_put_into_a_line_suits_the_piece() {
    let (_data, server, p) = started();
    let size = |catalog: &Value, kind: &str, step: usize| {
        let entry = catalog.as_array().unwrap().iter().find(|e| e["kind"] == kind && e["family"] != "channel").unwrap();
        entry["steps"][step]["settings"]["size"].as_f64()
    };
    assert_eq!(size(&server.get("/api/catalog"), "perlin", 0), None, "on no piece it is the default");
    let suited = server.get(&format!("/api/projects/{}/catalog", p["id"]));
    let clouds = size(&suited, "perlin", 0).unwrap();
    assert!(clouds < 20.0, "a small cube has small clouds: {clouds} mm");
    assert!(size(&suited, "pitting", 1).unwrap() < 20.0, "in starters as well");
}

#[test]
fn what_makes_no_sense_in_a_line_is_refused_and_the_document_stays() {
    let (_data, server, mut p) = started();
    let line = json!([{"kind": "perlin", "join": "replace"}, {"kind": "curve"}]);
    server.edit(&mut p, json!([lay("Dust", line)]));
    let path = format!("/api/projects/{}/edit", p["id"]);
    let refused = |edit: Value, says: &str| {
        let answer = server.try_post(&path, json!({"revision": p["revision"], "edits": [edit]}));
        let (_, _, said) = problem(answer);
        assert!(said.contains(says), "“{said}” should speak of “{says}”");
    };
    let set = |step: &str, key: &str, value: Value| json!({"edit": "set_param", "target": {"layer": "l1", "step": step, "key": key}, "value": value});
    for bad in [json!(0), json!(1e9), json!("large"), json!(-4)] {
        refused(set("s1", "size", bad), "“Size” takes a number from 0.1 to");
    }
    refused(set("s1", "seed", json!("chips")), "“Seed” takes");
    refused(set("s1", "seed", json!(1.5)), "whole number");
    // A curve has its five points whatever is sent: a point that is taken away stands at its default, another one is unknown.
    refused(set("s2", "at10", json!(0.5)), "no setting called “at10”");
    refused(set("s2", "at50", json!(7)), "“At ½” takes");
    let many: Vec<Value> = (0..500).map(|_| json!({"kind": "invert"})).collect();
    refused(json!({"edit": "add_steps", "layer": "l1", "index": 0, "steps": many}), "the most is 64");
    // NaN is not JSON: it comes as nothing, or as words.
    refused(set("s1", "size", json!("NaN")), "“Size” takes");
    let now = server.get(&format!("/api/projects/{}", p["id"]));
    assert_eq!(now["document"], p["document"], "nothing was changed");
}

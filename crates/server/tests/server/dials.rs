//! Dials over HTTP and on the command line: formulas tried and kept, uses driven from outside, variants written, dials of every kind set.

use crate::common::{Server, cube, lay, ok, run};
use serde_json::{Value, json};

/// A project with a dressed cube: a coat with a cut that the dial Wear drives, and a switch.
fn worn(server: &Server) -> Value {
    let mut p = server.project();
    let target = json!({"layer": "l1", "step": "s2", "key": "cut"});
    let switch = json!({"label": "Salt line", "kind": "switch", "default": false, "value": false});
    server.edit(
        &mut p,
        json!([
            {"edit": "set_draft_size", "size": 64},
            lay("Rust", json!([{"kind": "perlin", "join": "replace"}, {"kind": "threshold"}])),
            {"edit": "make_dial", "target": target, "label": "Wear", "low": 0.9, "high": 0.1},
            {"edit": "add_dial", "dial": switch},
        ]),
    );
    p
}

#[test]
fn a_formula_is_tried_before_it_is_kept_and_says_what_is_wrong() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = worn(&server);
    let path = format!("/api/projects/{}/formula", p["id"]);
    let formula =
        |text: &str| json!({"edit": "set_formula", "target": {"layer": "l1", "key": "opacity"}, "text": text});
    let tried = |text: &str| server.post(&path, formula(text));
    assert_eq!(tried("1 - {Salt line} / 2"), json!({"value": 1.0, "bounded": null, "error": null}));
    assert_eq!(tried("2")["bounded"], "The formula gives 2; 1 is the most.");
    let wrong = tried("Wear + nothing")["error"].clone();
    assert_eq!((wrong["at"].as_u64(), wrong["length"].as_u64()), (Some(7), Some(7)), "{wrong}");
    let stamp = p["stamp"].clone();
    assert_eq!(server.get(&format!("/api/projects/{}", p["id"]))["stamp"], stamp, "trying keeps nothing");
    server.edit(&mut p, json!([formula("1 - {Salt line} / 2"), {"edit": "turn_dial", "dial": "d2", "value": true}]));
    let standing = p["standings"].as_array().unwrap().iter().find(|s| s["target"]["key"] == "opacity").unwrap();
    assert_eq!((standing["value"].as_f64(), &standing["formula"]), (Some(0.5), &json!("1 - {Salt line} / 2")));
    assert_eq!(p["sets"]["d2"], json!(["switch", "number", "integer"]));
    assert_eq!(p["undo"], "formula of Rust opacity");
}

#[test]
fn dials_of_every_kind_are_set_and_variants_written_on_the_command_line() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = worn(&server);
    let blend = json!({"layer": "l1", "channel": "base_color", "key": "blend"});
    let opacity = json!({"layer": "l1", "key": "opacity"});
    server.edit(
        &mut p,
        json!([
            {"edit": "make_dial", "target": blend, "label": "Meets"},
            {"edit": "set_formula", "target": opacity, "text": "1 - {Salt line} / 2"},
            {"edit": "keep_variant", "name": "Dry"},
            {"edit": "turn_dial", "dial": "d1", "value": 0.9},
            {"edit": "keep_variant", "name": "Worn / out"},
        ]),
    );
    let file = data.path().join("block.dustcoat");
    std::fs::write(&file, server.bytes(&format!("/api/projects/{}/file", p["id"]))).unwrap();
    let (file, out) = (file.to_str().unwrap(), data.path().join("out"));
    let export = |more: &[&str]| {
        let args = [&["export", file, "--out", out.to_str().unwrap(), "--size", "64", "--json"], more].concat();
        let (output, said) = run(&args);
        let error = String::from_utf8_lossy(&output.stderr).into_owned();
        (output.status.success(), error, said)
    };
    let color = |said: &Value| {
        let files = said["files"].as_array().unwrap();
        let path = files.iter().find(|f| f["map"] == "base_color").expect("it is written")["path"].as_str().unwrap();
        std::fs::read(path).unwrap()
    };
    let plain = color(&export(&[]).2);
    for set in ["Salt line=on", "Meets=Multiply", "Wear=0.2"] {
        let (fine, error, said) = export(&["--set", set]);
        assert!(fine, "{set}: {error}");
        assert_ne!(color(&said), plain, "{set}");
    }
    for (set, wanted) in [("Salt line=maybe", "on or off"), ("Meets=Sideways", "one of: "), ("Wear=much", "a number")] {
        let (fine, error, _) = export(&["--set", set]);
        assert!(!fine && error.contains(wanted), "{set}: {error}");
    }
    assert_eq!(color(&export(&["--variant", "Worn / out"]).2), plain, "it is how the project stands");
    assert_ne!(color(&export(&["--variant", "Dry"]).2), plain);
    let (fine, error, _) = export(&["--variant", "all"]);
    assert!(fine, "{error}");
    assert!(out.join("Dry").is_dir() && out.join("Worn___out").is_dir());
    let (fine, error, _) = export(&["--variant", "Wet"]);
    assert!(!fine && error.contains("there are: Dry, Worn / out"), "{error}");
    let (_, found) = run(&["inspect", file, "--json"]);
    assert_eq!(found["dials"][1]["kind"], "switch");
    assert_eq!(found["variants"][0]["name"], "Dry");
}

#[test]
fn a_recipe_is_applied_with_its_dials_and_what_follows_them() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = worn(&server);
    let age = json!({"label": "Age", "default": 0.5, "value": 0.5});
    server.edit(
        &mut p,
        json!([{"edit": "add_dial", "dial": age}, {"edit": "follow_formula", "dial": "d1", "text": "Age * 0.8"}]),
    );
    let save = json!({"layer": "l1", "name": "Rust", "note": ""});
    let cards = server.post(&format!("/api/projects/{}/recipe", p["id"]), save);
    let card = cards.as_array().unwrap().iter().find(|c| c["name"] == "Rust").unwrap();
    let whole = server.get(&format!("/api/cabinet/{}", card["id"]));
    let labels: Vec<_> = whole["dials"].as_array().unwrap().iter().map(|d| d["label"].as_str().unwrap()).collect();
    assert_eq!(labels, ["Wear", "Age"], "what Wear follows comes along");
    assert_eq!(card["dials"], json!(["Age"]), "and is what is turned");
    let (recipe, mesh) = (data.path().join("rust.coatrecipe"), data.path().join("cube.obj"));
    std::fs::write(&recipe, server.bytes(&format!("/api/cabinet/files?ids={}", card["id"]))).unwrap();
    std::fs::write(&mesh, cube()).unwrap();
    let apply = |set: &str, out: &str| {
        let out = data.path().join(out);
        let args =
            ["apply", recipe.to_str().unwrap(), "--mesh", mesh.to_str().unwrap(), "--out", out.to_str().unwrap()];
        run(&[&args[..], &["--size", "64", "--set", set, "--json"]].concat())
    };
    let (young, old) = (apply("Age=0.1", "young").1, apply("Age=1", "old").1);
    let bytes = |said: &Value| std::fs::read(said["files"][0]["path"].as_str().unwrap()).unwrap();
    assert_ne!(bytes(&young), bytes(&old));
    let (output, _) = apply("Wear=0.2", "led");
    assert!(!output.status.success());
    assert!(String::from_utf8_lossy(&output.stderr).contains("follows a formula"), "what follows is not set");
    let (_, found) = run(&["inspect", recipe.to_str().unwrap(), "--json"]);
    assert_eq!((&found["dials"][0]["formula"], &found["dials"][0]["value"]), (&json!("Age * 0.8"), &json!(0.4)));
}

#[test]
fn looks_show_states_that_nobody_kept() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = worn(&server);
    server.edit(&mut p, json!([{"edit": "turn_dial", "dial": "d1", "value": 0.1}, {"edit": "keep_variant", "name": "New"}, {"edit": "turn_dial", "dial": "d1", "value": 0.9}]));
    let path = |what: &str| format!("/api/projects/{}/{what}", p["id"]);
    let still = json!({"eye": null, "target": [0, 0, 0], "fov": 28, "width": 64, "height": 48, "samples": 9999, "light": "quay",
                       "turn": 0, "brightness": 1, "rim": 0, "exposure": 0, "surround": "grey", "ground": false, "turntable": 8});
    let look = |edits: Value| {
        let answer = server.try_post(&path("look"), json!({"edits": edits, "still": still}));
        assert_eq!(answer.status(), 200);
        answer.bytes().unwrap().to_vec()
    };
    let now = look(json!([]));
    let new = look(json!([{"edit": "take_variant", "name": "New"}]));
    assert_eq!(&now[..4], b"\x89PNG");
    assert_ne!(now, new);
    assert_eq!(new, look(json!([{"edit": "turn_dial", "dial": "d1", "value": 0.1}])), "the variant is what it was");
    assert_eq!(server.get(path("").trim_end_matches('/'))["stamp"], p["stamp"], "nothing is kept");
    let answer =
        server.try_post(&path("look"), json!({"edits": [{"edit": "take_variant", "name": "Old"}], "still": still}));
    assert!(answer.status().is_client_error());
    let six = server.post(&path("six"), json!({"reaches": {"d1": "lot", "d2": "held"}, "seed": 3}));
    let choices = six["choices"].as_array().unwrap();
    assert_eq!(choices.len(), 6);
    assert!(choices.iter().all(|c| c["d1"].is_number() && c["d2"].is_null()), "{choices:?}");
}

#[test]
fn the_cabinet_keeps_every_version_and_uses_are_told_of_newer_ones() {
    let (data, elsewhere) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let server = Server::on(data.path());
    let mut p = worn(&server);
    let id = p["id"].as_i64().unwrap();
    let save = |of: Value| {
        let cards =
            server.post(&format!("/api/projects/{id}/recipe"), json!({"layer": "l1", "name": "Sea rust", "of": of}));
        cards.as_array().unwrap().iter().find(|c| c["name"] == "Sea rust").unwrap().clone()
    };
    let first = save(Value::Null);
    assert_eq!(first["version"], 1);
    let file = server.bytes(&format!("/api/cabinet/files?ids={}", first["id"]));
    // Laid, turned, and then there is a second version without the dial.
    let lay =
        server.post(&format!("/api/projects/{id}/lay"), json!({"revision": p["revision"], "recipe": first["id"]}));
    let used = lay["document"]["layers"][1]["id"].as_str().unwrap().to_owned();
    assert_eq!(lay["newer"], json!({}));
    p = lay;
    server.edit(
        &mut p,
        json!([{"edit": "turn_dial", "layer": used, "dial": "d1", "value": 0.3}, {"edit": "remove_dial", "dial": "d1"}]),
    );
    let second = save(first["id"].clone());
    let recipe_of = |card: &Value| server.get(&format!("/api/cabinet/{}", card["id"]))["id"].clone();
    assert_eq!((&second["version"], recipe_of(&second)), (&json!(2), recipe_of(&first)));
    let mut p = server.get(&format!("/api/projects/{id}"));
    let newer = p["newer"][&used].clone();
    assert_eq!((&newer["recipe"]["version"], &newer["lost"]), (&json!(2), &json!(["Wear"])));
    let follow = json!([{"edit": "follow_recipe", "layer": used, "recipe": newer["recipe"]}]);
    server.edit(&mut p, follow);
    assert_eq!((&p["newer"], p["undo"].as_str()), (&json!({}), Some("version 2 of Sea rust")));
    let back = server.post(&format!("/api/projects/{id}/undo"), json!({"revision": p["revision"]}));
    assert_eq!(back["document"]["layers"][1]["values"]["d1"], 0.3, "the old version with what was set");
    // The same file twice is one thing; a package brings its version along.
    let there = Server::on(elsewhere.path());
    let before = there.get("/api/cabinet").as_array().unwrap().len();
    for _ in 0..2 {
        let cards = ok(there.upload("/api/cabinet/import", file.clone()))["cards"].clone();
        assert_eq!(cards.as_array().unwrap().len(), before + 1);
    }
    let newer = server.bytes(&format!("/api/cabinet/files?ids={}", second["id"]));
    let cards = ok(there.upload("/api/cabinet/import", newer))["cards"].clone();
    let card = cards.as_array().unwrap().iter().find(|c| c["name"] == "Sea rust").unwrap();
    assert_eq!((cards.as_array().unwrap().len(), &card["version"]), (before + 1, &json!(2)));
}

//! The HTTP API, through the real binary.

use std::io::Read;

use crate::common::{Server, coat, cube, lay, layout, ok, problem};
use serde_json::{Value, json};

fn folder() -> tempfile::TempDir {
    tempfile::tempdir().unwrap()
}

#[test]
fn the_catalog_describes_everything_that_can_be_used() {
    let data = folder();
    let server = Server::on(data.path());
    let catalog = server.get("/api/catalog");
    let entries = catalog.as_array().unwrap();
    for (family, kind) in [
        ("reading", "occlusion"),
        ("reading", "edges"),
        ("reading", "recesses"),
        ("reading", "facing"),
        ("reading", "altitude"),
        ("pattern", "perlin"),
        ("source", "even"),
        ("source", "part"),
        ("shaper", "levels"),
        ("shaper", "threshold"),
        ("shaper", "invert"),
        ("channel", "base_color"),
        ("channel", "height"),
        ("join", "overlay"),
    ] {
        let entry = entries.iter().find(|e| e["family"] == family && e["kind"] == kind);
        let entry = entry.unwrap_or_else(|| panic!("{family} {kind} is missing"));
        assert!(
            entry["label"].as_str().is_some_and(|l| !l.is_empty())
                && entry["help"].as_str().is_some_and(|l| !l.is_empty())
        );
        for p in entry["params"].as_array().unwrap() {
            for key in ["key", "label", "unit", "min", "max", "default", "type"] {
                assert!(!p[key].is_null(), "{kind}: {key} of {p}");
            }
        }
    }
}

#[test]
fn a_project_is_started_dressed_evaluated_and_written() {
    let data = folder();
    let server = Server::on(data.path());
    let mut p = server.project();
    assert_eq!(p["piece"]["parts"].as_array().unwrap().len(), 2);
    let id = p["id"].as_i64().unwrap();
    server.edit(&mut p, json!([{"edit": "set_draft_size", "size": 128}]));
    server.edit(&mut p, json!([lay("Rust", json!([{"kind": "edges", "join": "replace", "settings": {"radius": "broad"}}, {"kind": "threshold", "settings": {"cut": 0.2}}]))]));
    assert!(
        p["measurements"]
            .as_array()
            .unwrap()
            .iter()
            .any(|r| r["kind"] == "curvature" && r["needed"] == true && r["state"] == "missing")
    );

    let ask = json!({"page": "t", "edits": [], "layer": "l1", "mask": true, "tiles": true, "channel": "height", "reading": "edges:broad"});
    let seen = server.post(&format!("/api/projects/{id}/evaluate"), ask.clone());
    assert_eq!(seen["size"], 128);
    assert_eq!(seen["tiles"].as_array().unwrap().len(), 2);
    let pixels = |key: &str| server.bytes(&format!("/api/pixels/{}", seen[key].as_str().unwrap()));
    assert_eq!(pixels("base_color").len(), 128 * 128 * 4);
    for key in ["mask", "reading"] {
        assert_eq!(pixels(key).len(), 128 * 128, "{key}");
    }
    let height = server.bytes(&format!("/api/pixels/{}", seen["channel"]["pixels"].as_str().unwrap()));
    assert!(height.len() == 128 * 128 && seen["channel"]["colors"] == false);
    let absent = server
        .post(&format!("/api/projects/{id}/evaluate"), json!({"page": "t", "edits": [], "channel": "sheen_color"}));
    assert!(absent["channel"].is_null(), "no coat lays it");
    let reading = pixels("reading");
    assert!(reading.iter().any(|v| *v > 90) && reading.iter().filter(|v| **v < 10).count() > 2000, "edges are edges");
    let coverage = seen["coverage"][0]["visible"].as_f64().unwrap();
    assert!(coverage > 0.0 && coverage < 0.5, "{coverage}");
    let again = server.post(&format!("/api/projects/{id}/evaluate"), ask);
    assert_eq!(again["base_color"], seen["base_color"], "the same document has the same pixels");
    assert_eq!(again["computed"], json!([]));

    let p = server.get(&format!("/api/projects/{id}"));
    assert!(
        p["measurements"].as_array().unwrap().iter().any(|r| r["kind"] == "curvature" && r["state"] == "fresh"),
        "it was measured on the way"
    );
    let layout = layout(256, "{piece}_{map}", &["base_color", "orm", "height", "glb"], 1.0);
    let plan = server.post(&format!("/api/projects/{id}/handoff/plan"), layout.clone());
    let done = server.post(&format!("/api/projects/{id}/handoff/write"), layout);
    let names = |v: &Value| {
        v["files"].as_array().unwrap().iter().map(|f| f["name"].as_str().unwrap().to_owned()).collect::<Vec<_>>()
    };
    assert_eq!(names(&plan), names(&done));
    let path = format!("/api/downloads/{}/{}", done["download"].as_str().unwrap(), done["name"].as_str().unwrap());
    let mut zip = zip::ZipArchive::new(std::io::Cursor::new(server.bytes(&path))).unwrap();
    for name in names(&done) {
        let mut bytes = vec![];
        zip.by_name(&name).unwrap().read_to_end(&mut bytes).unwrap();
        assert!(bytes.starts_with(if name.ends_with(".glb") { b"glTF" } else { b"\x89PNG" }), "{name}");
    }
}

#[test]
fn a_try_shows_without_being_kept_and_a_preview_shows_each_candidate() {
    let data = folder();
    let server = Server::on(data.path());
    let mut p = server.project();
    let id = p["id"].as_i64().unwrap();
    server.edit(&mut p, json!([{"edit": "set_draft_size", "size": 64}, lay("Paint", json!([]))]));
    let ask = |edits: Value| {
        server.post(
            &format!("/api/projects/{id}/evaluate"),
            json!({"page": "t", "edits": edits, "mask": false, "tiles": false, "height": false}),
        )
    };
    let before = ask(json!([]));
    let target = json!({"layer": "l1", "channel": "base_color", "key": "color"});
    let tried = ask(json!([{"edit": "set_param", "target": target, "value": "#00ff00"}]));
    assert_ne!(tried["base_color"], before["base_color"]);
    assert_eq!(tried["normal"], before["normal"]);
    assert_eq!(server.get(&format!("/api/projects/{id}"))["revision"], p["revision"]);
    let add =
        |kind: &str| json!({"edit": "add_step", "layer": "l1", "index": 0, "step": {"kind": kind, "join": "replace"}});
    let tiles = server.post(
        &format!("/api/projects/{id}/preview"),
        json!({"page": "t/finder", "candidates": [add("perlin"), add("edges"), add("facing")]}),
    );
    let line = |i: usize| tiles[i]["line"].clone();
    assert!(line(0).is_string() && line(1).is_null() && line(2).is_string(), "edges are not measured yet: {tiles}");
    assert_eq!(server.bytes(&format!("/api/pixels/{}", line(0).as_str().unwrap())).len(), 92 * 74 * 4);
    assert_eq!(tiles[0]["alone"], line(0), "on an empty line it is all there is");
    // Where nothing is left the line says nothing of what is added; by itself it looks as it would anywhere.
    let cut = json!([{"kind": "even", "join": "replace"}, {"kind": "invert"}]);
    let first = json!({"edit": "add_steps", "layer": "l1", "index": 0, "steps": cut});
    server.edit(&mut p, json!([first]));
    let behind = |step: Value| json!({"edit": "add_steps", "layer": "l1", "index": 2, "steps": [step]});
    let candidates = json!([
        behind(json!({"kind": "facing", "join": "multiply"})),
        behind(json!({"kind": "worley", "join": "multiply"})),
        behind(json!({"kind": "invert"}))
    ]);
    let after =
        server.post(&format!("/api/projects/{id}/preview"), json!({"page": "t/finder", "candidates": candidates}));
    assert_eq!(after[0]["line"], after[1]["line"], "nothing is left of either");
    assert_eq!(after[0]["alone"], tiles[2]["alone"]);
    assert_ne!(after[0]["alone"], after[1]["alone"]);
    assert!(after[2]["alone"].is_null() && after[2]["line"].is_string(), "a shaper brings nothing in");
    assert!(server.bytes(&format!("/api/projects/{id}/reading/facing/picture")).starts_with(b"\x89PNG"));
    let unmeasured = server.bytes(&format!("/api/projects/{id}/reading/edges/picture"));
    assert!(unmeasured.is_empty(), "what is not measured is no failure, and no picture");
    assert!(server.bytes(&format!("/api/projects/{id}/picture")).starts_with(b"\x89PNG"));
}

#[test]
fn an_edit_on_a_stale_revision_is_refused_and_loses_nothing() {
    let data = folder();
    let server = Server::on(data.path());
    let mut p = server.project();
    let id = p["id"].as_i64().unwrap();
    let old = p["revision"].clone();
    server.edit(&mut p, json!([lay("First", json!([]))]));
    let answer = server
        .try_post(&format!("/api/projects/{id}/edit"), json!({"revision": old, "edits": [lay("Late", json!([]))]}));
    assert_eq!(answer.status(), 409);
    let body: Value = answer.json().unwrap();
    assert_eq!(
        (&body["type"], &body["revision"]),
        (&json!("stale"), &p["revision"]),
        "it says which revision is in force"
    );
    let now = server.get(&format!("/api/projects/{id}"));
    assert_eq!(now["document"]["layers"].as_array().unwrap().len(), 1);
    // Of several edits in one request, all are made or none.
    let edits = json!([lay("Good", json!([])), {"edit": "remove_layer", "layer": "l99"}]);
    let (status, kind, said) = problem(
        server.try_post(&format!("/api/projects/{id}/edit"), json!({"revision": p["revision"], "edits": edits})),
    );
    assert_eq!((status, kind.as_str()), (422, "edit"), "{said}");
    assert_eq!(server.get(&format!("/api/projects/{id}"))["revision"], p["revision"]);
}

#[test]
fn undo_and_redo_outlive_a_restart() {
    let data = folder();
    let server = Server::on(data.path());
    let mut p = server.project();
    let id = p["id"].as_i64().unwrap();
    let names = |p: &Value| {
        p["document"]["layers"]
            .as_array()
            .unwrap()
            .iter()
            .map(|l| l["name"].as_str().unwrap().to_owned())
            .collect::<Vec<_>>()
    };
    server.edit(&mut p, json!([lay("One", json!([]))]));
    server.edit(&mut p, json!([lay("Two", json!([]))]));
    assert_eq!(p["undo"], "lay Two");
    let p = server.post(&format!("/api/projects/{id}/undo"), json!({"revision": p["revision"]}));
    server.kill();
    let server = Server::on(data.path());
    let back = server.get(&format!("/api/projects/{id}"));
    assert_eq!(back, p, "everything is as it was left");
    assert_eq!(
        (names(&back), &back["undo"], &back["redo"]),
        (vec!["One".to_owned()], &json!("lay One"), &json!("lay Two"))
    );
    let again = server.post(&format!("/api/projects/{id}/redo"), json!({"revision": back["revision"]}));
    assert_eq!(names(&again), ["Two", "One"]);
    let first =
        (0..2).fold(again, |p, _| server.post(&format!("/api/projects/{id}/undo"), json!({"revision": p["revision"]})));
    assert_eq!((names(&first).len(), &first["undo"]), (0, &Value::Null));
    let (status, _, said) =
        problem(server.try_post(&format!("/api/projects/{id}/undo"), json!({"revision": first["revision"]})));
    assert_eq!(status, 409, "{said}");
}

#[test]
fn a_kill_in_the_middle_of_edits_loses_no_edit_that_was_acknowledged() {
    let data = folder();
    let server = Server::on(data.path());
    let mut p = server.project();
    let id = p["id"].as_i64().unwrap();
    server.edit(&mut p, json!([lay("Coat", json!([]))]));
    let (url, revision) = (server.url.clone(), p["revision"].as_i64().unwrap());
    let (sender, acknowledged) = std::sync::mpsc::channel();
    let editing = std::thread::spawn(move || {
        let client = reqwest::blocking::Client::new();
        let mut revision = revision;
        for i in 1.. {
            let name = format!("Coat {i}");
            let body = json!({"revision": revision, "edits": [{"edit": "set_layer", "layer": "l1", "name": name}]});
            let Ok(answer) = client.post(format!("{url}/api/projects/{id}/edit")).json(&body).send() else { return };
            let Ok(p) = answer.json::<Value>() else { return };
            revision = p["revision"].as_i64().unwrap();
            sender.send(i).unwrap();
        }
    });
    let mut last = 0;
    while last < 25 {
        last = acknowledged.recv().unwrap();
    }
    server.kill();
    editing.join().unwrap();
    last = acknowledged.try_iter().last().unwrap_or(last);
    let server = Server::on(data.path());
    let name = server.get(&format!("/api/projects/{id}"))["document"]["layers"][0]["name"].as_str().unwrap().to_owned();
    let kept: i32 = name.trim_start_matches("Coat ").parse().unwrap();
    assert!(kept == last || kept == last + 1, "edit {last} was acknowledged, {kept} is there");
}

#[test]
fn a_recipe_is_saved_carried_and_laid_elsewhere() {
    let (here, there) = (folder(), folder());
    let server = Server::on(here.path());
    let mut p = server.project();
    let id = p["id"].as_i64().unwrap();
    let target = json!({"layer": "l1", "step": "s1", "key": "cut"});
    server.edit(
        &mut p,
        json!([
            {"edit": "set_draft_size", "size": 64},
            lay("Rust", json!([{"kind": "threshold", "join": "multiply"}])),
            {"edit": "make_dial", "target": target, "label": "Wear", "low": 0.9, "high": 0.1},
        ]),
    );
    assert_eq!(p["driven"]["d1"], json!(["Rust › Threshold › Cut"]));
    let cards = server
        .post(&format!("/api/projects/{id}/recipe"), json!({"layer": "l1", "name": "Rust in hollows", "note": ""}));
    let card = cards.as_array().unwrap().iter().find(|c| c["name"] == "Rust in hollows").unwrap();
    let file = server.bytes(&format!("/api/cabinet/files?ids={}", card["id"]));

    let other = Server::on(there.path());
    let cards = ok(other.upload("/api/cabinet/import", file))["cards"].clone();
    let recipe = cards.as_array().unwrap().last().unwrap()["id"].clone();
    let tile = ok(other.upload("/api/projects/demo/swatch-tile", ""));
    let mut laid = other
        .post(&format!("/api/projects/{}/lay", tile["id"]), json!({"revision": tile["revision"], "recipe": recipe}));
    let used = laid["document"]["layers"].as_array().unwrap().last().unwrap().clone();
    assert_eq!((&used["kind"], &used["recipe"]["dials"][0]["label"]), (&json!("use"), &json!("Wear")));
    let dial = used["recipe"]["dials"][0]["id"].clone();
    let layer = used["id"].clone();
    other.edit(&mut laid, json!([{"edit": "turn_dial", "layer": layer, "dial": dial, "value": 0.9}]));
    assert_eq!(laid["document"]["layers"].as_array().unwrap().last().unwrap()["values"][dial.as_str().unwrap()], 0.9);
}

#[test]
fn a_project_file_carries_everything() {
    let data = folder();
    let server = Server::on(data.path());
    let mut p = server.project();
    server.edit(&mut p, json!([lay("Rust", json!([{"kind": "perlin", "join": "replace"}]))]));
    let file = server.bytes(&format!("/api/projects/{}/file", p["id"]));
    let back = ok(server.upload("/api/projects/file?name=whatever.dustcoat", file));
    assert_eq!((&back["document"], &back["piece"]), (&p["document"], &p["piece"]));
    assert_ne!(back["id"], p["id"], "nothing was replaced");
}

#[test]
fn what_is_put_away_can_be_brought_back() {
    let data = folder();
    let server = Server::on(data.path());
    let p = server.project();
    let path = format!("/api/projects/{}", p["id"]);
    let cards = ok(server.request("DELETE", &path).send().unwrap());
    assert_eq!(cards, json!([]));
    assert_eq!(problem(server.request("GET", &path).send().unwrap()).0, 404);
    assert_eq!(server.post(&format!("{path}/restore"), json!({})).as_array().unwrap().len(), 1);
    assert_eq!(server.get(&path), p);
}

#[test]
fn bad_input_is_refused_with_a_sentence_and_the_server_goes_on() {
    let data = folder();
    let server = Server::on(data.path());
    let p = server.project();
    let id = p["id"].as_i64().unwrap();
    let glb = server.bytes(&format!("/api/projects/{id}/file"));
    let file = |name: &str, bytes: &[u8]| problem(server.upload(&format!("/api/projects/file?name={name}"), bytes));
    let cases: Vec<((u16, String, String), u16, &str)> = vec![
        (file("a.obj", b"v 0 0 0\nf 1 2 3\n"), 422, "mesh"),
        (file("a.obj", b"v nan 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n"), 422, "finite"),
        (file("a.glb", b"glTF\x02\0\0\0\x10"), 422, "can't be read"),
        (file("a.png", b"\x89PNG\r\n\x1a\n"), 422, "OBJ"),
        (file("a.dustcoat", &glb[..glb.len() / 3]), 422, "package"),
        (file("a.dustcoat", b"PK\x03\x04nonsense"), 422, "package"),
        (problem(server.upload("/api/cabinet/import", b"nothing".to_vec())), 422, ".coatrecipe"),
        (problem(server.request("GET", "/api/projects/999").send().unwrap()), 404, "project"),
        (problem(server.request("GET", "/api/projects/abc").send().unwrap()), 404, "nothing at this address"),
        (problem(server.request("GET", "/api/nowhere").send().unwrap()), 404, "nothing at this address"),
        (problem(server.upload(&format!("/api/projects/{id}/edit"), b"{".to_vec())), 400, "can't be read"),
        (problem(server.try_post(&format!("/api/projects/{id}/edit"), json!({"revision": p["revision"], "edits": [{"edit": "explode"}]}))), 400, "can't be read"),
        (problem(server.try_post(&format!("/api/projects/{id}/edit"), json!({"revision": p["revision"], "edits": [
            lay("X", json!([])), {"edit": "set_param", "target": {"layer": "l1", "key": "opacity"}, "value": {"dial": "d7"}}]}))), 422, "dial that is gone"),
        (problem(server.try_post(&format!("/api/projects/{id}/measure"), json!({"kinds": ["smell"]}))), 404, "smell"),
        (problem(server.try_post(&format!("/api/projects/{id}/handoff/write"), layout(100, "{map}", &["orm"], 1.0))), 422, "100 is not a texture size"),
        (problem(server.request("GET", "/api/pixels/0123").send().unwrap()), 410, "not held"),
    ];
    for ((status, kind, said), expected, words) in cases {
        assert_eq!(status, expected, "{kind}: {said}");
        assert!(said.contains(words), "“{said}” should speak of “{words}”");
    }
    assert_eq!(server.get(&format!("/api/projects/{id}")), p, "nothing was lost or changed");
    assert_eq!(server.get("/api/projects").as_array().unwrap().len(), 1, "nothing was half made");
}

#[test]
fn an_upload_past_the_limit_is_refused_before_it_is_read() {
    use std::io::Write;
    let data = folder();
    let server = Server::on(data.path());
    let host = server.url.trim_start_matches("http://").to_owned();
    let mut socket = std::net::TcpStream::connect(&host).unwrap();
    write!(
        socket,
        "POST /api/projects/file?name=a.obj HTTP/1.1\r\nHost: {host}\r\nContent-Length: 1073741824\r\n\r\nv 0 0 0\n"
    )
    .unwrap();
    let mut answer = [0u8; 4096];
    let n = socket.read(&mut answer).unwrap();
    let text = String::from_utf8_lossy(&answer[..n]);
    assert!(text.starts_with("HTTP/1.1 413"), "{text}");
    assert!(text.contains("larger than 512 MB"), "{text}");
    server.project();
}

#[test]
fn a_piece_without_uvs_is_unwrapped_and_says_so() {
    let data = folder();
    let server = Server::on(data.path());
    let p = ok(server.upload("/api/projects/file?name=bare.obj", "v 0 0 0\nv 9 0 0\nv 9 9 0\nf 1 2 3\n"));
    assert!(p["piece"]["findings"].to_string().contains("unwrapped here"), "{}", p["piece"]["findings"]);
    let ask = json!({"page": "t", "edits": [], "mask": false, "tiles": false, "height": false});
    assert_eq!(server.post(&format!("/api/projects/{}/evaluate", p["id"]), ask)["size"], 1024);
}

#[test]
fn only_its_own_pages_may_talk_to_it() {
    let data = folder();
    let server = Server::on(data.path());
    let from = |header: &str, value: &str| server.request("GET", "/api/projects").header(header, value).send().unwrap();
    assert_eq!(problem(from("host", "evil.example")).0, 403);
    assert_eq!(problem(from("origin", "http://evil.example")).0, 403);
    assert_eq!(from("origin", &server.url.clone()).status(), 200);
}

#[test]
fn new_projects_begin_with_the_draft_size_that_was_said() {
    let data = folder();
    let size = |server: &Server| server.project()["document"]["draft_size"].clone();
    let (default, said) = (Server::on(data.path()), &["--addr", "127.0.0.1:0", "--draft", "256"]);
    assert_eq!(size(&default), 1024);
    drop(default);
    assert_eq!(size(&Server::with(data.path(), said, &[])), 256);
    for bad in ["300", "0", "large"] {
        let refused = crate::common::run(&[
            "serve",
            "--data",
            data.path().to_str().unwrap(),
            "--draft",
            bad,
            "--addr",
            "127.0.0.1:0",
        ]);
        assert_eq!(refused.0.status.code(), Some(2), "{bad}");
        assert!(String::from_utf8_lossy(&refused.0.stderr).contains("a power of two"));
    }
}

#[test]
fn another_interface_demands_a_token() {
    let data = folder();
    let refused = crate::common::run(&["serve", "--data", data.path().to_str().unwrap(), "--addr", "0.0.0.0:0"]);
    assert_eq!(refused.0.status.code(), Some(2));
    assert!(String::from_utf8_lossy(&refused.0.stderr).contains("DUSTCOAT_TOKEN"));
    let token = "a-secret-of-enough-letters";
    let mut server = Server::with(data.path(), &["--addr", "0.0.0.0:0"], &[("DUSTCOAT_TOKEN", token)]);
    server.url = server.url.replace("0.0.0.0", "127.0.0.1");
    assert_eq!(problem(server.request("GET", "/api/projects").send().unwrap()).0, 403);
    let with = server.request("GET", "/api/projects").bearer_auth(token).send().unwrap();
    assert_eq!(with.status(), 200);
    let entered = server.request("GET", &format!("/api/projects?token={token}")).send().unwrap();
    assert!(entered.headers()["set-cookie"].to_str().unwrap().contains("HttpOnly"));
}

#[test]
fn a_measurement_can_be_stopped_and_what_was_done_is_kept() {
    let data = folder();
    let server = Server::on(data.path());
    let mut p = server.project();
    let id = p["id"].as_i64().unwrap();
    let rays =
        |reading: &str| json!({"edit": "set_param", "target": {"reading": reading, "key": "rays"}, "value": 1024});
    server.edit(
        &mut p,
        json!([{"edit": "set_draft_size", "size": 2048}, rays("curvature"), rays("thickness"), rays("occlusion")]),
    );
    let url = server.url.clone();
    let measuring = std::thread::spawn(move || {
        let client = reqwest::blocking::Client::builder().timeout(None).build().unwrap();
        let ask = json!({"kinds": [], "wait": true});
        client.post(format!("{url}/api/projects/{id}/measure")).json(&ask).send().unwrap()
    });
    server.stop_all(id, || measuring.is_finished());
    let (status, kind, _) = problem(measuring.join().unwrap());
    assert_eq!((status, kind.as_str()), (409, "cancelled"));
    assert_eq!(server.get(&format!("/api/projects/{id}"))["document"], p["document"]);
}

#[test]
fn the_demo_project_is_valid_and_its_mesh_is_served_whole() {
    let data = folder();
    let server = Server::on(data.path());
    let p = ok(server.upload("/api/projects/demo/gate-valve", ""));
    let triangles = p["piece"]["triangles"].as_u64().unwrap();
    assert!((20_000..=80_000).contains(&triangles), "{triangles}");
    let findings = p["piece"]["findings"].as_array().unwrap();
    assert!(findings.iter().all(|f| f["serious"] == false), "nothing is wrong with our own piece: {findings:?}");
    let mesh = server.bytes(&format!("/api/projects/{}/mesh/{}", p["id"], p["piece"]["hash"].as_str().unwrap()));
    let count = |at: usize| u32::from_le_bytes(mesh[at..at + 4].try_into().unwrap()) as usize;
    assert_eq!(count(4) as u64, triangles);
    assert_eq!(mesh.len(), 8 + count(0) * 12 * 4 + count(4) * 12);
    assert_eq!(problem(server.upload("/api/projects/demo/anchor", "")).0, 404);
    let _ = (coat("", json!([])), cube());
}

//! The study over HTTP: pictures come onto the board and stay with the project, what they are looked at in, what a spot of one says, and a plan that is blocked in and undone.

use std::io::Cursor;

use image::{GenericImageView, ImageFormat, Rgb, RgbImage};
use serde_json::{Value, json};

use crate::common::{Server, cube, ok, problem};

/// A photograph: warm light on a wall, one half of it a grey that gives back 18 %, the other darker in red.
fn photograph(wide: u32) -> Vec<u8> {
    let texel = |x, _| if x < wide / 2 { Rgb([118, 107, 85]) } else { Rgb([87, 107, 85]) };
    let mut out = vec![];
    RgbImage::from_fn(wide, wide / 2, texel).write_to(&mut Cursor::new(&mut out), ImageFormat::Png).unwrap();
    out
}

fn put(server: &Server, project: &mut Value, bytes: Vec<u8>) -> String {
    let aside = ok(server.upload("/api/pictures?name=wall.png", bytes));
    let item = json!({
        "kind": "picture", "lies": {"at": [10.0, 20.0], "width": 300.0},
        "hash": aside["hash"], "file": aside["file"], "size": aside["size"],
    });
    server.edit(project, json!([{"edit": "put_on_board", "items": [item]}]));
    aside["hash"].as_str().unwrap().to_owned()
}

#[test]
fn a_board_outlives_a_restart_is_undone_and_goes_with_the_project() {
    let data = tempfile::tempdir().unwrap();
    let mut server = Server::on(data.path());
    let mut p = server.project();
    let hash = put(&server, &mut p, photograph(640));
    assert_eq!(p["undo"], "put a picture on the board");
    assert_eq!(p["document"]["study"]["board"][0]["size"], json!([640, 320]));
    let note = json!({"kind": "note", "lies": {"at": [0.0, 0.0], "width": 90.0}, "text": "warm in the evening"});
    server.edit(&mut p, json!([{"edit": "put_on_board", "items": [note]}]));
    drop(server);
    server = Server::on(data.path());
    let path = format!("/api/projects/{}", p["id"]);
    assert_eq!(server.get(&path)["document"]["study"], p["document"]["study"]);
    // As a package it is opened elsewhere, pictures and all.
    let packed = server.bytes(&format!("{path}/file"));
    let elsewhere = tempfile::tempdir().unwrap();
    let other = Server::on(elsewhere.path());
    let taken = ok(other.upload("/api/projects/file?name=cube.dustcoat", packed));
    assert_eq!(taken["document"]["study"], p["document"]["study"]);
    let there = other.bytes(&format!("/api/projects/{}/pictures/{hash}", taken["id"]));
    assert_eq!(image::load_from_memory(&there).unwrap().dimensions(), (640, 320));
    for _ in 0..2 {
        p = server.post(&format!("{path}/undo"), json!({"revision": p["revision"]}));
    }
    assert_eq!(p["document"]["study"], Value::Null);
    let missing = server.request("GET", &format!("{path}/pictures/{hash}")).send().unwrap();
    assert_eq!(problem(missing).0, 404, "what no longer lies there is not shown");
}

#[test]
fn what_was_not_brought_in_cannot_be_put_on_the_board() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let p = server.project();
    let lies = json!({"at": [0.0, 0.0], "width": 300.0});
    let item = json!({"kind": "picture", "lies": lies, "hash": "ab".repeat(32), "file": "wall.png", "size": [4, 4]});
    let edits = json!({"revision": p["revision"], "edits": [{"edit": "put_on_board", "items": [item]}]});
    let (status, kind, said) = problem(server.try_post(&format!("/api/projects/{}/edit", p["id"]), edits));
    assert_eq!((status, kind.as_str()), (422, "edit"));
    assert!(said.contains("“wall.png” was not brought in"), "{said}");
    let (status, _, said) = problem(server.upload("/api/pictures?name=notes.png", cube()));
    assert!(status == 422 && said.contains("notes.png"), "{status} {said}");
}

#[test]
fn pictures_are_shown_in_the_sizes_that_there_are_and_spots_say_their_colour() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = server.project();
    let hash = put(&server, &mut p, photograph(3000));
    let path = format!("/api/projects/{}/pictures/{hash}", p["id"]);
    for (side, size, start) in
        [(256, (256, 128), &b"\x89PNG"[..]), (1024, (1024, 512), b"\x89PNG"), (4096, (3000, 1500), b"\xff\xd8")]
    {
        let bytes = server.bytes(&format!("{path}?side={side}"));
        assert!(bytes.starts_with(start), "{side}");
        assert_eq!(image::load_from_memory(&bytes).unwrap().dimensions(), size);
        assert_eq!(server.bytes(&format!("{path}?side={side}")), bytes, "it is made once");
    }
    let odd = server.request("GET", &format!("{path}?side=333")).send().unwrap();
    assert!(problem(odd).2.contains("256, 1024 or 4096"));
    let spot = |asked: Value| server.post(&format!("{path}/tone"), asked);
    let dark = spot(json!({"at": [0.8, 0.5]}));
    assert_eq!((&dark["color"], &dark["given_back"]), (&json!("#576b55"), &Value::Null));
    let told = spot(json!({"at": [0.8, 0.5], "grey": {"at": [0.2, 0.5], "is": 0.18}}));
    // What the grey gives back is 18 % in every primary; this gives back about half of that in red.
    let neutral = u32::from_str_radix(&told["neutral"].as_str().unwrap()[1..], 16).unwrap();
    let [r, g, b] = [neutral >> 16, neutral >> 8 & 255, neutral & 255];
    assert!(g == b && (117..=119).contains(&g) && (85..=89).contains(&r), "{told}");
    assert!((told["given_back"].as_f64().unwrap() - 0.16).abs() < 0.01, "{told}");
    let grey = spot(json!({"at": [0.2, 0.5], "grey": {"at": [0.2, 0.5], "is": 0.18}}));
    assert!((grey["given_back"].as_f64().unwrap() - 0.18).abs() < 1e-4);
    // A grey that gives back nothing, or more than all, is none.
    for is in [0.0, -5.0, 1.5] {
        let asked = json!({"at": [0.8, 0.5], "grey": {"at": [0.2, 0.5], "is": is}});
        let refused = server.request("POST", &format!("{path}/tone")).json(&asked).send().unwrap();
        assert!(problem(refused).2.contains("from 0.01 to 1"), "{is}");
    }
    assert_eq!(server.get(&format!("{path}/colors?count=2")).as_array().unwrap().len(), 2);
}

#[test]
fn a_plan_is_blocked_in_at_once_and_undone_at_once() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = server.project();
    assert_eq!(p["plan"]["fresh"]["name"], "element");
    assert_eq!(p["plan"]["places"].as_array().unwrap().len(), 7);
    assert_eq!((&p["plan"]["near"], &p["plan"]["over"]), (&json!(0.05), &Value::Null));
    let mut element = |name: &str, color: &str, place: &str, share: f64| {
        let mut row = p["plan"]["fresh"].clone();
        row["name"] = json!(name);
        row["color"] = json!(color);
        row["place"] = json!(place);
        row["share"] = json!(share);
        server.edit(&mut p, json!([{"edit": "set_element", "element": row}]));
    };
    element("body", "#2f605a", "all_over", 0.7);
    element("rust", "#5c2a18", "patches", 0.3);
    let ids: Vec<Value> = p["document"]["study"]["plan"].as_array().unwrap().iter().map(|e| e["id"].clone()).collect();
    server.edit(&mut p, json!([{"edit": "set_draft_size", "size": 64}, {"edit": "block_in", "elements": ids}]));
    let drawn = server.post(&format!("/api/projects/{}/evaluate", p["id"]), json!({"page": "t", "edits": []}));
    let visible: Vec<f64> =
        drawn["coverage"].as_array().unwrap().iter().map(|c| c["visible"].as_f64().unwrap()).collect();
    assert_eq!(visible.len(), 2);
    assert!((visible[0] - 0.7).abs() < 0.02 && (visible[1] - 0.3).abs() < 0.02, "{visible:?}");
    let undo = format!("/api/projects/{}/undo", p["id"]);
    p = server.post(&undo, json!({"revision": p["revision"]}));
    assert_eq!(p["document"]["layers"], json!([]));
    assert_eq!(p["document"]["study"]["plan"][0]["layer"], Value::Null, "and no row is answered any more");
}

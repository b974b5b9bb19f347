//! Many pages at once, and pages that drag while everything below them changes: what each ends at is what a server sees that has just been started.

use std::path::Path;

use serde_json::{Value, json};

use crate::common::{Server, cube, lay, ok, problem};

/// A project with clouds that a cut and the occlusion let through, at a small draft with few rays, measured.
fn dragged(server: &Server) -> (Value, i64) {
    let mut p = server.project();
    let steps = json!([
        {"kind": "perlin", "join": "replace", "settings": {"size": 9}},
        {"kind": "threshold"},
        {"kind": "occlusion", "join": "multiply"}
    ]);
    let rays = json!({"edit": "set_param", "target": {"reading": "occlusion", "key": "rays"}, "value": 4});
    server.edit(&mut p, json!([{"edit": "set_draft_size", "size": 128}, rays, lay("Flaking", steps)]));
    let id = p["id"].as_i64().unwrap();
    server.post(&format!("/api/projects/{id}/measure"), json!({"kinds": ["occlusion"], "wait": true}));
    (p, id)
}

fn cut(value: f64) -> Value {
    json!({"edit": "set_param", "target": {"layer": "l1", "step": "s2", "key": "cut"}, "value": value})
}

/// One moment of a page's drag: an answer, or that a later one overtook it; nothing else.
fn drag(url: &str, id: i64, page: usize, value: f64) {
    let asked = json!({"page": format!("page {page}"), "edits": [cut(value)], "size": 64, "provisional": true});
    let path = format!("{url}/api/projects/{id}/evaluate");
    let answer = reqwest::blocking::Client::new().post(path).json(&asked).send().unwrap();
    if !answer.status().is_success() {
        assert_eq!(problem(answer).1, "cancelled");
    }
}

/// What a page sees at rest: the addresses of all textures, and the bytes of two of them.
fn at_rest(server: &Server, id: i64, page: &str) -> (Vec<Value>, [Vec<u8>; 2]) {
    let seen = server.post(&format!("/api/projects/{id}/evaluate"), json!({"page": page, "edits": []}));
    let bytes = ["base_color", "orm"].map(|map| server.bytes(&format!("/api/pixels/{}", seen[map].as_str().unwrap())));
    (["base_color", "orm", "normal"].map(|map| seen[map].clone()).to_vec(), bytes)
}

/// What a server sees that has just been started on a folder.
fn fresh(server: Server, folder: &Path, id: i64) -> (Vec<Value>, [Vec<u8>; 2]) {
    server.kill();
    at_rest(&Server::on(folder), id, "fresh")
}

#[test]
fn ten_pages_that_drag_at_once_while_somebody_edits_end_at_the_true_picture() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let (mut p, id) = dragged(&server);
    let before = at_rest(&server, id, "one");
    std::thread::scope(|scope| {
        for page in 0..10 {
            let url = server.url.clone();
            scope.spawn(move || (0..8u32).for_each(|k| drag(&url, id, page, 0.2 + 0.05 * f64::from(k))));
        }
        for k in 0..5 {
            server.edit(&mut p, json!([cut(0.3 + 0.08 * f64::from(k))]));
        }
    });
    let pages: Vec<_> = (0..10).map(|page| at_rest(&server, id, &format!("page {page}"))).collect();
    assert!(pages.iter().all(|seen| *seen == pages[0]), "all see the same");
    assert_ne!(pages[0], before, "and that is what the last edit left");
    assert_eq!(fresh(server, data.path(), id), pages[0]);
}

#[test]
fn a_drag_over_a_mesh_that_is_swapped_meanwhile_ends_at_the_new_piece() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let (p, id) = dragged(&server);
    let before = at_rest(&server, id, "one");
    let larger = |line: &str| if line.starts_with("v ") { line.replace("20", "35") } else { line.into() };
    let other = cube().lines().map(larger).collect::<Vec<String>>().join("\n");
    let path = format!("/api/projects/{id}/mesh?name=larger.obj&unit=mm&revision={}", p["revision"]);
    let swapped = std::thread::scope(|scope| {
        let url = server.url.clone();
        scope.spawn(move || (0..40u32).for_each(|k| drag(&url, id, 0, 0.2 + 0.01 * f64::from(k))));
        ok(server.upload(&path, other.into_bytes()))
    });
    assert_eq!(swapped["document"]["layers"], p["document"]["layers"], "nothing of the drag was kept");
    let after = at_rest(&server, id, "page 0");
    assert_ne!(after, before, "clouds of as many mm are smaller on a larger piece");
    assert_eq!(fresh(server, data.path(), id), after);
}

//! The probe and snapshots over HTTP: what they tell, what they keep, and what they refuse.

use crate::common::{Server, coat, lay, ok, problem};
use serde_json::{Value, json};

fn dressed(server: &Server) -> (Value, i64) {
    let mut p = server.project();
    let id = p["id"].as_i64().unwrap();
    server.edit(&mut p, json!([{"edit": "set_draft_size", "size": 128}]));
    server
        .edit(&mut p, json!([lay("Rust", json!([{"kind": "altitude", "join": "replace"}])), lay("Paint", json!([]))]));
    (p, id)
}

/// The base color of the middle texel that has one.
fn seen(server: &Server, id: i64, request: Value) -> Vec<u8> {
    let e = server.post(&format!("/api/projects/{id}/evaluate"), request);
    server.bytes(&format!("/api/pixels/{}", e["base_color"].as_str().unwrap()))
}

#[test]
fn the_probe_tells_of_every_layer_and_step_at_a_place() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let (_, id) = dressed(&server);
    let path = format!("/api/projects/{id}/probe");
    let sample = server.post(&path, json!({"u": 0.1, "v": 0.2}));
    let layers = sample["layers"].as_array().unwrap();
    assert_eq!(layers.iter().map(|l| l["name"].as_str().unwrap()).collect::<Vec<_>>(), ["Paint", "Rust"]);
    assert_eq!(layers[1]["steps"][0]["label"], "Altitude");
    assert_eq!(layers[1]["steps"][0]["mask"], layers[1]["mask"]);
    // The last slice is the texel of the texture.
    let pixels = seen(&server, id, json!({"page": "t"}));
    let at = 4 * ((0.2 * 128.0) as usize * 128 + (0.1 * 128.0) as usize);
    let hex = format!("#{:02x}{:02x}{:02x}", pixels[at], pixels[at + 1], pixels[at + 2]);
    let color = layers[1]["after"].as_array().unwrap().iter().find(|v| v["channel"] == "base_color").unwrap();
    assert_eq!(color["color"], json!(hex));
    let (status, kind, words) = problem(server.try_post(&path, json!({"u": 0.999, "v": 0.999})));
    assert!(status == 404 && kind == "not-found" && words.contains("Click on the piece"), "{status} {kind} {words}");
    for wrong in [json!({}), json!({"u": "x", "v": 0}), json!({"u": 1})] {
        assert_eq!(problem(server.try_post(&path, wrong)).0, 400);
    }
}

#[test]
fn a_snapshot_is_compared_gone_back_to_and_outlives_a_kill() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let (_, id) = dressed(&server);
    let snapshots = format!("/api/projects/{id}/snapshots");
    let mut p = server.post(&snapshots, json!({"name": "  Before the salt "}));
    assert_eq!(p["snapshots"][0]["name"], "Before the salt");
    let kept = p["snapshots"][0]["id"].as_i64().unwrap();
    let before = seen(&server, id, json!({"page": "t"}));
    let mut salt = coat("Salt", json!([]));
    salt["finish"]["channels"]["base_color"]["settings"] = json!({"color": "#f4f4f0"});
    server.edit(&mut p, json!([{"edit": "add_layer", "inside": null, "index": 2, "layer": salt}]));
    assert_ne!(seen(&server, id, json!({"page": "t"})), before);
    assert_eq!(seen(&server, id, json!({"page": "t", "snapshot": kept})), before, "the snapshot as it was");

    server.kill();
    let server = Server::on(data.path());
    let p = server.get(&format!("/api/projects/{id}"));
    assert_eq!(p["snapshots"][0]["name"], "Before the salt");
    let back = format!("{snapshots}/{kept}/return");
    let (status, kind, _) = problem(server.try_post(&back, json!({"revision": 1})));
    assert_eq!((status, kind.as_str()), (409, "stale"));
    let p = ok(server.try_post(&back, json!({"revision": p["revision"]})));
    assert_eq!(p["undo"], "go back to Before the salt");
    assert_eq!(p["document"]["layers"].as_array().unwrap().len(), 2);
    let p = server.post(&format!("/api/projects/{id}/undo"), json!({"revision": p["revision"]}));
    assert_eq!(p["document"]["layers"].as_array().unwrap().len(), 3, "undo brings the salt back");

    let one = format!("{snapshots}/{kept}");
    let p = ok(server.request("DELETE", &one).send().unwrap());
    assert!(p["snapshots"].as_array().unwrap().is_empty());
    assert_eq!(problem(server.try_post(&back, json!({"revision": p["revision"]}))).0, 404);
    let p = server.post(&format!("{one}/restore"), json!({}));
    assert_eq!(p["snapshots"].as_array().unwrap().len(), 1);
    let (status, _, words) = problem(server.try_post(&snapshots, json!({"name": "  "})));
    assert!(status == 422 && words.contains("name"), "{words}");
    assert_eq!(problem(server.try_post("/api/projects/999/snapshots", json!({"name": "x"}))).0, 404);
}

//! Patches over HTTP: squares of larger textures, of the project as it is kept.

use crate::common::{Server, lay};
use serde_json::{Value, json};

/// How patches came, and their pixels.
fn patches(server: &Server, id: i64, size: u32, places: Value) -> (Value, Vec<u8>) {
    let wanted = json!({"page": "one", "size": size, "places": places});
    let answer = server.try_post(&format!("/api/projects/{id}/patches"), wanted);
    assert_eq!(answer.status(), 200, "{:?}", answer.text());
    let bytes = answer.bytes().unwrap();
    let length = u32::from_le_bytes(bytes[..4].try_into().unwrap()) as usize;
    (serde_json::from_slice(&bytes[4..4 + length]).unwrap(), bytes[4 + length..].to_vec())
}

fn clouded(server: &Server) -> Value {
    let mut p = server.project();
    let steps = json!([{"kind": "perlin", "join": "replace"}, {"kind": "threshold", "join": "replace"}]);
    server.edit(&mut p, json!([{"edit": "set_draft_size", "size": 256}, lay("Spots", steps)]));
    p
}

#[test]
fn patches_come_with_all_their_maps_and_follow_what_is_kept() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = clouded(&server);
    let id = p["id"].as_i64().unwrap();
    let (told, pixels) =
        patches(&server, id, 1024, json!([{"sheet": 0, "x": 1, "y": 1}, {"sheet": 0, "x": 3, "y": 3}]));
    assert_eq!((&told["side"], &told["margin"]), (&json!(256), &json!(4)));
    assert_eq!(told["maps"], json!(["base_color", "orm", "normal"]));
    assert_eq!(told["revision"], p["revision"]);
    let one = 264 * 264 * 4 * 3;
    assert_eq!(pixels.len(), 2 * one, "each is square, also where the sheet ends");
    let again = patches(&server, id, 1024, json!([{"sheet": 0, "x": 3, "y": 3}])).1;
    assert!(again == pixels[one..], "the same whatever it is asked for with");
    let softer = json!({"edit": "set_param", "target": {"layer": "l1", "step": "s2", "key": "cut"}, "value": 0.6});
    server.edit(&mut p, json!([softer]));
    let (told, other) = patches(&server, id, 1024, json!([{"sheet": 0, "x": 1, "y": 1}]));
    assert_eq!(told["revision"], p["revision"]);
    assert!(other != pixels[..one], "what was kept is seen");
}

#[test]
fn a_patch_at_the_draft_s_size_holds_the_draft_s_pixels() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let id = clouded(&server)["id"].as_i64().unwrap();
    let view = server.post(&format!("/api/projects/{id}/evaluate"), json!({"page": "one"}));
    let whole = server.bytes(&format!("/api/pixels/{}", view["base_color"].as_str().unwrap()));
    let pixels = patches(&server, id, 256, json!([{"sheet": 0, "x": 0, "y": 0}])).1;
    let row = |y: usize| &pixels[((y + 4) * 264 + 4) * 4..((y + 4) * 264 + 260) * 4];
    assert!((0..256).flat_map(row).eq(&whole), "to the byte");
}

#[test]
fn what_is_no_patch_is_refused_with_a_sentence() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let id = clouded(&server)["id"].as_i64().unwrap();
    let many: Vec<Value> = (0..40).map(|k| json!({"sheet": 0, "x": k, "y": 0})).collect();
    for (size, places) in [
        (1000, json!([])),
        (16384, json!([])),
        (1024, json!([{"sheet": 0, "x": 4, "y": 0}])),
        (1024, json!([{"sheet": 7, "x": 0, "y": 0}])),
        (8192 * 2, json!(many)),
    ] {
        let wanted = json!({"page": "one", "size": size, "places": places});
        let answer = server.try_post(&format!("/api/projects/{id}/patches"), wanted);
        assert_eq!(answer.status(), 404, "{size}");
        assert!(answer.text().unwrap().contains("power of two from 256 to 8192"));
    }
}

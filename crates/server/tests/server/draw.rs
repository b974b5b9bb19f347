//! Pixels that come with their answer: while something moves, at rest, and never twice.

use std::collections::BTreeMap;

use crate::common::{Server, lay, layout};
use serde_json::{Value, json};

/// An answer taken apart: the evaluation, what is said of each thing that is sent, and its bytes.
fn sent(server: &Server, id: i64, wanted: Value, holds: &[String]) -> (Value, Vec<(Value, Vec<u8>)>) {
    let answer = server.try_post(&format!("/api/projects/{id}/draw"), json!({"wanted": wanted, "holds": holds}));
    assert_eq!(answer.status(), 200, "{:?}", answer.text());
    let bytes = answer.bytes().unwrap();
    let length = u32::from_le_bytes(bytes[..4].try_into().unwrap()) as usize;
    let mut told: Value = serde_json::from_slice(&bytes[4..4 + length]).unwrap();
    let mut at = 4 + length;
    let mut all = vec![];
    for sent in told["sent"].as_array().unwrap() {
        let next = at + sent["bytes"].as_u64().unwrap() as usize;
        all.push((sent.clone(), bytes[at..next].to_vec()));
        at = next;
    }
    assert_eq!(at, bytes.len(), "nothing else comes");
    (told["view"].take(), all)
}

/// The evaluation, and the bytes that came with it by their address.
fn drawn(server: &Server, id: i64, wanted: Value, holds: &[String]) -> (Value, BTreeMap<String, Vec<u8>>) {
    let (view, all) = sent(server, id, wanted, holds);
    (view, all.into_iter().map(|(sent, bytes)| (text(&sent["address"]), bytes)).collect())
}

/// Draws as a page does that keeps all that it gets, what it got last at the end; how many bytes came.
fn drawn_upon(server: &Server, id: i64, wanted: Value, held: &mut Vec<(String, Vec<u8>)>) -> (Value, usize) {
    let holds: Vec<String> = held.iter().map(|(address, _)| address.clone()).collect();
    let (view, all) = sent(server, id, wanted, &holds);
    let bytes = all.iter().map(|(_, bytes)| bytes.len()).sum();
    for (sent, mut bytes) in all {
        if let Some(over) = sent.get("over") {
            let of = &held.iter().find(|(address, _)| over["address"] == **address).expect("it is one that is held").1;
            let (mut whole, mut from) = (of.clone(), 0);
            for run in over["runs"].as_array().unwrap() {
                let [start, length] = [0, 1].map(|k| run[k].as_u64().unwrap() as usize);
                whole[start..start + length].copy_from_slice(&bytes[from..from + length]);
                from += length;
            }
            assert_eq!(from, bytes.len(), "the runs are all that comes");
            bytes = whole;
        }
        held.push((text(&sent["address"]), bytes));
    }
    (view, bytes)
}

/// A project whose coat wears by a reading, with settings that are measured in no time.
fn worn(server: &Server) -> Value {
    let mut p = server.project();
    let rays = json!({"edit": "set_param", "target": {"reading": "curvature", "key": "rays"}, "value": 8});
    let open = json!({"edit": "set_param", "target": {"reading": "occlusion", "key": "rays"}, "value": 4});
    let steps = json!([{"kind": "edges", "join": "replace"}, {"kind": "perlin", "join": "multiply"}]);
    server.edit(&mut p, json!([{"edit": "set_draft_size", "size": 256}, rays, open, lay("Wear", steps)]));
    p
}

fn text(of: &Value) -> String {
    of.as_str().unwrap().to_owned()
}

#[test]
fn pixels_come_with_the_answer_and_only_those_that_the_page_has_not() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let id = worn(&server)["id"].as_i64().unwrap();
    let whole = json!({"page": "one", "layer": "l1", "tiles": true, "mask": true});
    let (view, pixels) = drawn(&server, id, whole.clone(), &[]);
    let plain = server.post(
        &format!("/api/projects/{id}/evaluate"),
        json!({"page": "two", "layer": "l1", "tiles": true, "mask": true}),
    );
    for map in ["base_color", "orm", "normal", "mask"] {
        assert_eq!(view[map], plain[map]);
        assert_eq!(pixels[&text(&view[map])], server.bytes(&format!("/api/pixels/{}", text(&view[map]))), "{map}");
    }
    assert_eq!((&view["histogram"], &view["coverage"]), (&plain["histogram"], &plain["coverage"]));
    assert_eq!(view["tiles"].as_array().unwrap().len(), 2);
    assert!(pixels.contains_key(&text(&view["tiles"][0]["pixels"])));
    // What the page has doesn't come again; what changed comes.
    let holds: Vec<String> = pixels.keys().cloned().collect();
    let (_, again) = drawn(&server, id, whole.clone(), &holds);
    assert!(again.is_empty(), "{:?}", again.keys());
    let mut tried = whole;
    let target = json!({"layer": "l1", "channel": "roughness", "key": "value"});
    tried["edits"] = json!([{"edit": "set_channel", "layer": "l1", "channel": "roughness", "on": true},
        {"edit": "set_param", "target": target, "value": 0.9}]);
    let (other, changed) = drawn(&server, id, tried, &holds);
    assert_eq!(changed.keys().collect::<Vec<_>>(), [&text(&other["orm"])]);
}

#[test]
fn what_differs_comes_alone_and_makes_the_same_pixels() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = worn(&server);
    let id = p["id"].as_i64().unwrap();
    server.edit(&mut p, json!([lay("Hand wear", json!([{"kind": "strokes"}]))]));
    let named = |name: &str| p["document"]["layers"].as_array().unwrap().iter().find(|l| l["name"] == *name).unwrap();
    let (coat, step) = (text(&named("Hand wear")["id"]), text(&named("Hand wear")["mask"]["steps"][0]["id"]));
    let noise = text(&named("Wear")["mask"]["steps"][1]["id"]);
    let stroke = |z: f64| {
        let points = json!([[-4.0, 20.0, z, 0.0, 1.0, 0.0, 1.0, 0], [4.0, 20.0, z, 0.0, 1.0, 0.0, 1.0, 90]]);
        let stroke = json!({"points": points, "radius": 1.0, "hardness": 0.7, "flow": 1.0, "value": 1.0});
        json!({"edit": "add_stroke", "layer": coat, "step": step, "stroke": stroke})
    };
    let target = json!({"layer": "l1", "step": noise, "key": "seed"});
    let seed = |v: i64| json!({"edit": "set_param", "target": target, "value": v});
    let strong = |v: f64| json!({"edit": "set_param", "target": {"layer": "l1", "key": "opacity"}, "value": v});
    let mut held = vec![];
    let whole = drawn_upon(&server, id, json!({"page": "one"}), &mut held).1;
    // Strokes here and there, what changes everywhere, another size between, and back again.
    let changes = [stroke(-9.0), stroke(0.0), seed(7), stroke(9.0), strong(0.5), stroke(3.0), seed(1), strong(1.0)];
    for (k, change) in changes.into_iter().enumerate() {
        let drawn_here = change["edit"] == "add_stroke";
        for size in [64, 256] {
            let mut wanted = json!({"page": "one", "edits": [change]});
            if size < 256 {
                wanted["size"] = json!(size);
            }
            let (view, bytes) = drawn_upon(&server, id, wanted, &mut held);
            for map in ["base_color", "orm", "normal"] {
                let address = text(&view[map]);
                let ours = &held.iter().rev().find(|(a, _)| *a == address).expect("it is held").1;
                assert!(*ours == server.bytes(&format!("/api/pixels/{address}")), "{k}: {map} at {size}");
            }
            if drawn_here && size == 256 {
                assert!(bytes > 0 && bytes * 5 < whole, "{k}: a small stroke sends {bytes} bytes of {whole}");
            }
        }
        if drawn_here {
            server.edit(&mut p, json!([change]));
        }
    }
}

#[test]
fn while_something_moves_it_is_smaller_and_nothing_of_that_stays_in_what_is_sharp() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = worn(&server);
    let id = p["id"].as_i64().unwrap();
    let moving =
        |size: u32| drawn(&server, id, json!({"page": "one", "size": size, "layer": "l1", "tiles": true}), &[]);
    let (view, pixels) = moving(64);
    assert_eq!((&view["size"], pixels[&text(&view["base_color"])].len()), (&json!(64), 64 * 64 * 4));
    for unread in ["coverage", "histogram", "tiles"] {
        assert_eq!(view[unread], json!([]), "{unread} is not worked out");
    }
    // A size that is none is the next smaller one that is; none at all is as small as it gets.
    assert_eq!(moving(200).0["size"], 128);
    assert_eq!(moving(0).0["size"], 64);
    assert_eq!(moving(100_000).0["size"], 256);
    // What comes to rest is what a server gives that never saw anything move.
    let (sharp, sharp_pixels) = drawn(&server, id, json!({"page": "one"}), &[]);
    drop(server);
    let server = Server::on(data.path());
    let (fresh, fresh_pixels) = drawn(&server, id, json!({"page": "one"}), &[]);
    assert_eq!(sharp["size"], 256);
    assert_eq!(sharp["base_color"], fresh["base_color"]);
    assert!(sharp_pixels == fresh_pixels);
    // A draft of the smaller size is measured there, which is another thing than what is drawn down to it.
    server.edit(&mut p, json!([{"edit": "set_draft_size", "size": 64}]));
    let (small, small_pixels) = drawn(&server, id, json!({"page": "one"}), &[]);
    assert_ne!(small["base_color"], view["base_color"]);
    let (a, b) = (&small_pixels[&text(&small["base_color"])], &pixels[&text(&view["base_color"])]);
    let apart = a.iter().zip(b).map(|(a, b)| f64::from(a.abs_diff(*b))).sum::<f64>() / a.len() as f64;
    assert!(apart < 8.0, "but they look alike: {apart} of 255");
}

#[test]
fn a_drag_that_needs_another_measurement_than_what_is_kept_gets_it() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = worn(&server);
    let id = p["id"].as_i64().unwrap();
    let asked = |edits: &Value| {
        let wanted = json!({"page": "one", "size": 64, "edits": edits});
        let (view, pixels) = drawn(&server, id, wanted, &[]);
        pixels[&text(&view["base_color"])].clone()
    };
    let before = asked(&json!([]));
    // Thickness, which nothing needed so far; and then edges read off another curvature.
    let thin = json!([{"edit": "add_steps", "layer": "l1", "index": 2, "steps": [{"kind": "thickness", "join": "subtract", "settings": {}}]}]);
    let coarser = json!([{"edit": "set_param", "target": {"reading": "curvature", "key": "rays"}, "value": 2}]);
    for edits in [thin, coarser] {
        let tried = asked(&edits);
        assert_ne!(tried, before, "{edits}");
        assert_eq!(asked(&json!([])), before, "and what is kept is as it was");
        let mut kept = p.clone();
        server.edit(&mut kept, edits);
        assert_eq!(asked(&json!([])), tried, "as it is once it is kept");
        p = server.post(&format!("/api/projects/{id}/undo"), json!({"revision": kept["revision"]}));
    }
}

#[test]
fn at_rest_edges_are_smooth_as_in_a_hand_off() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = server.project();
    let id = p["id"].as_i64().unwrap();
    let steps = json!([{"kind": "worley", "join": "replace", "settings": {"size": 2, "output": "cell"}}, {"kind": "threshold", "join": "replace", "settings": {"cut": 0.5, "softness": 0.0}}]);
    server.edit(&mut p, json!([{"edit": "set_draft_size", "size": 256}, lay("Chips", steps)]));
    let color = json!({"layer": "l1", "channel": "base_color", "key": "color"});
    server.edit(&mut p, json!([{"edit": "set_param", "target": color, "value": "#000000"}]));
    let asked = |smooth: bool| {
        let (view, pixels) = drawn(&server, id, json!({"page": "one", "smooth": smooth}), &[]);
        (pixels[&text(&view["base_color"])].clone(), view["coverage"].clone())
    };
    let ((hard, covered), (smooth, also)) = (asked(false), asked(true));
    // Texels that are neither the coat nor what lies below it.
    let between = |bytes: &[u8]| {
        let below = bytes.iter().step_by(4).max().unwrap();
        let some = bytes.iter().step_by(4).filter(|v| **v > 0 && *v < below).count();
        some as f64 / (bytes.len() / 4) as f64
    };
    assert!(between(&hard) < 0.01, "one sample a texel is one or the other: {}", between(&hard));
    assert!(between(&smooth) > 0.05, "four places give what lies between: {}", between(&smooth));
    assert_eq!(covered, also, "the coverage knows no bias");
    let layout = layout(256, "{map}", &["base_color"], 1.0);
    let done = server.post(&format!("/api/projects/{id}/handoff/write"), layout);
    let path = format!("/api/downloads/{}/{}", done["download"].as_str().unwrap(), done["name"].as_str().unwrap());
    let mut zip = zip::ZipArchive::new(std::io::Cursor::new(server.bytes(&path))).unwrap();
    let name = text(&done["files"][0]["name"]);
    let mut png = vec![];
    std::io::Read::read_to_end(&mut zip.by_name(&name).unwrap(), &mut png).unwrap();
    let mut reader = png::Decoder::new(std::io::Cursor::new(png)).read_info().unwrap();
    let mut written = vec![0; reader.output_buffer_size().unwrap()];
    let info = reader.next_frame(&mut written).unwrap();
    assert_eq!((info.width, info.color_type), (256, png::ColorType::Rgb));
    let seen: Vec<u8> = smooth.chunks_exact(4).flat_map(|p| p[..3].to_vec()).collect();
    assert!(written[..info.buffer_size()] == seen, "what is seen at rest is what is written");
}

#[test]
fn an_answer_says_where_its_time_went() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let id = worn(&server)["id"].as_i64().unwrap();
    for (path, body) in [("draw", json!({"wanted": {"page": "one"}})), ("evaluate", json!({"page": "one"}))] {
        let answer = server.try_post(&format!("/api/projects/{id}/{path}"), body);
        let timing = answer.headers()["server-timing"].to_str().unwrap().to_owned();
        let parts: Vec<&str> = timing.split(", ").map(|part| part.split(';').next().unwrap()).collect();
        for part in ["waiting", "plan", "packing", "normals"] {
            assert!(parts.contains(&part), "{timing}");
        }
        assert!(timing.split(", ").all(|part| part.split(";dur=").nth(1).unwrap().parse::<f64>().is_ok()), "{timing}");
    }
}

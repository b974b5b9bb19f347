//! Nothing is lost and nothing hides: measuring beside edits, jobs beside jobs, files of any size, changes that other windows hear of.

use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::{Duration, Instant};

use crate::common::{Server, lay, layout, problem, until};
use serde_json::{Value, json};

/// Far more rays than anybody waits for.
fn endless(server: &Server, p: &mut Value) {
    let rays = json!({"edit": "set_param", "target": {"reading": "occlusion", "key": "rays"}, "value": 1024});
    server.edit(p, json!([{"edit": "set_draft_size", "size": 2048}, rays]));
}

/// So few that measuring takes no time to speak of.
fn hasty() -> Value {
    json!({"edit": "set_param", "target": {"reading": "occlusion", "key": "rays"}, "value": 4})
}

fn kinds(server: &Server, id: i64) -> Vec<String> {
    server.jobs(id).iter().map(|j| j["kind"].as_str().unwrap().to_owned()).collect()
}

#[test]
fn measuring_never_stands_in_the_way_of_an_edit() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = server.project();
    let id = p["id"].as_i64().unwrap();
    endless(&server, &mut p);
    let begun = server.post(&format!("/api/projects/{id}/measure"), json!({"kinds": ["occlusion"]}));
    assert_eq!(kinds(&server, id), ["measuring"]);
    server.edit(&mut p, json!([lay("Grime", json!([]))]));
    assert_eq!(p["undo"], "lay Grime");
    p = server.post(&format!("/api/projects/{id}/undo"), json!({"revision": p["revision"]}));
    assert_eq!(p["redo"], "lay Grime");
    assert_eq!(server.jobs(id)[0]["job"], begun["job"], "it still goes on");
    server.stop_all(id, || server.jobs(id).is_empty());
    drop(server);
    let server = Server::on(data.path());
    let after = server.get(&format!("/api/projects/{id}"));
    assert_eq!((&after["redo"], &after["stamp"]), (&p["redo"], &p["stamp"]), "kept all the while");
}

#[test]
fn an_edit_that_needs_a_measurement_leaves_a_hand_off_alone_and_each_has_its_own_stop() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = server.project();
    let id = p["id"].as_i64().unwrap();
    let cloud =
        |seed: u32| json!({"kind": "perlin", "join": "add", "settings": {"size": 3, "octaves": 10, "seed": seed}});
    let steps: Vec<_> = (0..12).map(cloud).collect();
    server.edit(&mut p, json!([{"edit": "set_draft_size", "size": 256}, hasty(), lay("Heavy", json!(steps))]));
    let layout = layout(2048, "{piece}_{map}", &["base_color"], 1.0);
    let written = std::thread::scope(|scope| {
        let writing = scope.spawn(|| server.try_post(&format!("/api/projects/{id}/handoff/write"), layout));
        until("files are being written", || kinds(&server, id).contains(&"hand-off".to_owned()));
        let rays = json!({"edit": "set_param", "target": {"reading": "thickness", "key": "rays"}, "value": 1024});
        let worn = lay("Worn", json!([{"kind": "thickness", "join": "replace"}]));
        server.edit(&mut p, json!([{"edit": "set_draft_size", "size": 1024}, rays, worn]));
        server.post(&format!("/api/projects/{id}/evaluate"), json!({"page": "t", "provisional": true}));
        // Both go on; the measuring is stopped, the writing is not.
        for job in server.jobs(id).iter().filter(|j| j["kind"] == "measuring") {
            server.try_post(&format!("/api/projects/{id}/jobs/{}/stop", job["job"]), json!({}));
        }
        writing.join().unwrap()
    });
    assert_eq!(written.status(), 200, "{:?}", written.text());
}

#[test]
fn what_one_request_wishes_to_be_measured_no_other_stops_until_its_own_page_moves_on() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = server.project();
    let id = p["id"].as_i64().unwrap();
    // Far more rays than anybody waits for, in two layers that are hidden.
    let rays = |of: &str| json!({"edit": "set_param", "target": {"reading": of, "key": "rays"}, "value": 1024});
    let reads = |name: &str, step: &str| lay(name, json!([{"kind": step, "join": "replace"}]));
    let hide = |layer: &str| json!({"edit": "set_layer", "layer": layer, "shown": false});
    let hidden = json!([rays("thickness"), rays("curvature"), reads("Thin", "thickness"), reads("Worn", "edges")]);
    server.edit(&mut p, json!([{"edit": "set_draft_size", "size": 1024}, hasty()]));
    server.edit(&mut p, hidden);
    server.edit(&mut p, json!([hide("l1"), hide("l2")]));
    server.post(&format!("/api/projects/{id}/measure"), json!({"kinds": ["occlusion"], "wait": true}));
    let ask = |page: &str, layer: Option<&str>| {
        let request = json!({"page": page, "provisional": true, "layer": layer, "mask": layer.is_some()});
        server.post(&format!("/api/projects/{id}/evaluate"), request);
    };
    let measuring = || -> Vec<Value> {
        server.jobs(id).into_iter().filter(|j| j["kind"] == "measuring").map(|j| j["job"].clone()).collect()
    };
    ask("one", Some("l1"));
    let [thin] = &measuring()[..] else { panic!("the mask of the hidden layer is measured for") };
    // Another page wishes for something else, and looks need none of it.
    ask("two", Some("l2"));
    let still = json!({"eye": null, "target": [0, 0, 0], "fov": 28, "width": 48, "height": 32, "samples": 1,
        "light": "quay", "turn": 0, "brightness": 1, "rim": 0, "exposure": 0, "surround": "grey", "ground": false, "turntable": 1});
    let look = server.try_post(&format!("/api/projects/{id}/look"), json!({"edits": [], "still": still}));
    assert!(look.status().is_success(), "{:?}", look.text());
    assert!(measuring().len() == 2 && measuring().contains(thin), "both go on: {:?}", measuring());
    // Whoever wished for it looks at something else.
    ask("one", None);
    until("it is stopped", || measuring().len() == 1);
    assert!(!measuring().contains(thin), "and the other page's is not");
    // The other page is closed. A connection of it that breaks off while another stands takes nothing with it: a third page, closed after that, is given up before.
    let wished_by_two = measuring();
    let first = server.listen("two");
    let second = server.listen("two");
    ask("three", Some("l1"));
    until("it is measured again", || measuring().len() == 2);
    let third = server.listen("three");
    drop(first);
    drop(third);
    until("what the closed page wished for is stopped", || measuring().len() == 1);
    assert_eq!(measuring(), wished_by_two, "and what the open one wishes for goes on");
    drop(second);
    until("that is stopped, too", || measuring().is_empty());
}

#[test]
fn what_was_written_outlives_a_cache_that_is_too_small_for_it() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::with(data.path(), &["--addr", "127.0.0.1:0", "--memory", "256m"], &[]);
    let mut p = server.project();
    let id = p["id"].as_i64().unwrap();
    server.edit(
        &mut p,
        json!([hasty(), lay("Grain", json!([{"kind": "perlin", "join": "replace", "settings": {"size": 0.2}}]))]),
    );
    let layout = layout(2048, "{piece}_{map}", &["base_color", "height"], 1.0);
    let done = server.post(&format!("/api/projects/{id}/handoff/write"), layout);
    let path = format!("/api/downloads/{}/valve.zip", done["download"].as_str().unwrap());
    // Far more pixels than are held.
    for size in [512, 1024] {
        server.edit(&mut p, json!([{"edit": "set_draft_size", "size": size}]));
        server.post(&format!("/api/projects/{id}/evaluate"), json!({"page": "t"}));
    }
    let bytes = server.bytes(&path);
    assert_eq!(bytes.len() as u64, done["bytes"].as_u64().unwrap());
    assert_eq!(&bytes[..2], b"PK");
    assert_eq!(problem(server.request("GET", "/api/downloads/0000/x.zip").send().unwrap()).0, 410);
    drop(server);
    let server = Server::on(data.path());
    assert_eq!(server.bytes(&path), bytes, "and a restart");
}

#[test]
fn every_change_has_a_higher_stamp_undo_and_snapshots_included() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = server.project();
    let id = p["id"].as_i64().unwrap();
    let stamp = |p: &Value| p["stamp"].as_i64().unwrap();
    let mut last = stamp(&p);
    let mut higher = |p: &Value| {
        assert!(stamp(p) > last, "{} after {last}", stamp(p));
        last = stamp(p);
    };
    server.edit(&mut p, json!([lay("Grime", json!([]))]));
    higher(&p);
    p = server.post(&format!("/api/projects/{id}/undo"), json!({"revision": p["revision"]}));
    higher(&p);
    p = server.post(&format!("/api/projects/{id}/redo"), json!({"revision": p["revision"]}));
    higher(&p);
    p = server.post(&format!("/api/projects/{id}/snapshots"), json!({"name": "now"}));
    higher(&p);
    let snapshot = p["snapshots"][0]["id"].as_i64().unwrap();
    p = crate::common::ok(
        server.request("DELETE", &format!("/api/projects/{id}/snapshots/{snapshot}")).send().unwrap(),
    );
    higher(&p);
}

#[test]
fn relief_beyond_the_white_level_is_spoken_of_with_the_level_that_fits() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = server.project();
    let id = p["id"].as_i64().unwrap();
    let high = json!({"edit": "set_channel", "layer": "l1", "channel": "height", "on": true});
    let value =
        json!({"edit": "set_param", "target": {"layer": "l1", "channel": "height", "key": "value"}, "value": 7.25});
    server.edit(&mut p, json!([{"edit": "set_draft_size", "size": 64}, hasty(), lay("Clinker", json!([]))]));
    server.edit(&mut p, json!([high, value]));
    server.post(&format!("/api/projects/{id}/evaluate"), json!({"page": "t"}));
    let asked = |range: f64| layout(256, "{piece}_{map}", &["height"], range);
    let plan = |range: f64| server.post(&format!("/api/projects/{id}/handoff/plan"), asked(range));
    let low = plan(5.0);
    assert_eq!(low["fits"].as_f64().map(|f| (f * 10.0).round() / 10.0), Some(7.3));
    assert!(low["problems"].to_string().contains("cut off"), "{}", low["problems"]);
    let fits = plan(7.3);
    assert!(fits["fits"].is_null() && !fits["problems"].to_string().contains("cut off"));
}

/// Edits until the server is gone: the newest revision that was acknowledged, and the name given with it.
/// Each answer is counted where others see it.
fn edit_until_gone(url: &str, id: i64, who: &str, answered: &AtomicUsize) -> Option<(i64, String)> {
    let client = reqwest::blocking::Client::builder().timeout(Duration::from_secs(10)).build().unwrap();
    let path = format!("{url}/api/projects/{id}");
    let ask = |r: reqwest::blocking::RequestBuilder| r.send().ok()?.json::<Value>().ok();
    let mut acknowledged = None;
    let mut revision = ask(client.get(&path))?["revision"].as_i64();
    for n in 0.. {
        let name = format!("{who} {n}");
        let edit = json!({"revision": revision, "edits": [{"edit": "rename", "name": name}]});
        let Some(answer) = ask(client.post(format!("{path}/edit")).json(&edit)) else { break };
        revision = answer["revision"].as_i64();
        if answer["document"]["name"] == name {
            acknowledged = revision.map(|r| (r, name));
            answered.fetch_add(1, Ordering::Relaxed);
        }
    }
    acknowledged
}

#[test]
fn two_hundred_kills_while_two_clients_edit_lose_nothing_that_was_acknowledged() {
    let data = tempfile::tempdir().unwrap();
    let mut server = Server::on(data.path());
    let id = server.project()["id"].as_i64().unwrap();
    let (mut newest, mut all) = (0, 0);
    for round in 0..200u64 {
        let url = server.url.clone();
        let answered = Arc::new(AtomicUsize::new(0));
        let clients: Vec<_> = ["left", "right"]
            .map(|who| {
                let (url, answered) = (url.clone(), answered.clone());
                std::thread::spawn(move || edit_until_gone(&url, id, who, &answered))
            })
            .into();
        // At another moment each time: half of them once somebody was answered, however slow the machine is, and
        // half whenever it may be: some while the first edit is being written.
        if round % 2 == 0 {
            until("somebody was answered", || answered.load(Ordering::Relaxed) > 0);
        }
        let clock = Instant::now();
        until("a while went by", || clock.elapsed() > Duration::from_micros(3000 + round * 7919 % 23_000));
        drop(server);
        let acknowledged: Vec<(i64, String)> = clients.into_iter().filter_map(|c| c.join().unwrap()).collect();
        all += acknowledged.len();
        server = Server::on(data.path());
        let now = server.get(&format!("/api/projects/{id}"));
        let revision = now["revision"].as_i64().unwrap();
        for (acknowledged, name) in acknowledged {
            assert!(revision >= acknowledged, "round {round}: {revision} is in force, {acknowledged} was acknowledged");
            assert!(revision > acknowledged || now["document"]["name"] == name);
        }
        assert!(revision >= newest, "nothing of an earlier round is gone");
        newest = revision;
    }
    assert!(all >= 100, "clients were answered: {all}");
}

#[test]
fn what_a_page_was_told_of_can_be_fetched_whatever_others_ask_for_meanwhile() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::with(data.path(), &["--addr", "127.0.0.1:0", "--memory", "256m"], &[]);
    let mut p = server.project();
    let id = p["id"].as_i64().unwrap();
    server.edit(&mut p, json!([{"edit": "set_draft_size", "size": 2048}, lay("Paint", json!([]))]));
    let colored = |page: &str, color: &str| {
        let target = json!({"layer": "l1", "channel": "base_color", "key": "color"});
        let edit = json!({"edit": "set_param", "target": target, "value": color});
        let path = format!("/api/projects/{id}/evaluate");
        server.post(&path, json!({"page": page, "edits": [edit]}))["base_color"].as_str().unwrap().to_owned()
    };
    let finder = |chunk: usize, kind: &str| {
        let step = json!({"kind": kind, "join": "replace"});
        let add = json!({"edit": "add_step", "layer": "l1", "index": 0, "step": step});
        let path = format!("/api/projects/{id}/preview");
        let page = format!("one/finder/{chunk}");
        server.post(&path, json!({"page": page, "candidates": [add]}))[0]["line"].as_str().unwrap().to_owned()
    };
    // A finder that asks in three parts, and what the page shows.
    let tiles = [finder(0, "perlin"), finder(1, "facing"), finder(2, "worley")];
    let shown = colored("one", "#112233");
    // Another page fills what is held for all, three times over.
    let others: Vec<String> = (0..9).map(|k| colored("two", &format!("#00{k}0{k}0"))).collect();
    let fetch = |address: &str| server.request("GET", &format!("/api/pixels/{address}")).send().unwrap();
    for address in tiles.iter().chain([&shown, &others[7], &others[8]]) {
        let answer = fetch(address);
        assert_eq!(answer.status(), 200);
        assert!(answer.bytes().unwrap().len() >= 92 * 74 * 4);
    }
    // What nobody was told of lately is gone, and says so: nothing empty is kept by browsers.
    until("the oldest is let go", || fetch(&others[0]).status() == 410);
    let gone = fetch(&others[0]);
    assert!(!gone.headers().get("cache-control").is_some_and(|c| c.to_str().unwrap().contains("immutable")));
}

//! The Surface room over HTTP: meshes swapped, pictures brought in, parts renamed, and measurements that know what they were taken from.

use std::io::Write;
use std::time::{Duration, Instant};

use crate::common::{Server, cube, lay, ok, problem};
use serde_json::{Value, json};

fn state<'a>(project: &'a Value, kind: &str) -> &'a Value {
    project["measurements"].as_array().unwrap().iter().find(|m| m["kind"] == kind).unwrap()
}

fn small(server: &Server) -> Value {
    let mut p = server.project();
    server.edit(&mut p, json!([{"edit": "set_draft_size", "size": 64}]));
    p
}

fn swap(server: &Server, p: &Value, name: &str, bytes: impl Into<Vec<u8>>) -> reqwest::blocking::Response {
    server.upload(&format!("/api/projects/{}/mesh?name={name}&unit=mm&revision={}", p["id"], p["revision"]), bytes)
}

fn parts(p: &Value) -> Vec<&str> {
    p["piece"]["parts"].as_array().unwrap().iter().map(|p| p["name"].as_str().unwrap()).collect()
}

/// The cube with its slots renamed and a chamfer's worth larger.
fn second_version() -> String {
    cube().replace("usemtl top", "usemtl material_7").replace("v 20", "v 21").replace("v -20", "v -21")
}

#[test]
fn a_swapped_mesh_keeps_the_work_and_undo_brings_the_old_one_back() {
    let data = tempfile::tempdir().unwrap();
    let mut server = Server::on(data.path());
    let mut p = small(&server);
    let mask = json!([{"kind": "part", "join": "replace", "settings": {"part": "top"}}]);
    server.edit(&mut p, json!([lay("Lid paint", mask)]));
    let id = p["id"].as_i64().unwrap();
    let ask = json!({"page": "t", "layer": "l1", "mask": true});
    let covered = |p: &Value| {
        assert_eq!(p["id"], id);
        server.post(&format!("/api/projects/{id}/evaluate"), ask.clone())["coverage"][0]["mask"].as_f64().unwrap()
    };
    let before = covered(&p);
    assert!((before - 1.0 / 6.0).abs() < 0.02, "{before}");
    assert_eq!(state(&server.get(&format!("/api/projects/{id}")), "occlusion")["state"], "fresh");

    let new = ok(swap(&server, &p, "cube2.obj", second_version()));
    assert_eq!(parts(&new), ["sides", "top"], "the slot goes on under its old name, by its place");
    assert_eq!(new["undo"], "swap the mesh for cube2.obj");
    let swapped = &new["document"]["intake"]["swapped"];
    assert_eq!((swapped["from"].as_str(), &swapped["placed"]), (Some("cube.obj"), &json!([["top", "material_7"]])));
    assert_eq!(new["piece"]["size"], json!([42.0, 40.0, 40.0]));
    let stale = state(&new, "occlusion");
    assert_eq!(
        (stale["state"].as_str(), stale["why"].as_str()),
        (Some("stale"), Some("Measured before the mesh changed."))
    );
    assert!((covered(&new) - 1.0 / 6.0).abs() < 0.02);

    // It outlives a restart, and undo brings the mesh back with what was measured of it.
    drop(server);
    server = Server::on(data.path());
    let now = server.get(&format!("/api/projects/{id}"));
    assert_eq!(now["piece"]["file"], "cube2.obj");
    let old = server.post(&format!("/api/projects/{id}/undo"), json!({"revision": now["revision"]}));
    assert_eq!(
        (old["piece"]["file"].as_str(), old["document"]["layers"].clone()),
        (Some("cube.obj"), p["document"]["layers"].clone())
    );
    assert_eq!(state(&old, "occlusion")["state"], "fresh");
    let again = server.post(&format!("/api/projects/{id}/redo"), json!({"revision": old["revision"]}));
    assert_eq!(again["piece"]["file"], "cube2.obj");
}

#[test]
fn a_part_that_is_lost_is_listed_with_a_remedy_and_bad_meshes_change_nothing() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = small(&server);
    server.edit(
        &mut p,
        json!([lay("Lid paint", json!([{"kind": "part", "join": "replace", "settings": {"part": "top"}}]))]),
    );
    let one = "v 0 0 0\nv 10 0 0\nv 0 10 0\nvt 0 0\nvt 1 0\nvt 0 1\nusemtl other\nf 1/1 2/2 3/3\n";
    let new = ok(swap(&server, &p, "one.obj", one));
    let lost =
        new["piece"]["findings"].as_array().unwrap().iter().find(|f| f["what"].as_str().unwrap().contains("“top”"));
    assert!(
        lost.is_some_and(|f| f["serious"] == true && f["remedy"].as_str().unwrap().contains("pick another")),
        "{new}"
    );
    let swapped = &new["document"]["intake"]["swapped"];
    assert_eq!((&swapped["lost"], &swapped["fresh"]), (&json!(["sides", "top"]), &json!(["other"])));
    // Giving the part that name is what mends it.
    let named = json!([{"edit": "set_part", "part": "other", "was": "other", "name": "top"}]);
    let mended =
        server.post(&format!("/api/projects/{}/edit", p["id"]), json!({"revision": new["revision"], "edits": named}));
    assert!(!mended["piece"]["findings"].to_string().contains("“top”"));
    let seen_to = json!({"revision": mended["revision"], "edits": [{"edit": "settle_swap"}]});
    let mended = server.post(&format!("/api/projects/{}/edit", p["id"]), seen_to);
    assert!(mended["document"]["intake"]["swapped"].is_null());
    for (bytes, words) in [("v 0 0 0\n", "no triangle"), ("PK\u{3}\u{4}junk", "can't be read")] {
        let (status, _, said) = problem(swap(&server, &mended, "bad.obj", bytes));
        assert!(status == 422 && said.contains(words), "{status} {said}");
    }
    assert_eq!(problem(swap(&server, &p, "late.obj", one)).0, 409, "on a stale revision");
    assert_eq!(server.get(&format!("/api/projects/{}", p["id"]))["revision"], mended["revision"]);
}

#[test]
fn renaming_a_part_takes_the_masks_along() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = small(&server);
    server.edit(
        &mut p,
        json!([lay("Lid paint", json!([{"kind": "part", "join": "replace", "settings": {"part": "top"}}]))]),
    );
    server
        .edit(&mut p, json!([{"edit": "set_part", "part": "top", "was": "top", "name": "Hatch", "color": "#aa3311"}]));
    assert_eq!(parts(&p), ["sides", "Hatch"]);
    assert_eq!(p["piece"]["parts"][1]["color"], "#aa3311");
    assert_eq!(p["document"]["layers"][0]["mask"]["steps"][0]["settings"]["part"], "Hatch");
    assert_eq!(p["undo"], "rename part top");
    let wrong = json!({"revision": p["revision"], "edits": [{"edit": "set_part", "part": "top", "was": "Hatch", "color": "red"}]});
    let (status, _, said) = problem(server.try_post(&format!("/api/projects/{}/edit", p["id"]), wrong));
    assert!(status == 422 && said.contains("#rrggbb"), "{said}");
}

fn png(width: u32, height: u32, pixel: impl Fn(u32, u32) -> [u8; 4]) -> Vec<u8> {
    let rgba: Vec<u8> =
        (0..height).flat_map(|y| (0..width).map(move |x| (x, y))).flat_map(|(x, y)| pixel(x, y)).collect();
    dustcoat_core::handoff::png::rgba8(&rgba, width, height)
}

#[test]
fn pictures_stand_in_tell_parts_and_travel_with_the_project() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let p = small(&server);
    let id = p["id"].as_i64().unwrap();
    let bring = |p: &Value, name: &str, bytes: Vec<u8>| {
        server.upload(&format!("/api/projects/{id}/pictures?name={name}&revision={}", p["revision"]), bytes)
    };
    let halves = png(32, 16, |x, _| if x < 16 { [210, 30, 30, 255] } else { [30, 60, 210, 255] });
    let p = ok(bring(&p, "valve_id.png", halves));
    assert_eq!(p["document"]["intake"]["parts_by"], "picture");
    assert_eq!(parts(&p).len(), 2);
    let evaluated = server.post(&format!("/api/projects/{id}/evaluate"), json!({"page": "t", "parts": true}));
    let texels = server.bytes(&format!("/api/pixels/{}", evaluated["parts"].as_str().unwrap()));
    let of = |n: u8| texels.iter().filter(|t| **t == n).count();
    assert!(of(0) > 1000 && of(1) > 1000 && of(0) + of(1) + of(255) == 64 * 64);

    let shells = server.post(&format!("/api/projects/{id}/evaluate"), json!({"page": "t", "shells": true}));
    let texels = server.bytes(&format!("/api/pixels/{}", shells["shells"].as_str().unwrap()));
    assert!(texels.iter().all(|t| *t == 0 || *t == 255), "a cube is one shell");

    // A white picture in place of occlusion: nothing is measured, and the packed map is white.
    let p = ok(bring(&p, "valve_ao.png", png(8, 8, |_, _| [255; 4])));
    assert_eq!(p["stand_ins"], json!(["occlusion"]));
    let orm = |e: &Value| server.bytes(&format!("/api/pixels/{}", e["orm"].as_str().unwrap()));
    let white = server.post(&format!("/api/projects/{id}/evaluate"), json!({"page": "t"}));
    assert!(orm(&white).chunks_exact(4).all(|t| t[0] == 255));
    assert_eq!(state(&server.get(&format!("/api/projects/{id}")), "occlusion")["needed"], false);
    let mut used = p["document"]["intake"]["pictures"][1].clone();
    used["invert"] = true.into();
    let edit = json!({"revision": p["revision"], "edits": [{"edit": "set_picture", "picture": used}]});
    let p = server.post(&format!("/api/projects/{id}/edit"), edit);
    let black = server.post(&format!("/api/projects/{id}/evaluate"), json!({"page": "t"}));
    assert!(orm(&black).chunks_exact(4).filter(|t| t[0] == 0).count() > 2000, "turned round, it is black on the piece");

    let (status, _, said) = problem(bring(&p, "notes.png", b"not a picture".to_vec()));
    assert!(status == 422 && said.contains("notes.png"), "{said}");
    let packed = server.bytes(&format!("/api/projects/{id}/file"));
    let copy = ok(server.upload("/api/projects/file?name=copy.dustcoat", packed));
    assert_eq!(copy["document"], p["document"]);
    assert_eq!(copy["stand_ins"], json!(["occlusion"]));
}

#[test]
fn a_folder_brings_its_pictures_along() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut zip = zip::ZipWriter::new(std::io::Cursor::new(Vec::new()));
    let normal = png(4, 4, |_, _| [128, 128, 255, 255]);
    for (name, bytes) in
        [("prop/cube.obj", cube().into_bytes()), ("prop/cube_normal.png", normal), ("prop/read me.txt", b"x".to_vec())]
    {
        zip.start_file(name, zip::write::SimpleFileOptions::default()).unwrap();
        zip.write_all(&bytes).unwrap();
    }
    let p = ok(server.upload("/api/projects/file?name=prop.zip&unit=mm", zip.finish().unwrap().into_inner()));
    assert_eq!((p["document"]["name"].as_str(), p["stand_ins"].clone()), (Some("prop"), json!(["normal"])));
    assert_eq!(p["document"]["intake"]["pictures"][0]["file"], "cube_normal.png");
}

#[test]
fn a_finer_mesh_is_taken_in_and_its_misses_are_reported() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let p = small(&server);
    let path = format!("/api/projects/{}/finer?name=fine.obj&unit=mm&revision={}", p["id"], p["revision"]);
    let p = ok(server.upload(&path, cube()));
    assert!(p["piece"]["missed"].as_f64().unwrap() < 0.01, "the same cube is met everywhere: {}", p["piece"]["missed"]);
    let far = json!([{"edit": "set_finer", "finer": {"mesh": p["document"]["intake"]["finer"]["mesh"], "cage": 0.0}}]);
    let answer =
        server.try_post(&format!("/api/projects/{}/edit", p["id"]), json!({"revision": p["revision"], "edits": far}));
    assert!(problem(answer).2.contains("Cage"));
}

#[test]
fn what_is_measured_knows_why_it_is_stale_and_how_long_it_would_take() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = small(&server);
    let id = p["id"].as_i64().unwrap();
    assert_eq!(
        (state(&p, "thickness")["state"].as_str(), state(&p, "thickness")["estimate"].clone()),
        (Some("missing"), Value::Null)
    );
    server.post(&format!("/api/projects/{id}/measure"), json!({"kinds": ["thickness"], "wait": true}));
    p = server.get(&format!("/api/projects/{id}"));
    assert_eq!(state(&p, "thickness")["state"], "fresh");
    let rays = json!({"edit": "set_param", "target": {"reading": "thickness", "key": "rays"}, "value": 128});
    server.edit(&mut p, json!([rays, {"edit": "set_draft_size", "size": 128}]));
    let now = state(&p, "thickness");
    assert_eq!(
        (now["state"].as_str(), now["why"].as_str()),
        (Some("stale"), Some("Measured before the draft size and its settings changed."))
    );
    assert!(now["estimate"].as_f64().unwrap() > 0.0);
    server.edit(&mut p, json!([{"edit": "set_param", "target": {"reading": "thickness", "key": "rays"}, "value": null}, {"edit": "set_draft_size", "size": 64}]));
    assert_eq!(state(&p, "thickness")["state"], "fresh", "what was measured before is still held");
}

#[test]
fn a_page_sees_a_coarse_measurement_first_and_the_real_one_after() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = server.project();
    let id = p["id"].as_i64().unwrap();
    let rays = json!({"edit": "set_param", "target": {"reading": "occlusion", "key": "rays"}, "value": 256});
    server.edit(&mut p, json!([{"edit": "set_draft_size", "size": 256}, rays]));
    let ask = || server.post(&format!("/api/projects/{id}/evaluate"), json!({"page": "t", "provisional": true}));
    let first = ask();
    assert_eq!((first["provisional"].as_bool(), first["improving"].as_bool()), (Some(true), Some(true)));
    let until = Instant::now() + Duration::from_secs(60);
    let last = loop {
        let seen = ask();
        if seen["provisional"] == false {
            break seen;
        }
        assert!(Instant::now() < until, "the real one comes");
        std::thread::yield_now();
    };
    assert_ne!(first["orm"], last["orm"], "coarse pixels are never kept for the real ones");
    let plain = server.post(&format!("/api/projects/{id}/evaluate"), json!({"page": "u"}));
    assert_eq!(plain["orm"], last["orm"]);
}

#[test]
fn a_stopped_measurement_is_not_begun_again_until_somebody_asks() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = server.project();
    let id = p["id"].as_i64().unwrap();
    let rays = json!({"edit": "set_param", "target": {"reading": "occlusion", "key": "rays"}, "value": 1024});
    server.edit(&mut p, json!([{"edit": "set_draft_size", "size": 1024}, rays]));
    let ask = || server.post(&format!("/api/projects/{id}/evaluate"), json!({"page": "t", "provisional": true}));
    assert_eq!(ask()["improving"], true);
    server.stop_all(id, || server.jobs(id).is_empty());
    let after = ask();
    assert_eq!((after["provisional"].as_bool(), after["improving"].as_bool()), (Some(true), Some(false)));
    assert_eq!(state(&server.get(&format!("/api/projects/{id}")), "occlusion")["state"], "missing");
}

#[test]
fn a_database_of_the_first_version_opens_and_looks_as_it_did() {
    let data = tempfile::tempdir().unwrap();
    // As the first version wrote it: the mesh beside the document, a radius for edges and one for recesses.
    let c = rusqlite::Connection::open(data.path().join("dustcoat.sqlite")).unwrap();
    c.execute_batch(include_str!("../../src/db/migrations/001_start.sql")).unwrap();
    c.pragma_update(None, "user_version", 1).unwrap();
    let hash = blake3::hash(cube().as_bytes()).to_hex().to_string();
    c.execute("INSERT INTO assets (hash, bytes) VALUES (?, ?)", rusqlite::params![hash, cube().into_bytes()]).unwrap();
    c.execute("INSERT INTO projects (head, mesh_hash, mesh_file, mesh_unit) VALUES (1, ?, 'cube.obj', 'mm')", [&hash])
        .unwrap();
    let layer = json!({"id": "l1", "name": "Grime", "shown": true, "opacity": 1.0, "kind": "coat",
        "finish": {"channels": {}}, "mask": {"steps": [{"id": "s1", "kind": "recesses", "on": true, "join": "replace", "amount": 1.0, "settings": {}}]}});
    let document = json!({"format": "dustcoat/1", "name": "Old cube", "layers": [layer], "dials": [], "draft_size": 64,
        "readings": {"edges": {"radius": 3.0}, "recesses": {"radius": 12.0, "rays": 32}}});
    c.execute("INSERT INTO revisions (project, label, document) VALUES (1, 'start', ?)", [document.to_string()])
        .unwrap();
    drop(c);
    let server = Server::on(data.path());
    let p = server.get("/api/projects/1");
    let d = &p["document"];
    assert_eq!(
        (d["format"].as_str(), d["intake"]["mesh"]["file"].as_str(), d["intake"]["mesh"]["unit"].as_str()),
        (Some("dustcoat/2"), Some("cube.obj"), Some("mm"))
    );
    assert_eq!(d["readings"]["curvature"], json!({"broad": 12.0, "medium": 3.0, "rays": 32.0, "smooth": "off"}));
    assert_eq!(d["readings"]["occlusion"]["distance"], 120.0);
    assert_eq!(d["layers"][0]["mask"]["steps"][0]["settings"]["radius"], "broad");
    assert!(server.post("/api/projects/1/evaluate", json!({"page": "t"}))["coverage"][0]["mask"].is_number());
}

#[test]
fn pictures_for_masks_are_known_by_their_names_and_missed_when_they_are_gone() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = small(&server);
    let id = p["id"].as_i64().unwrap();
    let bring = |p: &Value, shade: u8| {
        let path = format!("/api/projects/{id}/pictures?name=wall_id.png&purpose=mask&revision={}", p["revision"]);
        ok(server.upload(&path, png(8, 8, |_, _| [shade, shade, shade, 255])))
    };
    // Its name would make it an ID picture, if nobody had said what it is for; the second of its name gets another.
    p = bring(&p, 255);
    p = bring(&p, 0);
    let names: Vec<&str> =
        p["document"]["intake"]["pictures"].as_array().unwrap().iter().map(|p| p["file"].as_str().unwrap()).collect();
    assert_eq!(
        (names, &p["document"]["intake"]["parts_by"]),
        (vec!["wall_id.png", "wall_id 2.png"], &json!("materials"))
    );
    let mask =
        json!([{"kind": "picture", "join": "replace", "settings": {"picture": "wall_id.png", "repeat": "tiles"}}]);
    server.edit(&mut p, json!([lay("Grime", mask)]));
    let covered = |server: &Server| {
        let e = server.post(&format!("/api/projects/{id}/evaluate"), json!({"page": "t", "layer": "l1"}));
        e["coverage"][0]["mask"].as_f64().unwrap()
    };
    assert!((covered(&server) - 1.0).abs() < 1e-3, "all white");
    let change = |p: &Value, edit: Value| {
        server.post(&format!("/api/projects/{id}/edit"), json!({"revision": p["revision"], "edits": [edit]}))
    };
    p = server.get(&format!("/api/projects/{id}"));
    let target = json!({"layer": "l1", "step": "s1", "key": "picture"});
    p = change(&p, json!({"edit": "set_param", "target": target, "value": "wall_id 2.png"}));
    assert!(covered(&server) < 1e-3, "all black");
    let hash = p["document"]["intake"]["pictures"][1]["hash"].clone();
    p = change(&p, json!({"edit": "remove_picture", "picture": hash}));
    assert!(p["piece"]["findings"].to_string().contains("wall_id 2.png"), "{}", p["piece"]["findings"]);
}

#[test]
fn uvs_that_lie_over_one_another_are_told_with_their_share() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let squares = "v 0 0 0\nv 10 0 0\nv 10 0 -10\nv 0 0 -10\nv 20 0 0\nv 30 0 0\nv 30 0 -10\nv 20 0 -10\n\
                   vt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nusemtl a\nf 1/1 2/2 3/3 4/4\nf 5/1 6/2 7/3 8/4\n";
    let p = ok(server.upload("/api/projects/file?name=twice.obj&unit=mm", squares.as_bytes().to_vec()));
    assert!((p["piece"]["layout"]["overlap"].as_f64().unwrap() - 1.0).abs() < 0.05, "{}", p["piece"]["layout"]);
    assert!(p["piece"]["findings"].to_string().contains("covered more than once"));
    // What is chosen of them holds after a restart, and can be taken back.
    let mut p = p;
    assert_eq!((&p["piece"]["layout"]["shared"], &p["piece"]["marks"]), (&json!([true]), &json!(true)));
    server.edit(&mut p, json!([{"edit": "share_texels", "part": "a", "shared": "own"}]));
    assert_eq!(p["piece"]["sheets"].as_array().unwrap().len(), 2);
    assert!(!p["piece"]["findings"].to_string().contains("covered more than once"));
    let address = format!("/api/projects/{}", p["id"]);
    drop(server);
    let server = Server::on(data.path());
    let mut p = server.get(&address);
    assert_eq!((&p["piece"]["parts"][0]["shared"], p["piece"]["sheets"].as_array().unwrap().len()), (&json!("own"), 2));
    server.edit(&mut p, json!([{"edit": "share_texels", "part": "a", "shared": "first"}]));
    assert_eq!(
        (&p["piece"]["sheets"][0]["name"], &p["document"]["intake"]["parts"]["a"]),
        (&json!("1001"), &json!({}))
    );
}

#[test]
fn parts_are_told_by_what_the_file_names_and_how_far_a_mesh_is_can_be_asked() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let file = "v 0 0 0\nv 10 0 0\nv 10 0 -10\nv 0 0 -10\no crate\nusemtl wood\nf 1 2 3\no peg\nf 1 3 4\n";
    let mut p = ok(server.upload("/api/projects/file?name=two.obj&unit=mm&ticket=t1", file.as_bytes().to_vec()));
    // It is in: nobody waits for it any more.
    assert_eq!(server.get("/api/arrivals/t1"), Value::Null);
    assert_eq!(p["piece"]["ways"], json!(["materials", "objects"]));
    server.edit(&mut p, json!([{"edit": "tell_parts", "by": "objects"}]));
    let names: Vec<_> = p["piece"]["parts"].as_array().unwrap().iter().map(|p| p["name"].clone()).collect();
    assert_eq!((names, &p["piece"]["marks"]), (vec![json!("crate"), json!("peg")], &json!(true)));
    // Settings that make no difference to this mesh are not offered.
    let offered = p["piece"]["mendable"].to_string();
    assert!(offered.contains("weld") && !offered.contains("uv_set") && !offered.contains("tiles"), "{offered}");
}

#[test]
fn a_finish_is_made_of_pictures_in_one_revision() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let p = small(&server);
    let aside =
        |name: &str, color: [u8; 4]| ok(server.upload(&format!("/api/pictures?name={name}"), png(8, 8, |_, _| color)));
    let set = json!([
        aside("quay_stone_color.png", [150, 120, 90, 255]),
        aside("quay_stone_rough.png", [200, 200, 200, 255])
    ]);
    let told = server.post("/api/pictures/told", set.clone());
    assert_eq!((&told["name"], &told["pictures"][0]["shows"]), (&json!("Quay stone"), &json!("color")));
    assert_eq!(
        (&told["pictures"][1]["shows"], &told["pictures"][1]["why"]),
        (&json!("roughness"), &json!("its name says so"))
    );
    assert!(told["shows"].as_array().unwrap().iter().any(|s| s == &json!(["nothing", "not used"])));
    let lay = |p: &serde_json::Value, shows: [&str; 2]| {
        let pictures = json!([[set[0], shows[0]], [set[1], shows[1]]]);
        json!({"revision": p["revision"], "name": "Quay stone", "index": 0, "pictures": pictures, "width": 120.0, "relief": 1.0, "tiles": true})
    };
    let path = format!("/api/projects/{}/pictured", p["id"]);
    let (status, _, said) = problem(server.try_post(&path, lay(&p, ["nothing", "nothing"])));
    assert!(status == 422 && said.contains("None of these pictures"), "{said}");
    let (status, _, said) = problem(server.try_post(&path, lay(&p, ["roughness", "gloss"])));
    assert!(status == 422 && said.contains("both fill the channel Roughness"), "{said}");
    let laid = server.post(&path, lay(&p, ["color", "roughness"]));
    let layer = &laid["document"]["layers"][0];
    assert_eq!(layer["name"], "Quay stone");
    assert_eq!(
        layer["finish"]["channels"]["base_color"]["settings"]["color"]["colors"]["settings"]["picture"],
        "quay_stone_color.png"
    );
    assert_eq!(laid["document"]["intake"]["pictures"].as_array().unwrap().len(), 2);
    let rough = &layer["finish"]["channels"]["roughness"]["settings"]["value"]["along"]["settings"];
    assert_eq!(rough["repeat"], "tiles");
    assert_eq!(laid["document"]["dials"][0]["label"], "Width of the pictures");
    // The same set again brings nothing in a second time; one that serves otherwise is left alone.
    let again = server.post(&path, lay(&laid, ["color", "roughness"]));
    assert_eq!(again["document"]["intake"], laid["document"]["intake"]);
    let back = server.post(&format!("/api/projects/{}/undo", p["id"]), json!({"revision": again["revision"]}));
    let back = server.post(&format!("/api/projects/{}/undo", p["id"]), json!({"revision": back["revision"]}));
    assert_eq!(back["document"], p["document"], "each was one revision");
    let bring =
        format!("/api/projects/{}/pictures?name=ao.png&purpose=occlusion&revision={}", p["id"], back["revision"]);
    let brought = ok(server.upload(&bring, png(8, 8, |_, _| [150, 120, 90, 255])));
    let (status, _, said) = problem(server.try_post(&path, lay(&brought, ["color", "roughness"])));
    assert!(status == 422 && said.contains("ao.png") && said.contains("another way"), "{said}");
    let (status, _, said) = problem(server.upload("/api/pictures?name=notes.png", b"no picture".to_vec()));
    assert!(status == 422 && said.contains("notes.png"), "{said}");
}

#[test]
fn a_mesh_is_mended_by_settings_and_what_would_leave_nothing_of_it_is_refused() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = small(&server);
    let set =
        |key: &str, value: Value| json!({"edit": "set_param", "target": {"mending": true, "key": key}, "value": value});
    let found = |p: &Value| p["piece"]["findings"].to_string();
    server.edit(&mut p, json!([set("scale", json!(2)), set("up", json!("z"))]));
    assert_eq!(p["piece"]["size"], json!([80.0, 80.0, 80.0]));
    server.edit(&mut p, json!([{"edit": "unwrap_part", "part": "top", "anew": true}]));
    assert_eq!(p["piece"]["sheets"].as_array().unwrap().len(), 2);
    assert!(found(&p).contains("The UVs of top were laid out anew"), "{}", found(&p));
    // Measurements of it as it was don't stand for it as it is.
    assert!(p["measurements"].as_array().unwrap().iter().all(|m| m["state"] != "fresh"));
    let edits = json!({"revision": p["revision"], "edits": [set("scale", json!(1)), set("weld", json!(100))]});
    let (status, _, said) = problem(server.try_post(&format!("/api/projects/{}/edit", p["id"]), edits));
    assert!(status < 500 && said.contains("leaves no triangle with an area"), "{status}: {said}");
    let again = server.get(&format!("/api/projects/{}", p["id"]));
    assert_eq!((&again["revision"], &again["piece"]), (&p["revision"], &p["piece"]), "it is as it was");
    // Swapped, it is taken the same way.
    let new = ok(swap(&server, &p, "cube2.obj", cube()));
    assert_eq!((&new["piece"]["size"], new["piece"]["sheets"].as_array().unwrap().len()), (&p["piece"]["size"], 2));
}

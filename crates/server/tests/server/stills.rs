//! Stills, lights and the ground over HTTP and from the command line; layers carried from one project to another.

use std::path::Path;

use crate::common::{Server, coat, ok, problem, run, until};
use dustcoat_core::raster::picture::Picture;
use serde_json::{Value, json};

fn wish(change: Value) -> Value {
    let mut wish = json!({
        "eye": null, "target": [0, 0, 0], "fov": 28, "width": 48, "height": 32, "samples": 8, "light": "quay", "turn": 0,
        "brightness": 1, "rim": 0, "exposure": 0, "surround": "grey", "ground": false, "turntable": 1
    });
    wish.as_object_mut().unwrap().extend(change.as_object().unwrap().clone());
    wish
}

fn download(server: &Server, done: &Value) -> Vec<u8> {
    server.bytes(&format!("/api/downloads/{}/{}", done["download"].as_str().unwrap(), "still.png"))
}

#[test]
fn a_still_is_taken_as_it_is_wished_for() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = server.project();
    let id = p["id"].as_i64().unwrap();
    server.edit(&mut p, json!([{"edit": "set_draft_size", "size": 128}]));
    let take = |change: Value| server.post(&format!("/api/projects/{id}/still"), wish(change));
    let plain = take(json!({}));
    assert!(plain["name"].as_str().unwrap().ends_with(".png") && plain["seconds"].as_f64().unwrap() > 0.0);
    let png = download(&server, &plain);
    let picture = Picture::decode("still.png", &png).unwrap();
    assert_eq!(picture.size(), [48, 32]);
    let corner = picture.bytes().values[0];
    assert_eq!(corner, [0x77; 3], "the grey of the view around the piece");
    assert_eq!(download(&server, &take(json!({}))), png, "the same wish, the same bytes");
    let dusk = download(&server, &take(json!({"light": "dusk", "turn": 40, "ground": true})));
    assert_ne!(dusk, png);
    let clear = Picture::decode("still.png", &download(&server, &take(json!({"surround": "clear"})))).unwrap();
    assert_eq!(clear.quadruples().values[0][3], 0.0, "nothing around it");
    // Relief that moves the surface is seen in the outline: more of the picture is covered.
    let high = json!({"name": "Thick", "kind": "coat", "finish": {"channels": {"height": {"on": true, "settings": {"value": 6}}}}});
    server.edit(&mut p, json!([{"edit": "add_layer", "inside": null, "index": 0, "layer": high}]));
    let covered = |relief: bool| {
        let png = download(&server, &take(json!({"surround": "clear", "relief": relief})));
        let values = Picture::decode("still.png", &png).unwrap().quadruples().values;
        values.iter().map(|p| p[3]).sum::<f32>()
    };
    let (flat, moved) = (covered(false), covered(true));
    assert!(moved > 1.1 * flat, "{moved} of {flat}");
    // A turntable: as many pictures as asked for, each another one.
    let turn = take(json!({"turntable": 3, "width": 24, "height": 24}));
    let bytes = download(&server, &turn);
    let mut zip = zip::ZipArchive::new(std::io::Cursor::new(bytes)).unwrap();
    let mut all = vec![];
    for i in 0..zip.len() {
        let mut one = vec![];
        std::io::Read::read_to_end(&mut zip.by_index(i).unwrap(), &mut one).unwrap();
        assert_eq!(Picture::decode("p.png", &one).unwrap().size(), [24, 24]);
        assert!(!all.contains(&one));
        all.push(one);
    }
    assert_eq!(all.len(), 3);
    for (change, word) in [
        (json!({"light": "disco"}), "quay, dusk"),
        (json!({"width": 0}), "width can’t be 0; take one from 16 to 4096"),
        (json!({"samples": 100_000}), "4096"),
        (json!({"width": 4096, "height": 4096, "turntable": 300}), "pixels in all"),
        (json!({"eye": [0, 0, 0]}), "looks nowhere"),
    ] {
        let (status, kind, words) = problem(server.try_post(&format!("/api/projects/{id}/still"), wish(change)));
        assert!(status == 422 && kind == "unprocessable" && words.contains(word), "{status} {words}");
    }
}

#[test]
fn lights_and_the_ground_are_told() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let lights = server.get("/api/lights");
    let all = lights["lights"].as_array().unwrap();
    assert!(all.len() >= 6 && all.iter().all(|l| l["lamps"].is_array() && l["zenith"].is_array()));
    let texels = lights["panorama"][0].as_u64().unwrap() * lights["panorama"][1].as_u64().unwrap();
    for light in all {
        let bytes = server.bytes(&format!("/api/lights/{}/panorama", light["key"].as_str().unwrap()));
        assert_eq!(bytes.len() as u64, texels * 12);
        let radiance = bytes.chunks_exact(4).map(|b| f32::from_le_bytes(b.try_into().unwrap()));
        assert!(radiance.fold(true, |fine, v| fine && v.is_finite() && v >= 0.0));
    }
    assert_eq!(problem(server.request("GET", "/api/lights/disco/panorama").send().unwrap()).0, 422);
    let id = server.project()["id"].as_i64().unwrap();
    let ground = server.get(&format!("/api/projects/{id}/ground"));
    let open = server.bytes(&format!("/api/pixels/{}", ground["pixels"].as_str().unwrap()));
    let side = ground["size"].as_u64().unwrap() as usize;
    assert!(open.len() == side * side && open[side / 2 * side + side / 2] < 40 && open[0] > 240);
}

#[test]
fn a_layer_is_carried_to_another_project() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let (mut from, mut to) = (server.project(), server.project());
    server
        .edit(&mut from, json!([{"edit": "add_layer", "inside": null, "index": 0, "layer": coat("Salt", json!([]))}]));
    let layer = from["document"]["layers"][0]["id"].as_str().unwrap();
    let copied = server.get(&format!("/api/projects/{}/layers/{layer}/copy", from["id"]));
    server.edit(&mut to, json!([{"edit": "paste_layer", "inside": null, "index": 0, "copied": copied}]));
    assert_eq!(to["document"]["layers"][0]["name"], "Salt");
    assert_eq!(to["undo"], "paste Salt");
    let path = format!("/api/projects/{}/edit", to["id"]);
    let newer = copied.as_str().unwrap().replace("dustcoat/2", "dustcoat/77");
    let edits = json!([{"edit": "paste_layer", "inside": null, "index": 0, "copied": newer}]);
    let (status, _, words) = problem(server.try_post(&path, json!({"revision": to["revision"], "edits": edits})));
    assert!(status == 422 && words.contains("dustcoat/77") && words.contains("Open it with"), "{words}");
    assert_eq!(
        problem(server.request("GET", &format!("/api/projects/{}/layers/nobody/copy", from["id"])).send().unwrap()).0,
        422
    );
    // A ready finish brings its dials, which the view names by layer.
    let catalog = server.get(&format!("/api/projects/{}/catalog", to["id"]));
    let enamel = catalog.as_array().unwrap().iter().find(|e| e["kind"] == "signal_enamel").unwrap();
    let (layer, dials) = (&enamel["layer"], &enamel["dials"]);
    assert!(layer["kind"] == "group" && layer["layers"].as_array().unwrap().len() > 1);
    server.edit(&mut to, json!([{"edit": "add_layer", "inside": null, "index": 1, "layer": layer, "dials": dials}]));
    let id = to["document"]["layers"][1]["id"].as_str().unwrap().to_owned();
    assert_eq!(to["dials_of"][&id].as_array().unwrap().len(), enamel["dials"].as_array().unwrap().len());
    server.edit(&mut to, json!([{"edit": "remove_layer", "layer": id}]));
    assert_eq!(to["document"]["dials"], json!([]));
    // A recipe has a picture of itself on the ball.
    let layer = to["document"]["layers"][0]["id"].clone();
    let save = json!({"layer": layer, "name": "Salt", "note": ""});
    let cards = server.post(&format!("/api/projects/{}/recipe", to["id"]), save);
    let card = cards.as_array().unwrap().iter().find(|c| c["name"] == "Salt").unwrap();
    let png = server.bytes(&format!("/api/cabinet/{}/picture", card["id"]));
    let picture = Picture::decode("salt.png", &png).unwrap().quadruples();
    let seen = picture.values.iter().filter(|p| p[3] == 1.0).count();
    assert!(seen > picture.values.len() / 5 && seen < picture.values.len(), "a ball, and nothing around it");
    assert_eq!(problem(server.request("GET", "/api/cabinet/999/picture").send().unwrap()).0, 404);
    // A place of the camera is an edit like any other.
    let place = |name: &str, eye: [f64; 3]| json!({"edit": "keep_place", "place": {"name": name, "eye": eye, "target": [0, 0, 0]}});
    server.edit(
        &mut to,
        json!([place("Close", [0.0, 0.0, 90.0]), place("Close", [0.0, 0.0, 80.0]), place("Far", [0.0, 50.0, 400.0])]),
    );
    assert_eq!(to["document"]["places"].as_array().unwrap().len(), 2);
    assert_eq!(to["document"]["places"][0]["eye"][2], 80.0);
    let nowhere = json!({"revision": to["revision"], "edits": [place("Nowhere", [0.0, 0.0, 0.0])]});
    assert_eq!(problem(server.try_post(&path, nowhere)).0, 422);
    let undone = ok(server.try_post(&path.replace("edit", "undo"), json!({"revision": to["revision"]})));
    assert_eq!(undone["document"]["places"], Value::Null);
}

#[test]
fn stills_are_taken_from_the_command_line() {
    let dir = tempfile::tempdir().unwrap();
    let text = |p: &Path| p.to_str().unwrap().to_owned();
    let (output, _) = run(&["demo-files", "--out", &text(dir.path())]);
    assert!(output.status.success());
    let project = text(&dir.path().join("swatch-ball.dustcoat"));
    let out = text(&dir.path().join("ball.png"));
    let take = |more: &[&str]| {
        let mut args =
            vec!["still", &project, "--out", &out, "--size", "32", "--samples", "8", "--texture", "128", "--json"];
        args.extend(more);
        run(&args)
    };
    let (output, said) = take(&[]);
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    assert_eq!(said["files"][0]["path"], out);
    assert_eq!(Picture::decode("b.png", &std::fs::read(&out).unwrap()).unwrap().size(), [32, 32]);
    let (_, said) = take(&["--turntable", "2", "--light", "noon", "--surround", "clear", "--ground", "--relief"]);
    assert_eq!(said["files"].as_array().unwrap().len(), 2);
    assert!(said["files"][1]["path"].as_str().unwrap().ends_with("ball-002.png"));
    for (more, code) in [(&["--light", "disco"][..], 1), (&["--surround", "pink"], 2), (&["--place", "Nowhere"], 2)] {
        let (output, _) = take(more);
        assert_eq!(output.status.code(), Some(code), "{more:?}: {}", String::from_utf8_lossy(&output.stderr));
    }
}

#[test]
fn a_picture_says_the_colours_that_stand_for_it() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let p = server.project();
    let id = p["id"].as_i64().unwrap();
    // Three quarters teal, a quarter chalk, and as much again that is cut away.
    let texel = |i: u32| match (i % 64, i / 64) {
        (0..32, _) => [0, 0, 0, 0],
        (_, 0..24) => [0x2b, 0x58, 0x5e, 255],
        _ => [0xe6, 0xe2, 0xd6, 255],
    };
    let rgba: Vec<u8> = (0..64 * 32).flat_map(texel).collect();
    let png = dustcoat_core::handoff::png::rgba8(&rgba, 64, 32);
    let brought = ok(server
        .upload(&format!("/api/projects/{id}/pictures?name=quay.png&purpose=mask&revision={}", p["revision"]), png));
    let hash = brought["document"]["intake"]["pictures"][0]["hash"].as_str().unwrap().to_owned();
    let at = format!("/api/projects/{id}/pictures/{hash}");
    let shown = Picture::decode("quay.png", &server.bytes(&at)).unwrap().quadruples();
    assert_eq!((shown.nearest([0.1, 0.5])[3], shown.nearest([0.9, 0.5])[3]), (0.0, 1.0), "clear is shown as clear");
    let colors = server.get(&format!("{at}/colors?count=2"));
    let colors = colors.as_array().unwrap();
    assert_eq!(colors.len(), 2, "{colors:?}");
    for (swatch, (wanted, weight)) in colors.iter().zip([([0x2b, 0x58, 0x5e], 0.75), ([0xe6, 0xe2, 0xd6], 0.25)]) {
        let hex = swatch["color"].as_str().unwrap();
        let byte = |c: usize| u8::from_str_radix(&hex[1 + 2 * c..3 + 2 * c], 16).unwrap();
        assert!((0..3).all(|c| byte(c).abs_diff(wanted[c]) <= 2), "{hex}");
        assert!((swatch["weight"].as_f64().unwrap() - weight).abs() < 0.002, "{swatch}");
    }
    let (status, ..) = problem(server.request("GET", &format!("{at}/colors?count=none")).send().unwrap());
    assert_eq!(status, 400);
    let (status, ..) = problem(server.request("GET", &format!("{at}0/colors?count=2")).send().unwrap());
    assert_eq!(status, 404);
}

#[test]
fn a_still_under_way_can_be_looked_at() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = server.project();
    let id = p["id"].as_i64().unwrap();
    server.edit(&mut p, json!([{"edit": "set_draft_size", "size": 128}]));
    std::thread::scope(|scope| {
        let long = wish(json!({"width": 192, "height": 128, "samples": 4096}));
        let taking = scope.spawn(|| server.try_post(&format!("/api/projects/{id}/still"), long));
        let so_far =
            |job: u64| server.request("GET", &format!("/api/projects/{id}/jobs/{job}/picture")).send().unwrap();
        let (mut job, mut png) = (0, vec![]);
        until("the first samples are there", || {
            let begun = server.jobs(id).iter().find(|j| j["kind"] == "still").and_then(|j| j["job"].as_u64());
            job = begun.unwrap_or(job);
            let answer = so_far(job);
            let there = answer.status() == 200;
            if there {
                png = answer.bytes().unwrap().to_vec();
            }
            there
        });
        assert_eq!(Picture::decode("so far.png", &png).unwrap().size(), [192, 128]);
        server.try_post(&format!("/api/projects/{id}/jobs/{job}/stop"), json!({}));
        assert_eq!(taking.join().unwrap().status(), 409, "it was stopped");
        assert_eq!(so_far(job).status(), 410, "and is gone");
    });
}

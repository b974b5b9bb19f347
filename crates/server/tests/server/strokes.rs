//! What is drawn is kept with the edit, comes back after a restart and in a file, and takes little room.

use dustcoat::db::Db;
use dustcoat_core::document::{self, Document, Edit};
use serde_json::{Value, json};

use crate::common::{Server, cube, lay, ok, problem};

/// A stroke across the upper face of the cube, which is 40 mm wide, at that depth.
fn stroke(z: f64) -> Value {
    let row = |i: i32| json!([f64::from(i) - 15.0, 20.0, z, 0.0, 1.0, 0.0, 1.0, i * 10]);
    let points: Vec<Value> = (0..31).map(row).collect();
    json!({"points": points, "radius": 4.0, "hardness": 0.7, "flow": 1.0, "value": 1.0})
}

/// A red coat that shows where something is drawn; its layer and step.
fn drawn_on(server: &Server) -> (Value, String, String) {
    let mut p = server.project();
    server.edit(&mut p, json!([{"edit": "set_draft_size", "size": 128}]));
    server.edit(&mut p, json!([lay("Hand wear", json!([{"kind": "strokes"}]))]));
    let layer = &p["document"]["layers"][0];
    let (layer, step) =
        (layer["id"].as_str().unwrap().to_owned(), layer["mask"]["steps"][0]["id"].as_str().unwrap().to_owned());
    (p, layer, step)
}

fn color(server: &Server, id: i64) -> Value {
    server.post(&format!("/api/projects/{id}/evaluate"), json!({"page": "t"}))["base_color"].clone()
}

#[test]
fn a_stroke_is_kept_undone_restarted_and_packed() {
    let data = tempfile::tempdir().unwrap();
    let mut server = Server::on(data.path());
    let (mut p, layer, step) = drawn_on(&server);
    let id = p["id"].as_i64().unwrap();
    let bare = color(&server, id);
    let add = |z: f64| json!([{"edit": "add_stroke", "layer": layer, "step": step, "stroke": stroke(z)}]);
    // Tried, it shows and is not kept.
    let tried = server.post(&format!("/api/projects/{id}/evaluate"), json!({"page": "t", "edits": add(0.0)}));
    assert_ne!(tried["base_color"], bare);
    assert_eq!(color(&server, id), bare);
    server.edit(&mut p, add(0.0));
    let one = color(&server, id);
    assert_eq!(one, tried["base_color"], "what was tried is what is kept");
    let points = p["document"]["layers"][0]["mask"]["steps"][0]["strokes"][0]["points"].clone();
    assert_eq!(points.as_str().map(str::len), Some(64), "the document names it by its hash: {points}");
    server.edit(&mut p, add(9.0));
    let two = color(&server, id);
    assert_ne!(two, one);
    server.kill();
    server = Server::on(data.path());
    assert_eq!(color(&server, id), two, "after the server was killed");
    let undone = server.post(&format!("/api/projects/{id}/undo"), json!({"revision": p["revision"]}));
    assert_eq!(color(&server, id), one, "undone after a restart");
    p = server.post(&format!("/api/projects/{id}/redo"), json!({"revision": undone["revision"]}));
    // Which lie there, from a place of the piece.
    let at = |z: f64| json!({"layer": layer, "step": step, "at": [0.0, 20.0, z], "normal": [0.0, 1.0, 0.0]});
    let path = format!("/api/projects/{id}/strokes/at");
    assert_eq!(server.post(&path, at(0.0)), json!(["s1"]));
    assert_eq!(server.post(&path, at(8.0)), json!(["s2"]));
    assert_eq!(server.post(&path, at(-15.0)), json!([]));
    // In small: a line from left to right, as wide as the stroke; its points only when it is led through them.
    let asked = json!({"layer": layer, "step": step, "strokes": ["s1", "s9"]});
    let seen = server.post(&format!("/api/projects/{id}/strokes/seen"), asked.clone());
    let (line, all) = (seen[0]["line"].as_array().unwrap(), seen.as_array().unwrap());
    assert_eq!((all.len(), line.len(), &seen[0]["points"]), (1, 31, &json!([])));
    assert_eq!(seen[0]["bounds"], json!([-19.0, -4.0, 38.0, 8.0]));
    let led =
        json!([{"edit": "set_strokes", "layer": layer, "step": step, "strokes": ["s1"], "change": {"led": "corners"}}]);
    server.edit(&mut p, led);
    let seen = server.post(&format!("/api/projects/{id}/strokes/seen"), asked);
    assert_eq!(seen[0]["points"][30], json!([15.0, 20.0, 0.0, 0.0, 1.0, 0.0, 1.0, 300.0, 0.0]));
    p = server.post(&format!("/api/projects/{id}/undo"), json!({"revision": p["revision"]}));
    // In a file it goes along.
    let packed = server.bytes(&format!("/api/projects/{id}/file"));
    let copy = ok(server.upload("/api/projects/file?name=drawn.dustcoat", packed));
    assert_eq!(color(&server, copy["id"].as_i64().unwrap()), two);
    // Whichever edit brings points, they are kept with it: here a step that comes with its strokes.
    let step = json!({"kind": "strokes", "strokes": [stroke(-12.0), stroke(15.0)]});
    server.edit(&mut p, json!([{"edit": "add_step", "layer": layer, "index": 1, "step": step}]));
    let brought = color(&server, id);
    assert_ne!(brought, two);
    server.kill();
    server = Server::on(data.path());
    assert_eq!(color(&server, id), brought, "a step's own strokes, after the server was killed");
    // What is no stroke changes nothing and says so.
    let mut wrong = add(0.0);
    wrong[0]["stroke"]["points"][3] = json!([1.0, 2.0]);
    let edits = json!({"revision": p["revision"], "edits": wrong});
    let (status, _, said) = problem(server.try_post(&format!("/api/projects/{id}/edit"), edits));
    assert!(status < 500 && said.contains("Point 4"), "{status}: {said}");
    assert_eq!(server.get(&format!("/api/projects/{id}"))["revision"], p["revision"]);
}

#[test]
fn a_made_up_picture_is_pinned_kept_and_told_when_another_mesh_has_nothing_there() {
    let data = tempfile::tempdir().unwrap();
    let mut server = Server::on(data.path());
    let mut p = server.project();
    let id = p["id"].as_i64().unwrap();
    let made = server.get("/api/made-pictures");
    let key = made[0]["key"].as_str().unwrap();
    assert!(made.as_array().unwrap().len() >= 8 && !made[0]["help"].as_str().unwrap().is_empty());
    assert_eq!(&server.bytes(&format!("/api/made-pictures/{key}"))[1..4], b"PNG");
    let (status, _, said) = problem(server.request("GET", "/api/made-pictures/no-such").send().unwrap());
    assert!(status == 404 && said.contains("no-such"), "{status}: {said}");
    p = server.post(&format!("/api/projects/{id}/made-pictures/{key}"), json!({"revision": p["revision"]}));
    let file = p["document"]["intake"]["pictures"][0]["file"].clone();
    assert_eq!(file, format!("{key}.png"));
    let spot = json!({"at": [0.0, 20.0, 0.0], "normal": [0.0, 1.0, 0.0], "up": [0.0, 0.0, -1.0]});
    let pin = json!({"kind": "pin", "settings": {"picture": file, "size": 30}});
    server.edit(&mut p, json!([{"edit": "set_draft_size", "size": 128}, lay("Stencil", json!([pin]))]));
    let bare = color(&server, id);
    let layer = p["document"]["layers"][0].clone();
    let lay_pin = |spot: &Value| json!([{"edit": "lay_pin", "layer": layer["id"], "step": layer["mask"]["steps"][0]["id"], "spot": spot}]);
    server.edit(&mut p, lay_pin(&spot));
    let laid = color(&server, id);
    assert_ne!(laid, bare);
    server.kill();
    server = Server::on(data.path());
    assert_eq!(color(&server, id), laid, "after the server was killed");
    let packed = server.bytes(&format!("/api/projects/{id}/file"));
    let copy = ok(server.upload("/api/projects/file?name=pinned.dustcoat", packed));
    assert_eq!(color(&server, copy["id"].as_i64().unwrap()), laid, "in a file it goes along");
    // A spot that is none changes nothing.
    let edits = json!({"revision": p["revision"], "edits": lay_pin(&json!({"at": [0, 1e9, 0], "normal": [0, 1, 0], "up": [1, 0, 0]}))});
    let (status, _, said) = problem(server.try_post(&format!("/api/projects/{id}/edit"), edits));
    assert!(status < 500 && said.contains("kilometre"), "{status}: {said}");
    // Another mesh that has nothing there: the pin is kept, and told in the piece's findings.
    let told = |p: &Value| p["piece"]["findings"].to_string().contains("Stencil › Pin");
    assert!(!told(&p));
    let larger = |line: &str| if line.starts_with("v ") { line.replace("20", "200") } else { line.into() };
    let far = cube().lines().map(larger).collect::<Vec<String>>().join("\n");
    let swap = format!("/api/projects/{id}/mesh?name=cube.obj&unit=mm&revision={}", p["revision"]);
    p = ok(server.upload(&swap, far.into_bytes()));
    assert!(told(&p), "{}", p["piece"]["findings"]);
    assert_eq!(p["document"]["layers"][0]["mask"]["steps"][0]["spot"]["at"], json!([0.0, 20.0, 0.0]));
}

#[test]
fn a_thousand_strokes_take_less_than_five_megabytes() {
    let data = tempfile::tempdir().unwrap();
    let db = Db::open(data.path()).unwrap();
    let layer = json!({"id": "l1", "name": "Drawn", "kind": "coat", "finish": {"channels": {}}, "mask": {"steps": [{"id": "s1", "kind": "strokes"}]}});
    let mut d = Document::new("Drawn on");
    d.layers = vec![serde_json::from_value(layer).unwrap()];
    d.intake.mesh.file = "cube.obj".into();
    d.intake.mesh.hash = blake3::hash(cube().as_bytes()).to_hex().to_string();
    let files = [(d.intake.mesh.hash.clone(), cube().into_bytes())].into();
    let id = db.create_project(&d, &files).unwrap();
    let mut revision = db.project(id).unwrap().revision;
    let size = || {
        db.shrink().unwrap();
        std::fs::read_dir(data.path()).unwrap().map(|f| f.unwrap().metadata().unwrap().len()).sum::<u64>()
    };
    let before = size();
    for i in 0..1000u32 {
        // No two points are alike, as a hand draws them.
        let row = |k: u32| {
            let turn = f64::from(i * 50 + k);
            json!([
                turn.sin() * 20.0,
                20.0,
                (turn * 0.71).cos() * 20.0,
                0.01 * turn.sin(),
                1.0,
                0.0,
                0.5 + 0.4 * turn.cos(),
                k * 9
            ])
        };
        let points: Vec<Value> = (0..50).map(row).collect();
        let stroke = json!({"points": points, "radius": 4.0, "hardness": 0.6, "flow": 1.0, "value": 1.0});
        let edit = json!({"edit": "add_stroke", "layer": "l1", "step": "s1", "stroke": stroke});
        let edit: Edit = serde_json::from_value(edit).unwrap();
        d = document::apply(&d, &edit).unwrap();
        let Edit::AddStroke { stroke, .. } = &edit else { unreachable!() };
        db.keep_asset(&stroke.points.track().unwrap().bytes()).unwrap();
        revision = db.revise(id, revision, "draw a stroke", &d).unwrap().revision;
    }
    let grown = size() - before;
    assert!(grown < 5_000_000, "{grown} bytes");
    // Nothing of it goes when the data is tidied.
    let tidied = db.tidy(-60, true).unwrap();
    assert_eq!(tidied.files, 0, "{tidied:?}");
    let read = Db::open(data.path()).unwrap().project(id).unwrap().document;
    assert_eq!(document::points(&read).iter().filter(|p| p.track().is_some()).count(), 1000);
}

#[test]
fn a_recipe_keeps_what_was_drawn_where_that_is_wished_and_shows_it_on_the_same_shape() {
    let (data, elsewhere) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let mut server = Server::on(data.path());
    let (mut p, layer, step) = drawn_on(&server);
    let id = p["id"].as_i64().unwrap();
    server.edit(&mut p, json!([{"edit": "add_stroke", "layer": layer, "step": step, "stroke": stroke(0.0)}]));
    let path = format!("/api/projects/{id}/recipe");
    server.post(&path, json!({"name": "Empty", "layer": layer}));
    server.post(&path, json!({"name": "Grip", "layer": layer, "keep_drawn": true}));
    server.kill();
    server = Server::on(data.path());
    let card = |server: &Server, name: &str| {
        let cards = server.get("/api/cabinet");
        cards.as_array().unwrap().iter().find(|c| c["name"] == name).unwrap().clone()
    };
    assert_eq!([card(&server, "Empty")["drawn"].clone(), card(&server, "Grip")["drawn"].clone()], [false, true]);
    // Laid on another piece of the same shape, here and where only its file is.
    let laid = |server: &Server, name: &str| {
        let mut p = server.project();
        server.edit(&mut p, json!([{"edit": "set_draft_size", "size": 128}]));
        let lay = json!({"recipe": card(server, name)["id"], "revision": p["revision"]});
        let p = server.post(&format!("/api/projects/{}/lay", p["id"]), lay);
        color(server, p["id"].as_i64().unwrap())
    };
    let here = laid(&server, "Grip");
    assert_ne!(here, laid(&server, "Empty"), "without its strokes it looks otherwise");
    let file = server.bytes(&format!("/api/cabinet/files?ids={}", card(&server, "Grip")["id"]));
    let there = Server::on(elsewhere.path());
    ok(there.upload("/api/cabinet/import", file));
    assert_eq!(laid(&there, "Grip"), here);
    // A piece of another shape is told that it shows nothing there, before it is laid and after.
    let large = ok(there.upload("/api/projects/file?name=large.obj&unit=cm", cube()));
    let id = large["id"].as_i64().unwrap();
    let fit = there.post(&format!("/api/projects/{id}/fit"), json!({"recipe": card(&there, "Grip")["id"]}));
    assert_eq!(fit["fit"]["drawn"], json!({"strokes": 1, "pins": 0, "shows": false}));
    let lay = json!({"recipe": card(&there, "Grip")["id"], "revision": large["revision"]});
    there.post(&format!("/api/projects/{id}/lay"), lay);
    let found = there.get(&format!("/api/projects/{id}"))["piece"]["findings"].to_string();
    assert!(found.contains("a piece of another shape"), "{found}");
}

//! The cabinet over HTTP and from the command line: found, marked, laid where it is asked, opened in place, packed and brought in again.

use std::io::{Cursor, Read};
use std::path::Path;

use dustcoat_core::handoff::png;
use serde_json::{Value, json};

use crate::common::{Server, cube, lay, ok, problem, run};

/// A document of a coat on the part `metal`, its cut a dial, kept as “Sea rust”; the card.
fn kept(server: &Server, p: &mut Value) -> Value {
    let steps = json!([
        {"kind": "perlin", "join": "replace", "settings": {"size": 6.0}},
        {"kind": "threshold", "join": "multiply"},
        {"kind": "part", "join": "multiply", "settings": {"part": "metal"}},
    ]);
    let target = json!({"layer": "l1", "step": "s2", "key": "cut"});
    server.edit(
        p,
        json!([
            {"edit": "set_draft_size", "size": 64},
            lay("Rust", steps),
            {"edit": "make_dial", "target": target, "label": "Wear", "low": 0.7, "high": 0.3},
            {"edit": "keep_variant", "name": "As found"},
        ]),
    );
    let save = json!({"layer": "l1", "name": "Sea rust", "note": "Where spray dries", "tags": ["rust", "sea"]});
    let cards = server.post(&format!("/api/projects/{}/recipe", p["id"]), save);
    named(&cards, "Sea rust")
}

fn named(cards: &Value, name: &str) -> Value {
    let found = cards.as_array().unwrap().iter().find(|c| c["name"] == name);
    found.unwrap_or_else(|| panic!("{name} in {cards}")).clone()
}

fn laid(p: &Value) -> Value {
    p["document"]["layers"].as_array().unwrap().last().unwrap().clone()
}

#[test]
fn a_card_says_what_is_in_it_and_what_it_asks_for() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = server.project();
    let card = kept(&server, &mut p);
    assert_eq!((&card["tags"], &card["presets"]), (&json!(["rust", "sea"]), &json!(["As found"])));
    assert_eq!(card["needs"], json!({"measurements": [], "parts": ["metal"], "pictures": []}));
    assert_eq!(card["dials"], json!(["Wear", "metal"]));
    // A favourite; taken out, which every window shows, and put back.
    let marks = |body: Value| {
        let path = format!("/api/cabinet/{}/marks", card["id"]);
        named(&ok(server.request("PUT", &path).json(&body).send().unwrap()), "Sea rust")["marks"].clone()
    };
    assert_eq!(marks(json!({"favourite": true}))["favourite"], true);
    let out = marks(json!({"removed": true}));
    assert_eq!((&out["favourite"], &out["removed"]), (&json!(true), &json!(true)));
    drop(server);
    let server = Server::on(data.path());
    let there = named(&server.get("/api/cabinet"), "Sea rust");
    assert_eq!(there["marks"]["removed"], true, "it outlives a restart");
    let path = format!("/api/cabinet/{}/marks", there["id"]);
    let back = ok(server.request("PUT", &path).json(&json!({"removed": false})).send().unwrap());
    assert_eq!(named(&back, "Sea rust")["marks"]["removed"], false);
    let gone = server.request("PUT", "/api/cabinet/999/marks").json(&json!({"removed": true})).send().unwrap();
    assert_eq!(problem(gone).0, 404);
}

#[test]
fn laying_asks_for_parts_that_the_piece_lacks_and_says_how_large_patterns_are() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = server.project();
    let card = kept(&server, &mut p);
    let id = p["id"].as_i64().unwrap();
    let fit = |body: Value| server.post(&format!("/api/projects/{id}/fit"), body);
    let view = fit(json!({"recipe": card["id"]}));
    let slot = view["fit"]["slots"][0].clone();
    assert_eq!((&slot["wanted"], &slot["takes"]), (&json!("metal"), &Value::Null));
    let parts: Vec<&str> =
        p["piece"]["parts"].as_array().unwrap().iter().map(|p| p["name"].as_str().unwrap()).collect();
    assert_eq!(slot["options"], json!(parts));
    let size = &view["fit"]["sizes"][0];
    assert_eq!((&size["pattern"], &size["mm"]), (&json!("Clouds"), &json!(6.0)));
    assert!(size["share"].as_f64().unwrap() > 0.0);
    // Answered, and begun with a preset: what is shown is what is laid.
    let dial = slot["dial"].as_str().unwrap();
    let laying = json!({"recipe": card["id"], "preset": "As found", "values": {dial: parts[0]}});
    let view = fit(laying.clone());
    let mut body = laying;
    body["revision"] = p["revision"].clone();
    body["index"] = json!(0);
    let now = server.post(&format!("/api/projects/{id}/lay"), body);
    let first = &now["document"]["layers"][0];
    assert_eq!((&first["kind"], &first["values"]), (&json!("use"), &view["layer"]["values"]), "at the very bottom");
    assert_eq!(first["values"][dial], parts[0]);
    assert_eq!(named(&server.get("/api/cabinet"), "Sea rust")["marks"]["laid"], 1);
    let used = server.get(&format!("/api/cabinet/{}/used", card["id"]));
    assert_eq!((&used[0]["project"], &used[0]["layers"]), (&p["id"], &json!(["Sea rust, version 1"])));
    let wrong = json!({"recipe": card["id"], "preset": "Ancient"});
    let (status, _, said) = problem(server.try_post(&format!("/api/projects/{id}/fit"), wrong));
    assert!(status == 422 && said.contains("Ancient"), "{said}");
}

#[test]
fn a_preset_is_kept_in_the_next_version_and_an_opened_recipe_in_the_one_after() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = server.project();
    let card = kept(&server, &mut p);
    let id = p["id"].as_i64().unwrap();
    let at = |what: &str| format!("/api/projects/{id}/{what}");
    for _ in 0..2 {
        p = server.post(&at("lay"), json!({"revision": p["revision"], "recipe": card["id"]}));
    }
    let layer = laid(&p)["id"].clone();
    server.edit(&mut p, json!([{"edit": "turn_dial", "layer": layer, "dial": "d1", "value": 0.9}]));
    p = server.post(&at("preset"), json!({"revision": p["revision"], "layer": layer, "name": "Old"}));
    let recipe = laid(&p)["recipe"].clone();
    assert_eq!((&recipe["version"], &recipe["presets"][1]["values"]), (&json!(2), &json!({"d1": 0.9})));
    assert_eq!(recipe["history"], json!([{"version": 1, "note": "Where spray dries"}]));
    let other = p["document"]["layers"][1]["id"].as_str().unwrap().to_owned();
    assert_eq!(p["newer"][&other]["recipe"]["version"], 2, "the other use is told");
    let newer = p["newer"][&other]["recipe"].clone();
    server.edit(&mut p, json!([{"edit": "follow_recipe", "layer": other, "recipe": newer}]));

    // Opened in place: the other follows at once, and both take what is kept.
    server.edit(&mut p, json!([{"edit": "open_use", "layer": layer}]));
    assert_eq!(p["undo"], "open Sea rust");
    let inner = laid(&p)["layers"][0]["id"].clone();
    let color = json!({"layer": inner, "channel": "base_color", "key": "color"});
    server.edit(&mut p, json!([{"edit": "set_param", "target": color, "value": "#2040c0"}]));
    let follows = |p: &Value| p["document"]["layers"][1]["recipe"].clone();
    let blue = |r: &Value| r["layers"][0]["finish"]["channels"]["base_color"]["settings"]["color"].clone();
    assert_eq!(blue(&follows(&p)), "#2040c0");
    p = server.post(&at("opened"), json!({"revision": p["revision"], "note": "Bluer"}));
    for layer in [1, 2] {
        let recipe = &p["document"]["layers"][layer]["recipe"];
        assert_eq!((&recipe["version"], &recipe["note"], blue(recipe)), (&json!(3), &json!("Bluer"), json!("#2040c0")));
    }
    assert_eq!(named(&server.get("/api/cabinet"), "Sea rust")["version"], 3);
    let undone = server.post(&at("undo"), json!({"revision": p["revision"]}));
    assert_eq!(undone["document"]["opened"]["recipe"]["version"], 2, "undo opens it again");
    let (status, _, said) = problem(server.try_post(&at("opened"), json!({"revision": 0})));
    assert!(status == 409 || said.contains("changed in another window"), "{status} {said}");
}

#[test]
fn a_recipe_that_would_hold_itself_is_refused() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = server.project();
    let card = kept(&server, &mut p);
    let id = p["id"].as_i64().unwrap();
    p = server.post(&format!("/api/projects/{id}/lay"), json!({"revision": p["revision"], "recipe": card["id"]}));
    let save = json!({"name": "Sea rust", "of": card["id"]});
    let (status, _, said) = problem(server.try_post(&format!("/api/projects/{id}/recipe"), save.clone()));
    assert!(status == 422 && said.contains("would hold itself: Sea rust → Sea rust"), "{said}");
    // As one of its own, the whole section is one, with a use inside.
    let cards = server.post(&format!("/api/projects/{id}/recipe"), json!({"name": "All of it"}));
    assert_eq!(named(&cards, "All of it")["layers"].as_array().unwrap().len(), 2);
    let used = server.get(&format!("/api/cabinet/{}/used", card["id"]));
    assert_eq!(used[0]["layers"], json!(["Sea rust, version 1"]));
    drop(p);
}

#[test]
fn several_recipes_go_out_as_one_zip_and_what_was_there_is_noticed() {
    let (here, elsewhere) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let server = Server::on(here.path());
    let mut p = server.project();
    let card = kept(&server, &mut p);
    let id = p["id"].as_i64().unwrap();
    let cards = server.post(&format!("/api/projects/{id}/recipe"), json!({"layer": "l1", "name": "Sea rust"}));
    let twins: Vec<i64> = cards
        .as_array()
        .unwrap()
        .iter()
        .filter(|c| c["name"] == "Sea rust")
        .map(|c| c["id"].as_i64().unwrap())
        .collect();
    assert_eq!(twins.len(), 2, "two of one name stand beside each other");
    let zip = server.bytes(&format!("/api/cabinet/files?ids={},{}", twins[0], twins[1]));
    let mut archive = zip::ZipArchive::new(Cursor::new(&zip)).unwrap();
    let mut inside = String::new();
    assert_eq!(archive.len(), 2);
    let mut one = zip::ZipArchive::new(Cursor::new({
        let mut bytes = vec![];
        archive.by_name("Sea_rust.coatrecipe").unwrap().read_to_end(&mut bytes).unwrap();
        bytes
    }))
    .unwrap();
    one.by_name("recipe.json").unwrap().read_to_string(&mut inside).unwrap();
    assert!(inside.contains("Sea rust"));
    let there = Server::on(elsewhere.path());
    let first = ok(there.upload("/api/cabinet/import", zip.clone()));
    // The second does the very same as the first, under another id.
    assert_eq!((&first["taken"], &first["there"]), (&json!(["Sea rust"]), &json!(["Sea rust"])));
    let again = ok(there.upload("/api/cabinet/import", zip.clone()));
    assert_eq!((&again["taken"], again["there"].as_array().unwrap().len()), (&json!([]), 2));
    // Taken out and brought in again, it is back.
    let path = format!("/api/cabinet/{}/marks", named(&again["cards"], "Sea rust")["id"]);
    let out = ok(there.request("PUT", &path).json(&json!({"removed": true})).send().unwrap());
    assert_eq!(named(&out, "Sea rust")["marks"]["removed"], true);
    let back = ok(there.upload("/api/cabinet/import", zip.clone()));
    assert_eq!(named(&back["cards"], "Sea rust")["marks"]["removed"], false);
    let none = there.request("GET", "/api/cabinet/files?ids=none").send().unwrap();
    assert_eq!(problem(none).0, 404);
    let (status, _, said) = problem(there.upload("/api/cabinet/import", zip[..zip.len() / 2].to_vec()));
    assert!(status == 422 && said.contains(".coatrecipe"), "{said}");
    drop(card);
}

#[test]
fn palettes_and_pictures_of_one_project_are_found_for_another() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = server.project();
    let palette = json!({"name": "Quay", "colors": [{"color": "#2f6b6f", "weight": 0.5}]});
    server.edit(&mut p, json!([{"edit": "keep_palette", "palette": palette}]));
    let path = format!("/api/projects/{}/pictures?name=rain.png&purpose=mask&revision={}", p["id"], p["revision"]);
    let p = ok(server.upload(&path, png::rgba8(&[255; 16 * 4], 4, 4)));
    let mut q = server.project();
    server.edit(&mut q, json!([{"edit": "keep_palette", "palette": palette}]));
    let found = server.get("/api/cabinet/found");
    assert_eq!((found["palettes"].as_array().unwrap().len(), &found["palettes"][0]["palette"]), (1, &palette));
    let picture = &found["pictures"][0];
    assert_eq!((&picture["id"], &picture["picture"]["file"]), (&p["id"], &json!("rain.png")));
    server.edit(&mut q, json!([{"edit": "add_picture", "picture": picture["picture"]}]));
    let shown =
        server.bytes(&format!("/api/projects/{}/pictures/{}", q["id"], picture["picture"]["hash"].as_str().unwrap()));
    assert_eq!(&shown[..4], b"\x89PNG", "its bytes are there");
}

fn apply(recipe: &Path, mesh: &Path, out: &Path, more: &[&str]) -> (std::process::Output, Value) {
    let words = [recipe, mesh, out].map(|p| p.to_str().unwrap());
    let args = ["apply", words[0], "--mesh", words[1], "--out", words[2], "--size", "64", "--json"];
    run(&[&args[..], more].concat())
}

#[test]
fn from_the_command_line_slots_are_filled_presets_taken_and_seeds_thrown() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = server.project();
    kept(&server, &mut p);
    let picture = json!({"kind": "picture", "join": "multiply", "settings": {"picture": "rain.png"}});
    server.edit(
        &mut p,
        json!([
            {"edit": "add_step", "layer": "l1", "index": 9, "step": picture},
            {"edit": "make_dial", "target": {"layer": "l1", "step": "s1", "key": "seed"}, "label": "Chance"},
        ]),
    );
    let cards = server.post(&format!("/api/projects/{}/recipe", p["id"]), json!({"layer": "l1", "name": "Rain"}));
    let card = named(&cards, "Rain");
    let (recipe, mesh) = (data.path().join("rain.coatrecipe"), data.path().join("cube.obj"));
    std::fs::write(&recipe, server.bytes(&format!("/api/cabinet/files?ids={}", card["id"]))).unwrap();
    std::fs::write(&mesh, cube().replace("usemtl ", "usemtl my_")).unwrap();
    let (_, found) = run(&["inspect", recipe.to_str().unwrap(), "--json"]);
    assert_eq!(found["needs"], json!({"measurements": [], "parts": ["metal"], "pictures": ["rain.png"]}));
    assert_eq!((&found["presets"][0]["name"], &found["version"]), (&json!("As found"), &json!(1)));
    let part = run(&["inspect", mesh.to_str().unwrap(), "--json"]).1["parts"][0]["name"].as_str().unwrap().to_owned();
    let drops = data.path().join("drops.png");
    std::fs::write(&drops, png::rgba8(&[255; 16 * 4], 4, 4)).unwrap();
    let fills = [format!("metal={part}"), format!("rain.png={}", drops.display())];
    let with = |more: &[&str]| {
        let args =
            [&["--part", fills[0].as_str(), "--picture", fills[1].as_str(), "--preset", "As found"][..], more].concat();
        let (output, said) = apply(&recipe, &mesh, &data.path().join("out"), &args);
        assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
        std::fs::read(said["files"][0]["path"].as_str().unwrap()).unwrap()
    };
    let one = with(&["--seed", "3"]);
    assert_ne!(one, with(&["--seed", "4"]), "another seed is another chance");
    assert_eq!(one, with(&["--seed", "3"]));
    let bare = apply(&recipe, &mesh, &data.path().join("bare"), &[]).1;
    assert_ne!(one, std::fs::read(bare["files"][0]["path"].as_str().unwrap()).unwrap(), "unfilled it shows nothing");
    for (more, says) in [
        (["--part", "metal=glass"], "the mesh has: "),
        (["--part", "wood=x"], "there is no such slot “wood”; there are: metal"),
        (["--preset", "Ancient"], "there are: As found"),
        (["--picture", "rain.png=/no/such.png"], "No such file"),
    ] {
        let (output, _) = apply(&recipe, &mesh, &data.path().join("no"), &more);
        let said = String::from_utf8_lossy(&output.stderr).into_owned();
        assert!(!output.status.success() && said.contains(says), "{more:?}: {said}");
    }
}

#[test]
fn a_ladder_is_told_drawn_and_written() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = server.project();
    kept(&server, &mut p);
    let id = p["id"].as_i64().unwrap();
    server.edit(
        &mut p,
        json!([{"edit": "add_dial", "dial": {"label": "Salted", "kind": "switch", "default": false, "value": false}}]),
    );
    let sides = json!({"across": {"dial": "d1", "from": 0.2, "to": 0.8, "steps": 3}, "down": {"dial": "d2"}});
    let told = server.post(&format!("/api/projects/{id}/ladder"), sides.clone());
    let labels = |side: &str| -> Vec<String> {
        told[side].as_array().unwrap().iter().map(|r| r["label"].as_str().unwrap().to_owned()).collect()
    };
    assert_eq!(
        (labels("across"), labels("down")),
        (
            ["Wear 0.2", "Wear 0.5", "Wear 0.8"].map(str::to_owned).to_vec(),
            ["Salted off", "Salted on"].map(str::to_owned).to_vec()
        )
    );
    let still = json!({"eye": null, "target": [0, 0, 0], "fov": 28, "width": 48, "height": 40, "samples": 2, "light": "quay",
                       "turn": 0, "brightness": 1, "rim": 0, "exposure": 0, "surround": "grey", "ground": false, "turntable": 1});
    let sheet = server.try_post(&format!("/api/projects/{id}/ladder/sheet"), json!({"ladder": sides, "still": still}));
    let bytes = sheet.bytes().unwrap();
    let size = |at: usize| u32::from_be_bytes(bytes[at..at + 4].try_into().unwrap());
    assert_eq!((size(16), size(20)), (3 * 58 + 10, 2 * (40 + 2 * 20 + 10) + 10));
    for (across, says) in [
        (json!({"dial": "d1", "steps": 1}), "2 to 12 steps"),
        (json!({"dial": "d1", "to": 7.0}), "within its range"),
        (json!({"dial": "d9"}), "d9"),
    ] {
        let (status, _, said) =
            problem(server.try_post(&format!("/api/projects/{id}/ladder"), json!({"across": across})));
        assert!(status == 422 && said.contains(says), "{said}");
    }
    let file = data.path().join("tile.dustcoat");
    std::fs::write(&file, server.bytes(&format!("/api/projects/{id}/file"))).unwrap();
    let out = data.path().join("ladder.png");
    let words = [file.to_str().unwrap(), out.to_str().unwrap()];
    let args = [
        "ladder",
        words[0],
        "--out",
        words[1],
        "--across",
        "Wear=0.2..0.8/2",
        "--down",
        "Salted",
        "--size",
        "64",
        "--samples",
        "2",
        "--texture",
        "64",
        "--json",
    ];
    let (output, said) = run(&args);
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    assert_eq!(
        said["steps"],
        json!(["Wear 0.2, Salted off", "Wear 0.8, Salted off", "Wear 0.2, Salted on", "Wear 0.8, Salted on"])
    );
    assert_eq!(&std::fs::read(&out).unwrap()[..4], b"\x89PNG");
    let (output, _) = run(&["ladder", words[0], "--out", words[1], "--across", "Wear=low"]);
    assert!(String::from_utf8_lossy(&output.stderr).contains("DIAL=FROM..TO"));
}

#[test]
fn what_the_cabinet_shows_and_does_not_keep_is_liked_and_stays_so() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let like = |server: &Server, thing: &str, favourite: bool| {
        let asked = json!({"thing": thing, "favourite": favourite});
        server.request("PUT", "/api/cabinet/favourites").json(&asked).send().unwrap()
    };
    for thing in ["finish-wax", "palette-Quay-#2b585e 1", "finish-wax"] {
        assert!(like(&server, thing, true).status().is_success());
    }
    assert_eq!(problem(like(&server, "", true)).0, 422);
    assert_eq!(problem(like(&server, &"x".repeat(2_001), true)).0, 422);
    server.kill();
    let server = Server::on(data.path());
    assert_eq!(server.get("/api/cabinet/found")["favourites"], json!(["finish-wax", "palette-Quay-#2b585e 1"]));
    like(&server, "finish-wax", false);
    assert_eq!(server.get("/api/cabinet/found")["favourites"], json!(["palette-Quay-#2b585e 1"]));
}

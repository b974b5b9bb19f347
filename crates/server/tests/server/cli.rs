//! The command line: files in, files out, exit codes, JSON.

use std::path::Path;

use crate::common::{Server, cube, lay, ok, run};
use serde_json::{Value, json};

fn text(path: &Path) -> &str {
    path.to_str().unwrap()
}

/// Files stand in the answer as paths or as objects with one.
fn path(file: &Value) -> &str {
    file.as_str().unwrap_or_else(|| file["path"].as_str().unwrap())
}

fn exists(file: &Value) -> bool {
    Path::new(path(file)).is_file()
}

#[test]
fn readings_are_measured_and_written_as_sixteen_bit_pictures() {
    let dir = tempfile::tempdir().unwrap();
    let (mesh, out) = (dir.path().join("cube.obj"), dir.path().join("out"));
    std::fs::write(&mesh, cube()).unwrap();
    let args = [
        "bake",
        text(&mesh),
        "--out",
        text(&out),
        "--size",
        "64",
        "--readings",
        "occlusion,edges",
        "--set",
        "occlusion.rays=16",
        "--set",
        "curvature.medium=3",
        "--json",
    ];
    let (output, said) = run(&args);
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    let files = said["files"].as_array().unwrap();
    assert_eq!(files.iter().map(|f| f["reading"].as_str().unwrap()).collect::<Vec<_>>(), ["occlusion", "edges"]);
    assert!(files.iter().all(|f| exists(f) && f["sheet"] == "1001") && said["seconds"].is_number());
    let first = std::fs::read(files[0]["path"].as_str().unwrap()).unwrap();
    assert_eq!((first[24], first[25]), (16, 0), "bit depth and colour type of the PNG header");
    let (output, _) = run(&args);
    assert!(output.status.success());
    assert_eq!(std::fs::read(files[0]["path"].as_str().unwrap()).unwrap(), first, "the same bytes again");
}

#[test]
fn every_reading_and_more_is_written_in_both_formats_and_for_every_sheet() {
    use dustcoat_core::raster::picture::{Picture, PictureChannel};
    let dir = tempfile::tempdir().unwrap();
    let mesh = dir.path().join("plates.obj");
    // Two plates of 10 mm, the second in the tile to the right.
    let plate = |x: i32| format!("v {x} 0 10\nv {} 0 10\nv {} 0 0\nv {x} 0 0\n", x + 10, x + 10);
    let uv = |u: f32| format!("vt {} 0.1\nvt {} 0.1\nvt {} 0.9\nvt {} 0.9\n", u + 0.1, u + 0.9, u + 0.9, u + 0.1);
    let faces = "f 1/1 2/2 3/3 4/4\nf 5/5 6/6 7/7 8/8\n";
    std::fs::write(&mesh, format!("{}{}{}{}{faces}", plate(0), plate(20), uv(0.0), uv(1.0))).unwrap();
    let bake = |folder: &str, more: &[&str]| {
        let out = dir.path().join(folder);
        let mut args = vec!["bake", text(&mesh), "--size", "64", "--json", "--out", text(&out)];
        args.extend(more);
        let (output, said) = run(&args);
        (output.status.code(), said, String::from_utf8_lossy(&output.stderr).into_owned())
    };
    let (code, said, error) = bake("all", &[]);
    assert_eq!(code, Some(0), "{error}");
    let files = said["files"].as_array().unwrap();
    assert_eq!(files.len(), 2 * dustcoat_core::bake::READINGS.len(), "every reading, once per sheet");
    assert!(files.iter().all(exists) && ["1001", "1002"].iter().all(|s| files.iter().any(|f| f["sheet"] == *s)));

    let finer = text(&mesh).to_owned();
    let more =
        ["--format", "exr", "--readings", "position,normal,edges:fine,base_normal", "--finer", &finer, "--cage", "1"];
    let (code, said, error) = bake("exr", &more);
    assert_eq!(code, Some(0), "{error}");
    let middle = |file: &Value, channel: PictureChannel| {
        let picture = Picture::decode("a", &std::fs::read(path(file)).unwrap()).unwrap().numbers(channel);
        picture.nearest([0.5, 0.5])
    };
    let files = said["files"].as_array().unwrap();
    let of =
        |reading: &str, sheet: &str| files.iter().find(|f| f["reading"] == reading && f["sheet"] == sheet).unwrap();
    let x = middle(of("position", "1002"), PictureChannel::Red);
    assert!((x - 25.0).abs() < 0.2, "positions in an EXR are in mm: {x}");
    let up = middle(of("normal", "1001"), PictureChannel::Green);
    let straight = middle(of("base_normal", "1001"), PictureChannel::Blue);
    assert!((up - 1.0).abs() < 1e-3 && (straight - 1.0).abs() < 1e-3, "{up} {straight}");
    assert!(files.iter().any(|f| f["reading"] == "edges_fine"));

    for (wrong, words) in [
        (["--readings", "edges:huge"], "medium, fine, broad"),
        (["--readings", "altitude:fine"], "one way only"),
        (["--readings", "base_normal"], "--finer"),
        (["--set", "curvature.depth=2"], "it has: fine, medium, broad"),
        (["--set", "lustre.rays=2"], "there is nothing called"),
    ] {
        let (code, _, error) = bake("wrong", &wrong);
        assert!(code == Some(2) && error.contains(words), "{wrong:?}: {error}");
    }
}

#[test]
fn demo_files_are_written_inspected_exported_and_applied() {
    let dir = tempfile::tempdir().unwrap();
    let out = dir.path().join("demo");
    let (output, said) = run(&["demo-files", "--out", text(&out), "--json"]);
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    assert!(said["files"].as_array().unwrap().iter().all(exists), "{said}");
    let find = |ending: &str, stem: &str| {
        let all = said["files"].as_array().unwrap().iter().map(path);
        let found = all.into_iter().find(|p| p.ends_with(ending) && p.contains(stem));
        found.unwrap_or_else(|| panic!("{stem}{ending} in {said}")).to_owned()
    };
    let (tile, recipe, project) = (find(".obj", "tile"), find(".coatrecipe", "dock-paint"), find(".dustcoat", "tile"));
    let recipes = said["files"].as_array().unwrap().iter().map(path).filter(|p| p.ends_with(".coatrecipe"));
    assert!(recipes.count() >= 16, "the whole cabinet: {said}");
    for project in said["files"].as_array().unwrap().iter().map(path).filter(|p| p.ends_with(".dustcoat")) {
        assert!(run(&["inspect", project]).0.status.success(), "{project} holds all that it names");
    }
    assert!(run(&["inspect", &find(".glb", "valve"), "--json"]).1["triangles"].as_u64().unwrap() > 20_000);

    let textures = dir.path().join("textures");
    let (output, said) = run(&["export", &project, "--out", text(&textures), "--size", "64", "--json"]);
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    let maps: Vec<&str> = said["files"].as_array().unwrap().iter().map(|f| f["map"].as_str().unwrap()).collect();
    for map in ["base_color", "orm", "normal", "height", "dressed"] {
        assert!(maps.contains(&map), "{map} in {maps:?}");
    }
    assert!(said["files"].as_array().unwrap().iter().all(exists));
    assert!(said["coverage"][0]["layer"].is_string() && said["coverage"][0]["visible"].is_number());

    let coverage = |wear: &str| {
        let args =
            ["apply", &recipe, "--mesh", &tile, "--out", text(&textures), "--size", "64", "--set", wear, "--json"];
        let (output, said) = run(&args);
        assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
        let all = said["coverage"].as_array().unwrap().clone();
        let paint = all.into_iter().find(|c| c["layer"] == "Dock paint");
        paint.unwrap_or_else(|| panic!("{said}"))["visible"].as_f64().unwrap()
    };
    assert!(coverage("Wear=0.1") > coverage("Wear=0.9") + 0.1, "wear wears the paint");
}

#[test]
fn wrong_use_is_two_and_wrong_files_are_one() {
    let dir = tempfile::tempdir().unwrap();
    let mesh = dir.path().join("cube.obj");
    std::fs::write(&mesh, cube()).unwrap();
    let out = text(dir.path());
    let cases: &[(&[&str], i32, &str)] = &[
        (&["bake", text(&mesh), "--out", out, "--size", "100"], 2, "power of two"),
        (&["bake", text(&mesh), "--out", out, "--readings", "smell"], 2, "smell"),
        (&["bake", text(&mesh), "--out", out, "--size", "64", "--set", "occlusion.rays=many"], 2, "rays"),
        (&["bake", "/nowhere/a.obj", "--out", out], 1, "/nowhere/a.obj"),
        (&["export", text(&mesh), "--out", out], 1, "package"),
        (&["apply", text(&mesh), "--mesh", text(&mesh), "--out", out], 1, "package"),
        (&["inspect", "/nowhere/a.glb"], 1, "/nowhere"),
        (&["polish"], 2, "polish"),
    ];
    for (args, code, words) in cases {
        let (output, _) = run(args);
        let said = String::from_utf8_lossy(&output.stderr);
        assert_eq!(output.status.code(), Some(*code), "{args:?}: {said}");
        assert!(said.contains(words), "{args:?}: “{said}” should speak of “{words}”");
        assert!(!said.contains("panicked"), "{said}");
    }
}

#[test]
fn a_map_that_was_painted_elsewhere_comes_in_as_a_step() {
    let dir = tempfile::tempdir().unwrap();
    let server = Server::on(&dir.path().join("data"));
    let mut p = server.project();
    server.edit(&mut p, json!([lay("Worn", json!([]))]));
    let (project, mask) = (dir.path().join("cube.dustcoat"), dir.path().join("worn.png"));
    std::fs::write(&project, server.bytes(&format!("/api/projects/{}/file", p["id"]))).unwrap();
    let half: Vec<u8> = (0..32 * 32).flat_map(|i| [if i % 32 < 16 { 255 } else { 0 }, 0, 0, 255]).collect();
    std::fs::write(&mask, dustcoat_core::handoff::png::rgba8(&half, 32, 32)).unwrap();
    let out = dir.path().join("painted.dustcoat");
    let args = |layer: &str, join: &str| {
        let all = [
            "strokes",
            text(&project),
            "--mask",
            text(&mask),
            "--layer",
            layer,
            "--join",
            join,
            "--out",
            text(&out),
            "--json",
        ];
        run(&all)
    };
    let (output, said) = args("Worn", "replace");
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    assert_eq!(said["picture"], "worn.png");
    // The app opens it, and the step shows: half of every chart at the most is covered.
    let opened = ok(server.upload("/api/projects/file?name=painted.dustcoat", std::fs::read(&out).unwrap()));
    let step = &opened["document"]["layers"][0]["mask"]["steps"][0];
    assert_eq!((&step["kind"], &step["settings"]["picture"]), (&Value::from("painted"), &Value::from("worn.png")));
    let base =
        |id: &Value| server.post(&format!("/api/projects/{id}/evaluate"), json!({"page": "t"}))["base_color"].clone();
    assert_ne!(base(&opened["id"]), base(&p["id"]));
    // What is wrong is said in a sentence that names what there is.
    for (layer, join, says) in [("Gone", "replace", "There are: Worn."), ("Worn", "beside", "overlay")] {
        let (output, _) = args(layer, join);
        let said = String::from_utf8_lossy(&output.stderr).into_owned();
        assert!(output.status.code() == Some(2) && said.contains(says), "{said}");
    }
}

#[test]
fn a_mesh_is_read_with_what_it_names_in_its_folder_and_nothing_outside() {
    let dir = tempfile::tempdir().unwrap();
    let (inside, parent) = (dir.path().join("props"), dir.path());
    std::fs::create_dir_all(inside.join("paints")).unwrap();
    let obj = |library: &str| format!("mtllib {library}\nusemtl red\n{}", cube());
    let red = "newmtl red\nKd 1 0 0\n";
    std::fs::write(inside.join("paints/sea paints.mtl"), red).unwrap();
    std::fs::write(parent.join("outside.mtl"), red).unwrap();
    let of = |name: &str, library: &str| {
        std::fs::write(inside.join(name), obj(library)).unwrap();
        let (output, said) = run(&["inspect", text(&inside.join(name)), "--json"]);
        assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
        said["findings"].to_string().contains("material library")
    };
    assert!(!of("beside.obj", "paints/sea paints.mtl"));
    assert!(of("gone.obj", "paints/none.mtl"));
    assert!(of("out.obj", "../outside.mtl"), "what lies outside is not looked at");
    assert!(of("link.obj", text(&parent.join("outside.mtl"))));
    #[cfg(unix)]
    {
        std::os::unix::fs::symlink(parent.join("outside.mtl"), inside.join("linked.mtl")).unwrap();
        assert!(of("linked.obj", "linked.mtl"), "nor where a link leads");
    }
    // A folder is taken as a ZIP is: the largest mesh in it.
    let (output, said) = run(&["inspect", text(&inside), "--json"]);
    assert!(output.status.success() && said["triangles"] == 12, "{said}");
    std::fs::create_dir(parent.join("empty")).unwrap();
    let (output, _) = run(&["inspect", text(&parent.join("empty"))]);
    let said = String::from_utf8_lossy(&output.stderr).into_owned();
    assert!(output.status.code() == Some(1) && said.contains("GLB, glTF, OBJ"), "{said}");
}

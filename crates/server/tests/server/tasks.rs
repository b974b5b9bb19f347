//! Work for a farm: a list becomes lines, each is done by itself, may be stopped and run again, and is checked; the bytes are those of a plain run.

use std::collections::BTreeMap;
use std::path::Path;
use std::process::{Command, Stdio};

use dustcoat_core::document::{Document, Edit, apply};
use dustcoat_core::recipe::package::{Project, write_project};
use serde_json::{Value, json};

use crate::common::{coat, cube, run, until};

/// A project with two variants, as a file.
fn crate_with_variants(path: &Path) {
    let mesh = cube().into_bytes();
    let mut document = Document::new("Crate");
    document.intake.mesh.file = "cube.obj".into();
    document.intake.mesh.hash = blake3::hash(&mesh).to_hex().to_string();
    let clouds = json!([{"kind": "perlin", "join": "replace"}, {"kind": "edges", "join": "add"}]);
    let layer = serde_json::from_value(coat("Paint", clouds)).unwrap();
    let edits = [
        Edit::AddLayer { inside: None, index: 0, layer, dials: vec![] },
        Edit::KeepVariant { name: "Worn / out".into(), on: None },
        Edit::KeepVariant { name: "Dry".into(), on: None },
        Edit::ShowInVariant { name: "Dry".into(), layer: "l1".into(), shown: Some(false) },
    ];
    let mut document = edits.iter().fold(document, |d, e| apply(&d, e).unwrap());
    // Few rays: what is tested is not what they tell.
    for kind in ["curvature", "occlusion"] {
        document.readings.entry(kind.into()).or_default().insert("rays".into(), 4.0.into());
    }
    let files = BTreeMap::from([(document.intake.mesh.hash.clone(), mesh)]);
    std::fs::write(path, write_project(&Project { document, files }, None)).unwrap();
}

fn list(folder: &Path, sizes: &[u32]) -> String {
    let piece = json!({
        "project": "crate.dustcoat", "variants": ["all"], "sizes": sizes, "layout": "separate", "formats": ["png"], "out": "out",
    });
    let path = folder.join("list.json");
    std::fs::write(&path, json!({"pieces": [piece]}).to_string()).unwrap();
    path.to_str().unwrap().to_owned()
}

fn files_of(folder: &Path) -> BTreeMap<String, Vec<u8>> {
    let all = std::fs::read_dir(folder).unwrap().map(|f| f.unwrap().path());
    all.map(|p| (p.file_name().unwrap().to_str().unwrap().to_owned(), std::fs::read(&p).unwrap())).collect()
}

fn said(args: &[&str]) -> (Option<i32>, Value, String) {
    let mut all = args.to_vec();
    all.push("--json");
    let (output, said) = run(&all);
    (output.status.code(), said, String::from_utf8_lossy(&output.stderr).into_owned())
}

#[test]
fn tasks_are_done_one_by_one_and_are_what_a_plain_run_writes() {
    let dir = tempfile::tempdir().unwrap();
    let at = |name: &str| dir.path().join(name).to_str().unwrap().to_owned();
    crate_with_variants(&dir.path().join("crate.dustcoat"));
    let list = list(dir.path(), &[64, 128]);
    let lines = at("tasks.jsonl");
    assert_eq!(said(&["tasks", &list, "--out", &lines]).1, json!({"tasks": 4, "done": 0}));
    let outs: Vec<String> = std::fs::read_to_string(&lines)
        .unwrap()
        .lines()
        .map(|l| serde_json::from_str::<Value>(l).unwrap()["out"].as_str().unwrap().to_owned())
        .collect();
    assert_eq!(outs, ["out/Crate/Worn___out/64", "out/Crate/Worn___out/128", "out/Crate/Dry/64", "out/Crate/Dry/128"]);
    let (code, gathered, error) = said(&["gather", &lines]);
    assert_eq!((code, gathered["missing"].as_array().unwrap().len()), (Some(1), 4));
    assert!(error.contains("4 are missing"), "{error}");
    for index in ["3", "0", "1", "2"] {
        let (code, done, error) = said(&["task", &lines, "--index", index]);
        assert_eq!((code, &done["written"]), (Some(0), &json!(true)), "{error}");
    }
    assert_eq!(said(&["gather", &list]).0, Some(0));
    // The same as a plain run, and nothing half done beside it.
    let (project, plain) = (at("crate.dustcoat"), at("plain"));
    let args = ["export", &project, "--variant", "Dry", "--size", "64", "--layout", "separate", "--format", "png"];
    assert_eq!(said(&[&args[..], &["--out", &plain]].concat()).0, Some(0));
    let mut task = files_of(&dir.path().join("out/Crate/Dry/64"));
    assert!(task.remove("task.json").is_some());
    assert_eq!(task, files_of(Path::new(&plain)));
    assert_ne!(
        task["Crate_roughness.png"],
        files_of(&dir.path().join("out/Crate/Worn___out/64"))["Crate_roughness.png"]
    );
    // Again: nothing is left to be done, and what is done isn't done again.
    assert_eq!(said(&["task", &lines, "--index", "2"]).1["written"], false);
    assert_eq!(said(&["tasks", &list, "--out", &lines]).1, json!({"tasks": 0, "done": 4}));
    // A file that was damaged, or a project that was changed, is to be done again.
    std::fs::write(dir.path().join("out/Crate/Dry/64/Crate_roughness.png"), b"half").unwrap();
    assert_eq!(said(&["tasks", &list, "--out", &lines]).1, json!({"tasks": 1, "done": 3}));
    let mut bytes = std::fs::read(&project).unwrap();
    let mut document = dustcoat_core::recipe::package::read_project(&bytes, Default::default()).unwrap();
    document.document.layers[0].opacity = 0.5.into();
    bytes = write_project(&document, None);
    std::fs::write(&project, bytes).unwrap();
    assert_eq!(said(&["tasks", &list, "--out", &lines]).1, json!({"tasks": 4, "done": 0}));
}

#[test]
fn a_task_that_is_killed_leaves_nothing_half_done_under_its_name_and_is_run_again() {
    let dir = tempfile::tempdir().unwrap();
    crate_with_variants(&dir.path().join("crate.dustcoat"));
    let list = list(dir.path(), &[512]);
    let lines = dir.path().join("tasks.jsonl").to_str().unwrap().to_owned();
    said(&["tasks", &list, "--out", &lines]);
    let out = dir.path().join("out/Crate/Worn___out/512");
    let written = || std::fs::read_dir(&out).map_or(0, Iterator::count);
    let mut child = Command::new(env!("CARGO_BIN_EXE_dustcoat"))
        .args(["task", &lines, "--index", "0"])
        .stdout(Stdio::null())
        .spawn()
        .unwrap();
    until("the first file is begun", || written() > 0);
    child.kill().unwrap();
    child.wait().unwrap();
    std::fs::write(out.join("Crate_height.png.1.part"), b"ha").unwrap();
    let whole = |name: &str, bytes: &[u8]| !name.ends_with(".png") || image::load_from_memory(bytes).is_ok();
    assert!(files_of(&out).iter().all(|(name, bytes)| whole(name, bytes)), "what has its name is whole");
    let (code, _, error) = said(&["task", &lines, "--index", "0"]);
    assert_eq!(code, Some(0), "{error}");
    assert!(!files_of(&out).keys().any(|name| name.ends_with(".part")), "what was left half done is gone");
    assert_eq!(said(&["gather", &lines]).1["missing"], json!([{"index": 1, "out": "out/Crate/Dry/512"}]));
}

#[test]
fn what_is_wrong_with_a_list_is_said_before_anything_is_done() {
    let dir = tempfile::tempdir().unwrap();
    let at = |name: &str| dir.path().join(name).to_str().unwrap().to_owned();
    crate_with_variants(&dir.path().join("crate.dustcoat"));
    let (lines, list) = (at("tasks.jsonl"), at("list.json"));
    let refused = |pieces: Value, out: &str| {
        std::fs::write(&list, json!({"pieces": pieces}).to_string()).unwrap();
        let (code, _, error) = said(&["tasks", &list, "--out", out]);
        assert!(!Path::new(out).exists(), "nothing was written");
        (code, error)
    };
    let piece = |more: Value| {
        let mut piece = json!({"project": "crate.dustcoat", "out": "out"});
        piece.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
        piece
    };
    let (code, error) = refused(json!([piece(json!({"variants": ["Wet"]}))]), &lines);
    assert!(code == Some(2) && error.contains("no variant “Wet”; there are: Worn / out, Dry"), "{error}");
    let (code, error) = refused(json!([piece(json!({})), piece(json!({"layout": "packed"}))]), &lines);
    assert!(code == Some(2) && error.contains("would both be written to out/Crate/as-it-stands/as-it-is"), "{error}");
    let (code, error) = refused(json!([piece(json!({"size": 64}))]), &lines);
    assert!(code == Some(2) && error.contains("unknown field `size`"), "{error}");
    let (code, error) = refused(json!([piece(json!({"project": "gone.dustcoat"}))]), &lines);
    assert!(code == Some(1) && error.contains("gone.dustcoat"), "{error}");
    let (code, error) = refused(json!([piece(json!({}))]), &at("elsewhere/tasks.jsonl"));
    assert!(code == Some(2) && error.contains("into the folder of the list"), "{error}");
    std::fs::write(&lines, "{}\n").unwrap();
    let (code, _, error) = said(&["task", &lines, "--index", "0"]);
    assert!(code == Some(2) && error.contains("line 1"), "{error}");
    std::fs::write(&lines, "").unwrap();
    let (code, _, error) = said(&["task", &lines, "--index", "0"]);
    assert!(code == Some(2) && error.contains("there are 0 tasks"), "{error}");
}

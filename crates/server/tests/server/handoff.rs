//! Hand-off over HTTP and from the command line: layouts that belong to a project or are kept for all, what is written of variants, and the list of it.

use std::collections::BTreeMap;
use std::io::{Cursor, Read};

use dustcoat_core::document::{Document, FileChannel, FileKind, FileRow, Layout};
use dustcoat_core::handoff::manifest::Manifest;
use dustcoat_core::recipe::package::{Project, write_project};
use serde_json::{Value, json};

use crate::common::{Server, cube, lay, problem, run};

/// A layout of one file with the mask of a layer beside its roughness.
fn own() -> Layout {
    let slots = ["roughness", "metallic", "mask:Paint"].into_iter().map(FileChannel::of).collect();
    let row = FileRow { map: "mixed".into(), kind: FileKind::Png, bits: 8, srgb: false, slots, on: true };
    Layout { name: "Own".into(), size: 64, pattern: "{piece}_{map}".into(), height_range: 1.0, files: vec![row] }
}

fn unzipped(server: &Server, done: &Value) -> BTreeMap<String, Vec<u8>> {
    let path = format!("/api/downloads/{}/{}", done["download"].as_str().unwrap(), done["name"].as_str().unwrap());
    let mut zip = zip::ZipArchive::new(Cursor::new(server.bytes(&path))).unwrap();
    let names: Vec<String> = zip.file_names().map(|n| n.unwrap().into_owned()).collect();
    let mut read = |name: &String| {
        let mut bytes = vec![];
        zip.by_name(name).unwrap().read_to_end(&mut bytes).unwrap();
        (name.clone(), bytes)
    };
    names.iter().map(&mut read).collect()
}

#[test]
fn a_layout_belongs_to_the_project_outlives_a_restart_and_is_undone() {
    let data = tempfile::tempdir().unwrap();
    let mut server = Server::on(data.path());
    let mut p = server.project();
    let path = format!("/api/projects/{}", p["id"]);
    server.edit(&mut p, json!([{"edit": "set_draft_size", "size": 64}, lay("Paint", json!([]))]));
    let usual = server.post(&format!("{path}/handoff/plan"), json!({}));
    assert_eq!((&usual["layout"]["name"], &usual["refused"]), (&json!("glTF 2.0"), &json!(false)));
    assert!(usual["ready"].as_array().unwrap().len() >= 6 && usual["offered"].to_string().contains("mask:Paint"));
    server.edit(&mut p, json!([{"edit": "set_layout", "layout": own()}]));
    drop(server);
    server = Server::on(data.path());
    let plan = server.post(&format!("{path}/handoff/plan"), json!({}));
    assert_eq!(plan["files"][0]["name"], "cube_mixed.png");
    assert_eq!(plan["files"][0]["channels"], "R roughness · G metallic · B mask “Paint” · linear");
    let files = unzipped(&server, &server.post(&format!("{path}/handoff/write"), json!({})));
    let manifest: Manifest = serde_json::from_slice(&files["cube_manifest.json"]).unwrap();
    let written = &manifest.files[0];
    assert_eq!((written.name.as_str(), manifest.revision), ("cube_mixed.png", p["revision"].to_string()));
    assert_eq!(written.blake3, blake3::hash(&files["cube_mixed.png"]).to_hex().to_string());
    // A layer that is gone takes nothing along but the file that asks for it, and that is said.
    server.edit(&mut p, json!([{"edit": "set_layer", "layer": "l1", "name": "Primer"}]));
    let lost = server.post(&format!("{path}/handoff/plan"), json!({}));
    assert!(lost["refused"] == true && lost["problems"][0]["what"].as_str().unwrap().contains("mask:Paint"), "{lost}");
    let (status, _, said) = problem(server.try_post(&format!("{path}/handoff/write"), json!({})));
    assert!(status == 422 && said.contains("mask:Paint"), "{status} {said}");
    for _ in 0..2 {
        p = server.post(&format!("{path}/undo"), json!({"revision": p["revision"]}));
    }
    assert!(p["document"]["layout"].is_null());
}

#[test]
fn what_is_to_be_measured_before_a_hand_off_is_said_before_and_is_kept() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = server.project();
    let path = format!("/api/projects/{}", p["id"]);
    let edges = json!([{"kind": "edges", "join": "replace"}]);
    server.edit(
        &mut p,
        json!([{"edit": "set_draft_size", "size": 64}, lay("Paint", edges), {"edit": "set_layout", "layout": own()}]),
    );
    let said = || {
        let plan = server.post(&format!("{path}/handoff/plan"), json!({}));
        let problems = plan["problems"].as_array().unwrap().iter().map(|p| p["what"].as_str().unwrap().to_owned());
        problems.filter(|what| what.contains("to be measured")).collect::<Vec<_>>()
    };
    // A corner reads otherwise at every size, and no file holds occlusion.
    assert_eq!(said(), ["Before anything is written there is to be measured: curvature at 256."]);
    server.post(&format!("{path}/handoff/write"), json!({}));
    assert_eq!(said(), [""; 0]);
}

#[test]
fn kept_layouts_are_there_for_every_project_and_never_take_the_place_of_another() {
    let data = tempfile::tempdir().unwrap();
    let mut server = Server::on(data.path());
    assert_eq!(server.get("/api/layouts"), json!([]));
    server.post("/api/layouts", json!(own()));
    server.post("/api/layouts", json!(Layout { size: 2048, ..own() }));
    let unnamed = Layout { name: " ".into(), ..own() };
    assert_eq!(problem(server.try_post("/api/layouts", json!(unnamed))).0, 422);
    drop(server);
    server = Server::on(data.path());
    let kept = server.get("/api/layouts");
    let names: Vec<&str> = kept.as_array().unwrap().iter().map(|k| k["layout"]["name"].as_str().unwrap()).collect();
    assert_eq!((names, &kept[0]["layout"]["size"]), (vec!["Own", "Own 2"], &json!(64)));
    let gone = format!("/api/layouts/{}", kept[0]["id"]);
    assert!(server.request("DELETE", &gone).send().unwrap().status().is_success());
    assert_eq!(server.request("DELETE", &gone).send().unwrap().status(), 404);
    assert_eq!(server.get("/api/layouts")[0]["layout"]["name"], "Own 2");
}

#[test]
fn all_variants_are_written_in_one_go_each_in_a_folder_of_its_own() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = server.project();
    server.edit(&mut p, json!([{"edit": "set_draft_size", "size": 64}, lay("Paint", json!([]))]));
    server.edit(&mut p, json!([{"edit": "keep_variant", "name": "Dry"}]));
    server.edit(&mut p, json!([{"edit": "set_layer", "layer": "l1", "shown": false}]));
    server.edit(&mut p, json!([{"edit": "keep_variant", "name": "Worn / out"}]));
    let slots = ["base_color.r", "base_color.g", "base_color.b"].into_iter().map(FileChannel::of).collect();
    let row = FileRow { map: "color".into(), kind: FileKind::Png, bits: 8, srgb: true, slots, on: true };
    let layout = Layout { pattern: "{piece}_{variant}_{map}".into(), files: vec![row], ..own() };
    let asked = json!({"layout": layout, "variants": true});
    let done = server.post(&format!("/api/projects/{}/handoff/write", p["id"]), asked);
    let files = unzipped(&server, &done);
    let names: Vec<&str> = files.keys().map(String::as_str).collect();
    let wanted = [
        "Dry/cube_Dry_color.png",
        "Dry/cube_manifest.json",
        "Worn___out/cube_Worn___out_color.png",
        "Worn___out/cube_manifest.json",
    ];
    assert_eq!(names, wanted);
    assert_ne!(files[wanted[0]], files[wanted[2]], "the coat is hidden in one");
}

#[test]
fn the_command_line_takes_layouts_by_name_and_as_files_and_leaves_what_is_the_same() {
    let dir = tempfile::tempdir().unwrap();
    let at = |name: &str| dir.path().join(name).to_str().unwrap().to_owned();
    let mesh = cube().into_bytes();
    let mut document = Document::new("Crate");
    document.intake.mesh.file = "cube.obj".into();
    document.intake.mesh.hash = blake3::hash(&mesh).to_hex().to_string();
    let files = BTreeMap::from([(document.intake.mesh.hash.clone(), mesh)]);
    let packed = |document: Document| write_project(&Project { document, files: files.clone() }, None);
    std::fs::write(at("crate.dustcoat"), packed(document.clone())).unwrap();
    let export = |out: &str, more: &[&str]| {
        let (project, out) = (at("crate.dustcoat"), at(out));
        let mut args = vec!["export", &project, "--out", &out, "--size", "64", "--json"];
        args.extend(more);
        let (output, said) = run(&args);
        (output.status.code(), said, String::from_utf8_lossy(&output.stderr).into_owned())
    };
    let names = |said: &Value| {
        let name = |f: &Value| f["path"].as_str().unwrap().rsplit('/').next().unwrap().to_owned();
        said["files"].as_array().unwrap().iter().map(name).collect::<Vec<_>>()
    };
    let (code, said, error) = export("a", &["--layout", "reflectance", "--format", "exr,tiff"]);
    assert_eq!(code, Some(0), "{error}");
    let all = names(&said);
    assert!(all.contains(&"Crate_glossiness.exr".into()) && all.contains(&"Crate_diffuse.tif".into()), "{all:?}");
    let (_, said, _) = export("a", &["--layout", "reflectance", "--format", "exr,tiff"]);
    assert!(said["files"].as_array().unwrap().iter().all(|f| f["unchanged"] == true), "{said}");
    let (code, said, error) = export("b", &["--format", "materialx,usd,gltf"]);
    assert_eq!(code, Some(0), "{error}");
    let all = names(&said);
    for wanted in ["Crate_material.mtlx", "Crate_dressed.usda", "Crate_dressed.gltf", "Crate_dressed.bin"] {
        assert!(all.contains(&wanted.into()), "{wanted} in {all:?}");
    }
    let row = FileRow { map: "rough".into(), slots: vec![FileChannel::of("roughness")], ..own().files[0].clone() };
    let layout = Layout { files: vec![row], ..own() };
    std::fs::write(at("layout.json"), serde_json::to_vec(&layout).unwrap()).unwrap();
    let file = at("layout.json");
    assert_eq!(names(&export("c", &["--layout", &file]).1), ["Crate_rough.png"]);
    // The project's own, where nothing else is said.
    let document = Document { layout: Some(layout), ..document };
    std::fs::write(at("crate.dustcoat"), packed(document)).unwrap();
    assert_eq!(names(&export("d", &[]).1), ["Crate_rough.png"]);
    assert!(dir.path().join("d/Crate_manifest.json").is_file());
    assert!(std::fs::read_dir(dir.path().join("d")).unwrap().count() == 2, "nothing half done is left");
    for (more, words) in
        [(["--layout", "engine"], "there are: gltf, separate"), (["--format", "bmp"], "one of png, tiff")]
    {
        let (code, _, error) = export("e", &more);
        assert!(code == Some(2) && error.contains(words), "{more:?}: {error}");
    }
    std::fs::write(at("broken.json"), "{}").unwrap();
    let broken = at("broken.json");
    let (code, _, error) = export("e", &["--layout", &broken]);
    assert!(code == Some(2) && error.contains("is no layout"), "{error}");
}

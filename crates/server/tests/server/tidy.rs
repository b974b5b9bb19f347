//! What is kept stays small, and what nothing leads back to goes: revisions as differences, tidying, measurements of any size.

use std::collections::BTreeMap;
use std::process::Command;

use crate::common::{Server, cube, lay};
use dustcoat::db::Db;
use dustcoat_core::document::{self, Document, Edit};
use serde_json::{Value, json};

/// A document of many layers, each with a line of several steps.
fn large(layers: usize) -> Document {
    let steps = |i: usize| {
        json!([
            {"id": "s1", "kind": "perlin", "join": "replace", "settings": {"size": 5 + i, "octaves": 5, "seed": i}},
            {"id": "s2", "kind": "worley", "join": "multiply", "amount": 0.5, "settings": {"size": 3 + i}},
            {"id": "s3", "kind": "threshold", "settings": {"cut": 0.4, "softness": 0.1}}
        ])
    };
    let layer = |i: usize| {
        let finish = json!({"channels": {"base_color": {"on": true, "settings": {"color": "#445566"}}, "roughness": {"on": true, "settings": {"value": 0.5}}}});
        json!({"id": format!("l{i}"), "name": format!("Coat {i}"), "shown": true, "opacity": 1.0, "kind": "coat", "finish": finish, "mask": {"steps": steps(i)}})
    };
    let mut d = Document::new("Many coats");
    d.layers = serde_json::from_value(Value::Array((0..layers).map(layer).collect())).unwrap();
    d.intake.mesh.file = "cube.obj".into();
    d.intake.mesh.hash = blake3::hash(cube().as_bytes()).to_hex().to_string();
    d
}

fn turned(d: &Document, layer: usize, to: f64) -> Document {
    let target = json!({"layer": format!("l{layer}"), "step": "s3", "key": "cut"});
    let edit: Edit = serde_json::from_value(json!({"edit": "set_param", "target": target, "value": to})).unwrap();
    document::apply(d, &edit).unwrap()
}

fn bytes(folder: &std::path::Path) -> u64 {
    std::fs::read_dir(folder).unwrap().map(|f| f.unwrap().metadata().unwrap().len()).sum()
}

#[test]
fn two_hundred_layers_edited_two_thousand_times_stay_below_fifty_megabytes() {
    let data = tempfile::tempdir().unwrap();
    let db = Db::open(data.path()).unwrap();
    let files = BTreeMap::from([(large(1).intake.mesh.hash, cube().into_bytes())]);
    let mut document = large(200);
    let id = db.create_project(&document, &files).unwrap();
    let mut row = db.project(id).unwrap();
    let mut all = vec![];
    for k in 0..2000usize {
        document = turned(&document, k * 7 % 200, 0.1 + (k % 80) as f64 / 100.0);
        row = db.revise(id, row.revision, "turn", &document).unwrap();
        if k % 97 == 0 {
            all.push((row.revision, document.clone()));
        }
    }
    drop(db);
    let size = bytes(data.path());
    assert!(size < 50 << 20, "{} MB", size >> 20);
    // Every one of them comes back, also through a fresh reader.
    let db = Db::open(data.path()).unwrap();
    assert!(db.project(id).unwrap().document == document, "the newest one comes back");
    let mut at = db.project(id).unwrap();
    for (revision, document) in all.iter().rev().take(3) {
        while at.revision != *revision {
            at = db.step(id, at.revision, true).unwrap();
        }
        assert!(at.document == *document, "revision {revision} comes back");
    }
}

#[test]
fn tidying_says_what_goes_and_takes_nothing_that_undo_or_a_snapshot_leads_to() {
    let data = tempfile::tempdir().unwrap();
    let db = Db::open(data.path()).unwrap();
    let mesh = large(1).intake.mesh.hash;
    let id = db.create_project(&large(3), &BTreeMap::from([(mesh.clone(), cube().into_bytes())])).unwrap();
    let mut row = db.project(id).unwrap();
    let mut kept = None;
    for k in 0..30usize {
        row = db.revise(id, row.revision, "turn", &turned(&row.document, k % 3, 0.3 + k as f64 / 100.0)).unwrap();
        if k == 4 {
            db.keep_snapshot(id, "early").unwrap();
            kept = Some(row.document.clone());
        }
    }
    let loose = db.keep_asset(b"a picture that nobody names").unwrap();
    db.keep_reading("old", &[0.5; 1000], 1.0).unwrap();
    assert_eq!(db.tidy(86_400, false).unwrap(), Default::default(), "all of it is young");
    drop(db);
    // A year goes by, but for the last three edits.
    let c = rusqlite::Connection::open(data.path().join("dustcoat.sqlite")).unwrap();
    c.execute("UPDATE revisions SET made = made - 31536000 WHERE id <= ?", [row.revision - 3]).unwrap();
    c.execute_batch("UPDATE assets SET made = made - 31536000; UPDATE readings SET used = used - 31536000;").unwrap();
    drop(c);
    let run = |args: &[&str]| {
        let out = Command::new(env!("CARGO_BIN_EXE_dustcoat"))
            .args(["tidy", "--json", "--data"])
            .arg(data.path())
            .args(args)
            .output()
            .unwrap();
        serde_json::from_slice::<Value>(&out.stdout).unwrap_or_else(|e| panic!("{e}: {out:?}"))
    };
    let would = run(&[]);
    // 31 revisions: three young ones, what the oldest of them was made on, and the snapshot stay.
    let expected =
        json!({"projects": 0, "revisions": 26, "files": 1, "measurements": 1, "bytes": would["tidied"]["bytes"]});
    assert_eq!(would["tidied"], expected);
    assert_eq!(run(&[])["tidied"], expected, "saying so changes nothing");
    assert_eq!(run(&["--free"])["tidied"], expected);
    assert_eq!(run(&["--free"])["tidied"]["bytes"], 0);
    let db = Db::open(data.path()).unwrap();
    assert_eq!(db.project(id).unwrap().document, row.document);
    let snapshot = db.snapshots(id).unwrap().remove(0);
    assert_eq!(Some(db.snapshot(id, snapshot.id).unwrap().1), kept);
    let mut at = db.project(id).unwrap();
    let mut steps = 0;
    while at.undo.is_some() {
        at = db.step(id, at.revision, true).unwrap();
        steps += 1;
    }
    assert_eq!(steps, 3, "as many as are young");
    assert!(db.asset(&mesh).is_ok() && db.asset(&loose).is_err());
    assert!(db.reading("old").unwrap().is_none());
}

#[test]
fn files_go_with_the_last_revision_that_names_them() {
    let data = tempfile::tempdir().unwrap();
    let db = Db::open(data.path()).unwrap();
    let mesh = large(1).intake.mesh.hash;
    let id = db.create_project(&large(2), &BTreeMap::from([(mesh.clone(), cube().into_bytes())])).unwrap();
    // Pictures that a document names for a while: one of an early revision, one of a snapshot, one of the newest.
    let pictures = ["early", "kept", "newest"].map(|of| db.keep_asset(of.as_bytes()).unwrap());
    let mut row = db.project(id).unwrap();
    let plain = row.document.clone();
    for (k, picture) in pictures.iter().enumerate() {
        let named = Document { name: format!("With {picture}"), ..plain.clone() };
        row = db.revise(id, row.revision, "bring", &named).unwrap();
        if k == 1 {
            db.keep_snapshot(id, "kept").unwrap();
        }
        // More than are read in one go follow each other.
        for turn in 0..70usize {
            let next = turned(&row.document, turn % 2, 0.1 + turn as f64 / 100.0);
            row = db.revise(id, row.revision, "turn", &next).unwrap();
        }
    }
    let old = rusqlite::Connection::open(data.path().join("dustcoat.sqlite")).unwrap();
    old.execute("UPDATE revisions SET made = made - 31536000 WHERE id <= ?", [row.revision - 3]).unwrap();
    old.execute_batch("UPDATE assets SET made = made - 31536000;").unwrap();
    let would = db.tidy(86_400, false).unwrap();
    assert_eq!(would.files, 1);
    assert_eq!(pictures.iter().filter(|p| db.asset(p).is_ok()).count(), 3, "saying so takes nothing");
    assert_eq!(db.tidy(86_400, true).unwrap(), would);
    assert_eq!(pictures.map(|p| db.asset(&p).is_ok()), [false, true, true]);
    assert!(db.asset(&mesh).is_ok());
    // One that is brought in again just now stays, though nothing names it yet.
    let again = db.keep_asset(b"early").unwrap();
    assert_eq!(db.tidy(86_400, true).unwrap().files, 0);
    assert!(db.asset(&again).is_ok());
}

#[test]
fn a_measurement_is_kept_in_pieces_and_comes_back_whole() {
    let data = tempfile::tempdir().unwrap();
    let db = Db::open(data.path()).unwrap();
    let values: Vec<f32> = (0..(9 << 20) + 7).map(|i| i as f32).collect();
    db.keep_reading("large", &values, 2.5).unwrap();
    let pieces: i64 = rusqlite::Connection::open(data.path().join("dustcoat.sqlite"))
        .unwrap()
        .query_row("SELECT count(*) FROM reading_pieces", [], |r| r.get(0))
        .unwrap();
    assert_eq!(pieces, 3);
    assert_eq!(db.reading("large").unwrap(), Some((values, 2.5)));
}

#[test]
fn a_measurement_that_cannot_be_kept_is_used_all_the_same() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = server.project();
    let id = p["id"].as_i64().unwrap();
    let rays = json!({"edit": "set_param", "target": {"reading": "occlusion", "key": "rays"}, "value": 4});
    server.edit(&mut p, json!([{"edit": "set_draft_size", "size": 64}, rays, lay("Grime", json!([{"kind": "occlusion", "join": "replace"}]))]));
    // As a full disk would: no piece can be written.
    let c = rusqlite::Connection::open(data.path().join("dustcoat.sqlite")).unwrap();
    c.execute_batch("CREATE TRIGGER full BEFORE INSERT ON reading_pieces BEGIN SELECT RAISE(FAIL, 'disk full'); END;")
        .unwrap();
    let seen = server.post(&format!("/api/projects/{id}/evaluate"), json!({"page": "t", "layer": "l1", "mask": true}));
    assert_eq!(seen["provisional"], false);
    assert_eq!(server.bytes(&format!("/api/pixels/{}", seen["mask"].as_str().unwrap())).len(), 64 * 64);
}

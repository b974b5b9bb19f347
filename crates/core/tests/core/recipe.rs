//! Recipes and packages: what goes along, what comes back, and what a hostile file can do, which is nothing.

use std::collections::BTreeMap;
use std::io::{Cursor, Write};

use crate::common::{coat, cube, document, driven_by, evaluated, group, of_layer, of_step, step};
use dustcoat_core::bake::Surface;
use dustcoat_core::document::{
    Dial, Document, Edit, Layer, LayerKind, Target, apply, carried, check, layers, lost_names,
};
use dustcoat_core::mask::Join;
use dustcoat_core::mesh::{Intake, MeshSource, Unit, write};
use dustcoat_core::recipe::Recipe;
use dustcoat_core::recipe::package::{PackageLimits, Project, read_project, read_recipe, write_project, write_recipe};
use dustcoat_core::setting::{Drive, Param, Value};
use proptest::prelude::*;

fn worn() -> Document {
    let d = document(vec![
        coat("l1", "#808080", vec![]),
        coat("l2", "#7a3010", vec![step(Join::Replace, "perlin", &[]), step(Join::Multiply, "threshold", &[])]),
    ]);
    let dial = |label: &str| Dial::number("", label, "", (0.0, 1.0), 0.5);
    let cut = of_step("l2", "s2", "cut");
    let opacity = of_layer("l1", "opacity");
    driven_by(&driven_by(&d, dial("Wear"), &cut, 0.9, 0.1), dial("Elsewhere"), &opacity, 0.0, 1.0)
}

#[test]
fn a_recipe_takes_the_dials_that_drive_it_and_no_others() {
    let recipe = Recipe::of_layer(&worn(), Some("l2"), "Rust").unwrap();
    assert_eq!(recipe.dials.iter().map(|d| d.label.as_str()).collect::<Vec<_>>(), ["Wear"]);
    recipe.check().unwrap();
    assert!(Recipe::of_layer(&worn(), Some("l9"), "Rust").is_err());
}

#[test]
fn laid_on_another_piece_it_looks_as_it_did_and_its_dials_turn_there() {
    let surface = Surface::new(cube(60.0), 128);
    let recipe = Recipe::of_layer(&worn(), Some("l2"), "Rust").unwrap();
    let used = |wear: Option<f64>| {
        let mut layer = recipe.to_use();
        layer.id = "l1".into();
        if let (LayerKind::Use { values, .. }, Some(w)) = (&mut layer.kind, wear) {
            values.insert(recipe.dials[0].id.clone(), w.into());
        }
        let d = document(vec![layer]);
        check(&d).unwrap();
        evaluated(&d, &surface)
    };
    let direct = |wear: f64| {
        let mut d = apply(&worn(), &Edit::RemoveLayer { layer: "l1".into() }).unwrap();
        d.dials[0].value = Value::Number(wear);
        evaluated(&d, &surface)
    };
    assert_eq!(used(None).channels, direct(0.5).channels);
    assert_eq!(used(Some(0.9)).channels, direct(0.9).channels);
    assert_ne!(used(Some(0.9)).channels, used(None).channels);
}

#[test]
fn a_recipe_file_comes_back_as_it_went() {
    let recipe = Recipe::of_layer(&worn(), Some("l2"), "Rust").unwrap();
    let bytes = write_recipe(&recipe, None);
    assert_eq!(read_recipe(&bytes, PackageLimits::default()).unwrap(), recipe);
}

fn packed() -> (Project, Vec<u8>) {
    let mesh = write::glb(&cube(10.0), None);
    let hash = blake3::hash(&mesh).to_hex().to_string();
    let mut document = worn();
    document.intake = Intake::of_mesh(MeshSource { file: "cube.glb".into(), hash: hash.clone(), unit: Some(Unit::M) });
    let project = Project { document, files: BTreeMap::from([(hash, mesh)]) };
    let bytes = write_project(&project, Some(b"\x89PNG"));
    (project, bytes)
}

#[test]
fn a_project_file_comes_back_as_it_went() {
    let (project, bytes) = packed();
    let back = read_project(&bytes, PackageLimits::default()).unwrap();
    assert_eq!(back, project);
}

fn zip(entries: &[(&str, &[u8])]) -> Vec<u8> {
    let mut w = zip::ZipWriter::new(Cursor::new(vec![]));
    for (name, bytes) in entries {
        w.start_file(*name, zip::write::SimpleFileOptions::default()).unwrap();
        w.write_all(bytes).unwrap();
    }
    w.finish().unwrap().into_inner()
}

#[test]
fn foreign_and_damaged_packages_are_refused_with_a_sentence() {
    let refused = |bytes: &[u8], words: &str| {
        let error = read_recipe(bytes, PackageLimits::default()).map(|_| ()).unwrap_err().to_string();
        assert!(error.contains(words), "“{error}” should speak of “{words}”");
    };
    refused(b"", "not a .coatrecipe");
    refused(&packed().1[..200], "not a .coatrecipe");
    refused(&zip(&[("readme.txt", b"hello")]), "recipe.json");
    refused(&zip(&[("recipe.json", b"{\"name\":")]), "can't be read");
    refused(
        &zip(&[("recipe.json", br#"{"format":"dustcoat-recipe/7","name":"R","layers":[],"dials":[]}"#)]),
        "dustcoat-recipe/7",
    );
    let other = PackageLimits { json: 1000, ..PackageLimits::default() };
    let large = zip(&[("recipe.json", &vec![b' '; 5000])]);
    assert!(read_recipe(&large, other).unwrap_err().to_string().contains("larger than 1000"));
}

#[test]
fn a_mesh_that_is_not_the_one_that_was_packed_is_noticed() {
    let (mut without, _) = packed();
    without.document.intake = Intake::default();
    let error = read_project(&write_project(&without, None), PackageLimits::default()).map(|_| ()).unwrap_err();
    assert!(error.to_string().contains("assets/<mesh>"), "a package that names no mesh: {error}");
    let (mut project, _) = packed();
    project.files.values_mut().for_each(|bytes| *bytes = b"something else".to_vec());
    let wrong = project;
    let error = read_project(&write_project(&wrong, None), PackageLimits::default()).map(|_| ()).unwrap_err();
    assert!(error.to_string().contains("damaged"), "{error}");
}

#[test]
fn a_recipe_inside_a_recipe_is_checked_too() {
    let mut recipe = Recipe::of_layer(&worn(), Some("l2"), "Rust").unwrap();
    recipe.dials.clear();
    let layer = Layer { id: "l1".into(), ..recipe.to_use() };
    assert!(check(&document(vec![layer])).unwrap_err().to_string().contains("dial that is gone"));
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 200, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn no_damage_to_a_package_brings_the_reader_down(flips in prop::collection::vec((any::<prop::sample::Index>(), any::<u8>()), 1..10), cut in any::<prop::sample::Index>()) {
        let (_, mut bytes) = packed();
        for (at, byte) in flips {
            let i = at.index(bytes.len());
            bytes[i] = byte;
        }
        let _ = read_project(&bytes, PackageLimits::default());
        let _ = read_project(&bytes[..cut.index(bytes.len())], PackageLimits::default());
        let _ = read_recipe(&bytes, PackageLimits::default());
    }
}

#[test]
fn a_recipe_is_not_cut_off_from_a_mask_that_it_follows() {
    let mut chips = coat("l1", "#111111", vec![step(Join::Replace, "perlin", &[])]);
    chips.publish = Some("chips".into());
    let rim = coat("l2", "#eeeeee", vec![step(Join::Replace, "follow", &[("name", "chips".into())])]);
    let apart = document(vec![chips.clone(), rim.clone()]);
    let said = Recipe::of_layer(&apart, Some("l2"), "Rim").unwrap_err().to_string();
    assert!(said.contains("Coat l2 follows the mask “chips”"), "{said}");
    let together = document(vec![group("g1", vec![chips, rim])]);
    let recipe = Recipe::of_layer(&together, Some("g1"), "Chips with a rim").unwrap();
    // One that was saved by an earlier version is told of on the piece.
    let mut older = recipe.clone();
    older.layers.remove(0);
    let found = lost_names(&document(vec![recipe.to_use()]), &cube(20.0));
    assert!(found.is_empty(), "{found:?}");
    let found = lost_names(&document(vec![older.to_use()]), &cube(20.0));
    assert!(found[0].what.contains("in the recipe Chips with a rim asks for the mask “chips”"), "{found:?}");
}

/// A recipe of two coats, one of which follows the other's mask, with a dial for each and one that follows them.
fn flaking() -> Recipe {
    let mut under =
        coat("l2", "#7a3010", vec![step(Join::Replace, "perlin", &[]), step(Join::Multiply, "threshold", &[])]);
    under.publish = Some("flakes".into());
    let over = coat("l3", "#2b585e", vec![step(Join::Replace, "follow", &[("name", "flakes".into())])]);
    let d = document(vec![group("l1", vec![under, over])]);
    let number = |label: &str, v: f64| Dial::number("", label, "", (0.0, 1.0), v);
    let d = driven_by(&d, number("Wear", 0.4), &of_step("l2", "s2", "cut"), 0.2, 0.7);
    let d = driven_by(&d, number("Fade", 0.0), &of_layer("l3", "opacity"), 1.0, 0.2);
    let d = apply(&d, &Edit::FollowFormula { dial: "d2".into(), text: Some("Wear ^ 2".into()) }).unwrap();
    Recipe::of_layer(&d, Some("l1"), "Flaking").unwrap()
}

#[test]
fn a_loosened_use_is_the_same_texel_by_texel_and_goes_on_following() {
    let mut publishes = coat("l1", "#808080", vec![step(Join::Replace, "altitude", &[])]);
    publishes.publish = Some("flakes".into());
    let used = Layer { id: "l2".into(), opacity: 0.8.into(), ..flaking().to_use() };
    // The document's own dial has the id that the recipe's has.
    let d = driven_by(
        &document(vec![publishes, used]),
        Dial::number("", "Age", "", (0.0, 40.0), 10.0),
        &of_layer("l1", "opacity"),
        0.0,
        1.0,
    );
    let wear = Target { dial: Some("d1".into()), ..of_layer("l2", "value") };
    let set =
        |d: &Document, value: Param| apply(d, &Edit::SetParam { target: wear.clone(), value: Some(value) }).unwrap();
    let surface = Surface::new(cube(60.0), 128);
    let drives = [0.7.into(), Drive::formula("{d1} / 40").into(), Drive::ranged("d1", 0.9, 0.1).into()];
    for value in drives {
        let d = set(&d, value);
        let loose = apply(&d, &Edit::Loosen { layer: "l2".into() }).unwrap();
        assert!(matches!(&loose.layers[1].kind, LayerKind::Group { layers } if layers.len() == 2));
        assert_eq!(evaluated(&loose, &surface).channels, evaluated(&d, &surface).channels);
        let aged = |d: &Document| {
            apply(d, &Edit::TurnDial { layer: None, dial: "d1".into(), value: Value::Number(33.0) }).unwrap()
        };
        assert_eq!(
            evaluated(&aged(&loose), &surface).channels,
            evaluated(&aged(&d), &surface).channels,
            "what drove goes on"
        );
        // The mask that the recipe follows is still its own, though that name was taken.
        let names: Vec<_> = layers(&loose.layers).into_iter().filter_map(|l| l.publish.clone()).collect();
        assert_eq!(names, ["flakes", "flakes 2"]);
        assert_eq!(loose.dials.iter().map(|x| x.label.as_str()).collect::<Vec<_>>(), ["Age", "Wear", "Fade"]);
        let gone = apply(&loose, &Edit::RemoveLayer { layer: "l2".into() }).unwrap();
        assert_eq!(gone.dials.len(), 1, "its dials go with it");
    }
    assert!(apply(&d, &Edit::Loosen { layer: "l1".into() }).is_err(), "it is no use");
}

#[test]
fn values_go_along_to_another_version_by_id_and_then_by_label() {
    let from = flaking();
    let number = |id: &str, label: &str| Dial::number(id, label, "", (0.0, 1.0), 0.5);
    let dials = vec![
        number("d1", "Use"),
        number("d7", "Grime"),
        Dial { max: 0.2, value: Value::Number(0.1), default: Value::Number(0.1), ..number("d4", "Chalk") },
    ];
    let was = Recipe {
        dials: vec![number("d1", "Wear"), number("d3", "Grime"), number("d4", "Chalk"), number("d5", "Salt")],
        ..from.clone()
    };
    let to = Recipe { dials, version: 2, ..from };
    let values =
        [("d1", 0.9), ("d3", 0.7), ("d4", 0.8), ("d5", 0.3)].map(|(id, v)| (id.to_owned(), Param::from(v))).into();
    let (kept, lost) = carried(&was, &to, &values);
    assert_eq!(kept, [("d1".to_owned(), Param::from(0.9)), ("d7".to_owned(), Param::from(0.7))].into());
    assert_eq!(lost, ["Chalk", "Salt"], "one is out of range there, one is gone");
    let driven = [("d3".to_owned(), Param::from(Drive::plain("d1")))].into();
    assert_eq!(carried(&was, &to, &driven).0["d7"], Drive::plain("d1").into(), "what drives goes along as well");
}

#[test]
fn a_use_follows_another_version_and_undo_has_the_old_one() {
    let first = Recipe { id: "flaking".into(), ..flaking() };
    let mut second = Recipe { version: 2, ..first.clone() };
    second.layers.truncate(1);
    second.dials.truncate(1);
    let d = document(vec![Layer { id: "l1".into(), ..first.to_use() }]);
    let turn = Edit::TurnDial { layer: Some("l1".into()), dial: "d1".into(), value: Value::Number(0.9) };
    let d = apply(&d, &turn).unwrap();
    let follow = Edit::FollowRecipe { layer: "l1".into(), recipe: std::sync::Arc::new(second.clone()) };
    let after = apply(&d, &follow).unwrap();
    let LayerKind::Use { recipe, values } = &after.layers[0].kind else { panic!("a use") };
    assert_eq!((recipe.as_ref(), &values["d1"]), (&second, &Param::from(0.9)));
    assert_eq!(dustcoat_core::document::label(&d, &follow), "version 2 of Flaking");
    let bad = Recipe { format: "dustcoat-recipe/9".into(), ..second };
    assert!(apply(&d, &Edit::FollowRecipe { layer: "l1".into(), recipe: std::sync::Arc::new(bad) }).is_err());
}

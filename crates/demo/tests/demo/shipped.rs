//! What the demo ships: finishes, documents, recipes, pictures and the gallery are whole, and each is another.

use std::collections::HashMap;

use dustcoat_core::handoff::png;
use dustcoat_core::raster::picture::Picture;
use dustcoat_core::ready::READY;
use dustcoat_demo::cabinet::recipes;
use dustcoat_demo::gallery::{GALLERY, Shot};
use dustcoat_demo::studio::Studio;
use dustcoat_demo::{PIECES, finishes, pictures};

#[test]
fn every_ready_finish_makes_a_picture_of_its_own() {
    let kinds: Vec<&str> = READY.iter().map(|r| r.kind).collect();
    let all: Vec<Vec<u8>> = READY.iter().map(|r| finishes::picture(r, 64, 48, 16)).collect();
    for (i, a) in all.iter().enumerate() {
        for (j, b) in all.iter().enumerate().skip(i + 1) {
            let apart = a.iter().zip(b).filter(|(a, b)| a.abs_diff(**b) > 6).count();
            assert!(apart > a.len() / 20, "{} and {} look alike", kinds[i], kinds[j]);
        }
    }
}

/// The parts that the masks of a document name, wherever they stand in it.
fn named(json: &serde_json::Value, out: &mut Vec<String>) {
    if json["kind"] == "part"
        && let Some(part) = json["settings"]["part"].as_str()
    {
        out.push(part.to_owned());
    }
    match json {
        serde_json::Value::Object(fields) => fields.values().for_each(|v| named(v, out)),
        serde_json::Value::Array(all) => all.iter().for_each(|v| named(v, out)),
        _ => {}
    }
}

#[test]
fn demo_documents_are_valid_name_parts_that_are_there_and_have_dials_that_drive() {
    for demo in PIECES {
        if demo.dress.is_none() {
            continue;
        }
        let (piece, document) = (demo.imported(), demo.document(true));
        dustcoat_core::document::check(&document).unwrap_or_else(|e| panic!("{}: {e}", demo.key));
        for dial in &document.dials {
            let drives = dustcoat_core::document::driven(&document, &dial.id);
            assert!(!drives.is_empty(), "{}: {} does nothing", demo.key, dial.label);
        }
        let mut parts = vec![];
        named(&serde_json::to_value(&document).unwrap(), &mut parts);
        for part in parts {
            assert!(piece.part_named(&part).is_some(), "{} has no part {part}", demo.key);
        }
    }
}

#[test]
fn every_recipe_is_whole_has_its_presets_and_says_what_it_is() {
    let all = recipes();
    assert!(all.len() >= 16);
    for r in &all {
        r.check().unwrap_or_else(|e| panic!("{}: {e}", r.name));
        let presets: Vec<&str> = r.presets.iter().map(|p| p.name.as_str()).collect();
        assert_eq!(presets, ["New", "Used", "Neglected"], "{}", r.name);
        assert!(r.note.len() > 30 && !r.tags.is_empty() && r.dials.len() >= 2, "{}", r.name);
        for p in &r.presets {
            assert!(
                !p.values.is_empty() && p.values.keys().all(|id| r.dials.iter().any(|d| d.id == *id)),
                "{}",
                r.name
            );
        }
    }
}

#[test]
fn the_pictures_that_are_shipped_are_those_of_the_projects() {
    for demo in PIECES {
        let Some(dress) = demo.dress else { continue };
        let shipped = Picture::decode("picture.png", dress.picture).expect("it is a PNG");
        assert_eq!(shipped.size(), pictures::SIZE, "{}", demo.key);
        let fresh = Studio::of(demo.key, 256, Some(6.0)).take(&(dress.document)(), &pictures::settings(4));
        let [w, h] = pictures::SIZE;
        let fresh = Picture::decode("fresh.png", &png::rgba8(&fresh, w, h)).expect("it is a PNG");
        let (a, b) = (shipped.quadruples().values, fresh.quadruples().values);
        let off = |(a, b): (&[f32; 4], &[f32; 4])| (0..3).map(|c| (a[c] - b[c]).abs()).sum::<f32>() / 3.0;
        let mean = a.iter().zip(&b).map(off).sum::<f32>() / a.len() as f32;
        assert!(mean < 0.05, "{}: {mean}; take them anew with `make gallery`", demo.key);
    }
}

#[test]
fn every_still_of_the_gallery_can_be_dressed_and_is_another() {
    assert_eq!(GALLERY.len(), 27);
    let mut studios: HashMap<&str, Studio> = HashMap::new();
    let mut titles: Vec<String> = GALLERY.iter().map(Shot::title).collect();
    for shot in GALLERY {
        let studio = studios.entry(shot.prop).or_insert_with(|| Studio::of(shot.prop, 64, None));
        let document = shot.document(studio);
        assert!(!document.layers.is_empty(), "{}", shot.title());
    }
    titles.sort();
    titles.dedup();
    assert_eq!(titles.len(), GALLERY.len());
}

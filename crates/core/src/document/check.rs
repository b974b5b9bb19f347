//! What a valid document is. Checked on every edit and on every file that comes in.

use std::collections::{BTreeMap, BTreeSet};

use super::board::check_board;
use super::check_dial::{check_dial, check_value};
use super::check_settings::{check_channel, check_param, check_settings, check_step};
use super::dial::circle;
use super::elements::check_plan;
use super::error::{EditError, limits};
use super::recipe::count_all;
use super::study::{check_palette, check_words};
use super::variants::check_variants;
use super::{Dial, Document, FORMAT, Layer, LayerKind, Layout, Place, Recipe, dial_states, opacity_spec};
use crate::bake::{Extent, measurement, reading};
use crate::finish::channel;
use crate::mask::{Step, StepKind};
use crate::mesh::{Intake, mend};
use crate::pin::Spot;
use crate::raster::is_texture_size;
use crate::setting::{DialStates, Param, SettingError};

/// Checks a whole document.
///
/// # Errors
/// The first thing found wrong, with its place.
pub fn check(document: &Document) -> Result<(), EditError> {
    if document.format != FORMAT {
        return Err(EditError::Format { found: document.format.chars().take(40).collect() });
    }
    name(&document.name, "project")?;
    if !is_texture_size(document.draft_size) {
        let error = SettingError { setting: "Draft size".into(), wanted: "a power of two from 64 to 4096".into() };
        return Err(EditError::Setting { place: "Project".into(), error });
    }
    for (kind, settings) in &document.readings {
        let Some((label, specs)) = measurement::settings_of(kind, Extent::default()) else {
            return Err(EditError::UnknownKind { family: "measurement", kind: kind.clone() });
        };
        check_settings(label, &specs, settings, &DialStates::new())?;
    }
    check_intake(&document.intake)?;
    check_names(("variant", "variants"), document.variants.iter().map(|v| &v.name), limits::VARIANTS)?;
    check_variants(&document.variants)?;
    check_places(&document.places)?;
    let palettes = &document.study.palettes;
    check_names(("palette", "palettes"), palettes.iter().map(|p| &p.name), limits::PALETTES)?;
    palettes.iter().try_for_each(check_palette)?;
    check_board(&document.study.board)?;
    check_plan(&document.study.plan)?;
    document.dials.iter().try_for_each(|d| check_words(&d.note, "Note"))?;
    document.opened.iter().try_for_each(|o| o.recipe.check())?;
    document.layout.iter().try_for_each(check_layout)?;
    let found = count_all(&document.layers);
    if found > limits::ALL_LAYERS {
        let what = "layers with those of the recipes in use";
        return Err(EditError::TooMany { what, found, limit: limits::ALL_LAYERS });
    }
    scope(&document.layers, &document.dials, &[], 0)
}

/// Names of things that are known by theirs: each its own, and not too many.
pub(super) fn check_names<'a>(
    (what, all): (&'static str, &'static str),
    names: impl ExactSizeIterator<Item = &'a String>,
    limit: usize,
) -> Result<(), EditError> {
    if names.len() > limit {
        return Err(EditError::TooMany { what: all, found: names.len(), limit });
    }
    let mut seen = BTreeSet::new();
    for text in names {
        name(text, what)?;
        if !seen.insert(text) {
            return Err(EditError::Twice { id: text.clone() });
        }
    }
    Ok(())
}

fn check_by_hand(step: &Step) -> Result<(), EditError> {
    let found = step.strokes.len();
    let by_hand = StepKind::find(&step.kind).is_some_and(StepKind::is_by_hand);
    if !by_hand && (found > 0 || step.spot.is_some()) || step.spot.is_some() && step.kind != "pin" {
        return Err(EditError::Place);
    }
    if let Some(error) = step.spot.as_ref().and_then(Spot::wrong) {
        return Err(EditError::Setting { place: "Pin".into(), error });
    }
    if found > limits::STROKES {
        return Err(EditError::TooMany { what: "strokes in a step", found, limit: limits::STROKES });
    }
    let mut ids = BTreeSet::new();
    for stroke in step.strokes.iter() {
        unique(&mut ids, &stroke.id)?;
        if let Some(error) = stroke.wrong() {
            return Err(EditError::Setting { place: "Stroke".into(), error });
        }
    }
    Ok(())
}

fn check_places(places: &[Place]) -> Result<(), EditError> {
    check_names(("place", "places"), places.iter().map(|p| &p.name), limits::PLACES)?;
    for p in places {
        let far = |v: &f32| !v.is_finite() || v.abs() > 1e6;
        if p.eye == p.target || p.eye.iter().chain(&p.target).any(far) {
            let error = SettingError { setting: "Place".into(), wanted: "an eye apart from what it looks at".into() };
            return Err(EditError::Setting { place: p.name.clone(), error });
        }
    }
    Ok(())
}

fn check_intake(intake: &Intake) -> Result<(), EditError> {
    if intake.pictures.len() > limits::PICTURES {
        return Err(EditError::TooMany { what: "pictures", found: intake.pictures.len(), limit: limits::PICTURES });
    }
    let wrong = |setting: &str, wanted: &str| {
        let error = SettingError { setting: setting.into(), wanted: wanted.into() };
        Err(EditError::Setting { place: "Piece".into(), error })
    };
    if !(0.0..=1.0).contains(&intake.tolerance) {
        return wrong("Tolerance", "a number from 0 to 1");
    }
    if intake.finer.as_ref().and_then(|f| f.cage).is_some_and(|c| !(c > 0.0 && c <= 10_000.0)) {
        return wrong("Cage", "a length from 0 to 10000 mm");
    }
    check_settings("Mesh", &mend::specs(), &intake.mending, &DialStates::new())?;
    for look in intake.parts.values() {
        if let Some(text) = &look.name {
            name(text, "part")?;
        }
        if look.color.as_deref().is_some_and(|c| crate::setting::parse_hex(c).is_none()) {
            return wrong("Colour of a part", "a colour written as #rrggbb");
        }
    }
    for p in &intake.pictures {
        let known = matches!(p.purpose.as_str(), "" | "normal" | "parts" | "curvature" | "mask")
            || reading::find(&p.purpose).is_some();
        if !known {
            return Err(EditError::UnknownKind { family: "purpose", kind: p.purpose.clone() });
        }
    }
    Ok(())
}

/// Checks layers with the dials that drive them: of a document, or of the last of some recipes within each other, so many groups and recipes deep.
pub(super) fn scope(layers: &[Layer], dials: &[Dial], recipes: &[&Recipe], depth: usize) -> Result<(), EditError> {
    if dials.len() > limits::DIALS {
        return Err(EditError::TooMany { what: "dials", found: dials.len(), limit: limits::DIALS });
    }
    let states = dial_states(dials, &BTreeMap::new());
    let mut ids = BTreeSet::new();
    for d in dials {
        check_dial(d, &states)?;
        unique(&mut ids, &d.id)?;
    }
    if let Some(circle) = circle(dials) {
        return Err(EditError::DialCircle { circle: circle.join(" → ") });
    }
    let mut ids = BTreeSet::new();
    check_layers(layers, &states, recipes, depth, &mut ids)?;
    super::follows::check(layers)?;
    if ids.len() > limits::LAYERS {
        return Err(EditError::TooMany { what: "layers", found: ids.len(), limit: limits::LAYERS });
    }
    Ok(())
}

pub(super) fn unique(ids: &mut BTreeSet<String>, id: &str) -> Result<(), EditError> {
    if id.len() <= 40 && ids.insert(id.to_owned()) { Ok(()) } else { Err(EditError::Twice { id: id.into() }) }
}

pub(super) fn name(text: &str, what: &'static str) -> Result<(), EditError> {
    let n = text.trim().chars().count();
    if n == 0 || n > limits::NAME { Err(EditError::Name { what }) } else { Ok(()) }
}

fn check_layers(
    layers: &[Layer],
    dials: &DialStates,
    recipes: &[&Recipe],
    depth: usize,
    ids: &mut BTreeSet<String>,
) -> Result<(), EditError> {
    if depth > limits::DEPTH {
        return Err(EditError::TooMany {
            what: "groups and recipes within each other",
            found: depth,
            limit: limits::DEPTH,
        });
    }
    for l in layers {
        name(&l.name, "layer")?;
        if let Some(published) = &l.publish {
            name(published, "published mask")?;
        }
        unique(ids, &l.id)?;
        check_words(&l.note, "Note")?;
        check_param(&l.name, &opacity_spec(), &l.opacity, dials)?;
        if l.mask.steps.len() > limits::STEPS {
            let found = l.mask.steps.len();
            return Err(EditError::TooMany { what: "steps in a mask line", found, limit: limits::STEPS });
        }
        let mut steps = BTreeSet::new();
        for s in &l.mask.steps {
            unique(&mut steps, &s.id)?;
            check_words(&s.note, "Note")?;
            check_by_hand(s)?;
            check_step(&l.name, s, dials)?;
        }
        match &l.kind {
            LayerKind::Group { layers } => check_layers(layers, dials, recipes, depth + 1, ids)?,
            LayerKind::Coat { .. } | LayerKind::Adjust { .. } => check_finish(l, dials)?,
            LayerKind::Use { recipe, values } => {
                recipe.check_within(recipes, depth + 1)?;
                for (id, param) in values {
                    let Some(d) = recipe.dials.iter().find(|d| d.id == *id) else {
                        return Err(EditError::Unknown { what: "dial", id: id.clone() });
                    };
                    match param {
                        Param::Const(value) => check_value(d, value)?,
                        drive => check_param(&format!("{} › {}", l.name, d.label), &d.spec(), drive, dials)?,
                    }
                }
            }
        }
    }
    Ok(())
}

fn check_finish(layer: &Layer, dials: &DialStates) -> Result<(), EditError> {
    let Some((finish, role)) = layer.kind.finish() else { return Ok(()) };
    for (key, ch) in &finish.channels {
        let Some(channel) = channel::find(key) else {
            return Err(EditError::UnknownKind { family: "channel", kind: key.clone() });
        };
        let place = format!("{} › {}", layer.name, channel.label);
        check_channel(&place, &channel.settings(role), &ch.settings, dials)?;
    }
    Ok(())
}

/// Checks that a layout can be kept: what it asks for is looked at when it is planned.
///
/// # Errors
/// [`EditError`] with what it has too many of, or what has no name.
pub fn check_layout(layout: &Layout) -> Result<(), EditError> {
    name(&layout.name, "layout")?;
    let too_many = |what, found, limit| Err(EditError::TooMany { what, found, limit });
    if layout.files.len() > limits::FILES {
        return too_many("files in a layout", layout.files.len(), limits::FILES);
    }
    for row in &layout.files {
        name(&row.map, "file")?;
        if row.slots.len() > limits::SLOTS {
            return too_many("channels in a file", row.slots.len(), limits::SLOTS);
        }
        for slot in &row.slots {
            // The name of a layer, and what it is asked for.
            let n = slot.from.trim().chars().count();
            if n == 0 || n > limits::NAME + 20 {
                return Err(EditError::Name { what: "channel of a file" });
            }
        }
    }
    Ok(())
}

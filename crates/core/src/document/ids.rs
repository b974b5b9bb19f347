//! What is new gets ids that are free, and brings its dials along; what follows dials follows them.

use std::collections::BTreeMap;
use std::sync::Arc;

use super::edit::row;
use super::tree::{find_layer_mut, params_mut};
use super::{Dial, Document, EditError, Layer, LayerKind, dial_states, layers};
use crate::setting::Param;

/// Lays a layer with dials of its own, which get ids that are free here.
pub(super) fn add_layer(
    d: &mut Document,
    inside: Option<&str>,
    index: usize,
    mut layer: Layer,
    dials: &[Dial],
) -> Result<(), EditError> {
    layer.id = fresh(layers(&d.layers).iter().map(|l| l.id.as_str()), 'l');
    let of = layer.id.clone();
    add_dials(d, &of, dials, std::slice::from_mut(&mut layer));
    let row = row(d, inside)?;
    row.insert(index.min(row.len()), layer);
    Ok(())
}

/// Adds dials that came with a layer under ids that are free here, by which they and the layers that they drive know them then.
pub(super) fn add_dials(d: &mut Document, of: &str, dials: &[Dial], driven: &mut [Layer]) {
    let mut ids: BTreeMap<&str, String> = BTreeMap::new();
    let before = d.dials.len();
    for dial in dials {
        let id = fresh(d.dials.iter().map(|x| x.id.as_str()), 'd');
        ids.insert(&dial.id, id.clone());
        d.dials.push(Dial { id, of: Some(of.to_owned()), ..dial.clone() });
    }
    for dial in &mut d.dials[before..] {
        dial.rename(&|id| ids.get(id).cloned());
    }
    if !ids.is_empty() {
        params_mut(driven, &mut |_, param| {
            if let Param::Drive(drive) = param {
                drive.rename(&|id| ids.get(id).cloned());
            }
        });
    }
}

/// Keeps the stops that follow dials at what these give.
pub(super) fn follow_dials(d: &mut Document) {
    let states = dial_states(&d.dials, &Default::default());
    params_mut(&mut d.layers, &mut |spec, param| {
        if let Param::Ramp(drive) = param {
            drive.follow(spec, &states);
        }
    });
}

/// Clears the ids of a layer and all it holds, so that [`fresh_ids`] gives new ones, and takes back the names of masks that are not `free`: each is published by one
/// layer only.
pub(crate) fn forget_ids(layer: &mut Layer, free: &dyn Fn(&str) -> bool) {
    layer.id.clear();
    layer.mask.steps.iter_mut().for_each(|s| s.id.clear());
    layer.publish = layer.publish.take().filter(|name| free(name));
    if let LayerKind::Group { layers } = &mut layer.kind {
        layers.iter_mut().for_each(|l| forget_ids(l, free));
    }
}

/// The lowest numbered id of that letter that is above all that are taken.
pub(super) fn fresh<'a>(taken: impl Iterator<Item = &'a str>, letter: char) -> String {
    format!("{letter}{}", highest(taken, letter).saturating_add(1))
}

/// The highest number of the ids of that letter; 0 where there is none.
fn highest<'a>(ids: impl Iterator<Item = &'a str>, letter: char) -> u64 {
    ids.filter_map(|id| id.strip_prefix(letter)?.parse::<u64>().ok()).max().unwrap_or(0)
}

pub(super) fn fresh_ids(d: &mut Document) {
    while let Some(id) = {
        let all = layers(&d.layers);
        all.iter().any(|l| l.id.is_empty()).then(|| fresh(all.iter().map(|l| l.id.as_str()), 'l'))
    } {
        if let Some(l) = find_layer_mut(&mut d.layers, "") {
            l.id = id;
        }
    }
    let ids: Vec<String> = layers(&d.layers).iter().map(|l| l.id.clone()).collect();
    for id in ids {
        let Some(l) = find_layer_mut(&mut d.layers, &id) else { continue };
        for i in 0..l.mask.steps.len() {
            if l.mask.steps[i].id.is_empty() {
                l.mask.steps[i].id = fresh(l.mask.steps.iter().map(|s| s.id.as_str()), 's');
            }
            let drawn = &mut l.mask.steps[i].strokes;
            if drawn.iter().any(|s| s.id.is_empty()) {
                let next = highest(drawn.iter().map(|s| s.id.as_str()), 's');
                let new = Arc::make_mut(drawn).iter_mut().filter(|s| s.id.is_empty());
                new.enumerate().for_each(|(k, s)| s.id = format!("s{}", next.saturating_add(1 + k as u64)));
            }
        }
    }
}

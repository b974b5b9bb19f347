//! Variants: named sets of what the dials stand at and which layers are shown. One may build on another and holds only what differs.

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

use super::check_dial::check_value;
use super::edit::unknown;
use super::tree::find_layer_mut;
use super::{Document, Edit, EditError, find_layer, layers};
use crate::setting::Value;

/// A named set of dial values.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
pub struct Variant {
    /// Name, its own among the variants.
    pub name: String,
    /// The variant that it builds on: what it doesn't say itself is as there.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub on: Option<String>,
    /// What each dial stands at in it, by id; dials that came later are left alone.
    pub values: BTreeMap<String, Value>,
    /// Which layers are shown in it, by id; layers that it doesn't name are left alone.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    #[ts(as = "Option<BTreeMap<String, bool>>", optional)]
    pub shown: BTreeMap<String, bool>,
}

/// A variant with what it takes over from those that it builds on.
#[derive(Debug, Clone, Default, PartialEq, Serialize, TS)]
pub struct WholeVariant {
    /// What each dial stands at in it, by id.
    pub values: BTreeMap<String, Value>,
    /// Which layers are shown in it, by id.
    pub shown: BTreeMap<String, bool>,
}

/// A variant with what it takes over. Empty for one that is not there.
pub fn whole_variant(document: &Document, name: &str) -> WholeVariant {
    let mut whole = WholeVariant::default();
    for variant in chain(&document.variants, name).iter().rev() {
        whole.values.extend(variant.values.iter().map(|(id, v)| (id.clone(), v.clone())));
        whole.shown.extend(variant.shown.iter().map(|(id, s)| (id.clone(), *s)));
    }
    whole
}

/// A variant and those that it builds on, itself first. It ends where it would come round.
fn chain<'a>(all: &'a [Variant], name: &str) -> Vec<&'a Variant> {
    let mut way: Vec<&Variant> = vec![];
    let mut next = all.iter().find(|v| v.name == name);
    while let Some(variant) = next.filter(|v| way.iter().all(|w| w.name != v.name)) {
        way.push(variant);
        next = variant.on.as_ref().and_then(|on| all.iter().find(|v| v.name == *on));
    }
    way
}

/// How the dials stand and which layers are shown.
fn present(d: &Document) -> WholeVariant {
    let turned = d.dials.iter().filter(|x| x.formula.is_none());
    WholeVariant {
        values: turned.map(|x| (x.id.clone(), x.value.clone())).collect(),
        shown: layers(&d.layers).iter().map(|l| (l.id.clone(), l.shown)).collect(),
    }
}

pub(super) fn change_variants(d: &mut Document, edit: &Edit) -> Result<(), EditError> {
    match edit {
        Edit::KeepVariant { name, on } => {
            // Kept anew, it goes on building on what it built on.
            let there = d.variants.iter().find(|v| v.name == *name);
            let on = on.clone().or(there.and_then(|v| v.on.clone()));
            let below = on.as_ref().map(|on| whole_variant(d, on)).unwrap_or_default();
            let mut now = present(d);
            now.values.retain(|id, v| below.values.get(id) != Some(v));
            now.shown.retain(|id, s| below.shown.get(id) != Some(s));
            let kept = Variant { name: name.clone(), on, values: now.values, shown: now.shown };
            match d.variants.iter_mut().find(|v| v.name == *name) {
                Some(there) => *there = kept,
                None => d.variants.push(kept),
            }
        }
        Edit::TakeVariant { name } => {
            find(d, name)?;
            let whole = whole_variant(d, name);
            for dial in d.dials.iter_mut().filter(|x| x.formula.is_none()) {
                // Its range may be another one since.
                if let Some(value) = whole.values.get(&dial.id).map(|v| dial.bounded(v.clone()))
                    && check_value(dial, &value).is_ok()
                {
                    dial.value = value;
                }
            }
            for (id, shown) in &whole.shown {
                if let Some(layer) = find_layer_mut(&mut d.layers, id) {
                    layer.shown = *shown;
                }
            }
        }
        Edit::SetVariant { name, dial, value } => {
            let i = find(d, name)?;
            let dial = d.dials.iter().find(|x| x.id == *dial).ok_or_else(|| unknown("dial", dial))?;
            if let Some(value) = value {
                check_value(dial, value)?;
                d.variants[i].values.insert(dial.id.clone(), value.clone());
            } else {
                d.variants[i].values.remove(&dial.id);
            }
        }
        Edit::ShowInVariant { name, layer, shown } => {
            let i = find(d, name)?;
            find_layer(&d.layers, layer).ok_or_else(|| unknown("layer", layer))?;
            match shown {
                Some(shown) => _ = d.variants[i].shown.insert(layer.clone(), *shown),
                None => _ = d.variants[i].shown.remove(layer),
            }
        }
        Edit::RemoveVariant { name } => {
            let gone = find(d, name)?;
            // What builds on it stays what it is.
            let (whole, on) = (whole_variant(d, name), d.variants[gone].on.clone());
            let below = on.as_ref().map(|on| whole_variant(d, on)).unwrap_or_default();
            for variant in d.variants.iter_mut().filter(|v| v.on.as_deref() == Some(name)) {
                let taken = whole.values.iter().filter(|(id, v)| below.values.get(*id) != Some(v));
                for (id, value) in taken {
                    variant.values.entry(id.clone()).or_insert_with(|| value.clone());
                }
                for (id, shown) in whole.shown.iter().filter(|(id, s)| below.shown.get(*id) != Some(s)) {
                    variant.shown.entry(id.clone()).or_insert(*shown);
                }
                variant.on.clone_from(&on);
            }
            d.variants.remove(gone);
        }
        _ => {}
    }
    Ok(())
}

fn find(d: &Document, name: &str) -> Result<usize, EditError> {
    d.variants.iter().position(|v| v.name == name).ok_or_else(|| unknown("variant", name))
}

/// Checks that what variants build on is there and doesn't come round.
pub(super) fn check_variants(all: &[Variant]) -> Result<(), EditError> {
    for variant in all {
        let way = chain(all, &variant.name);
        let Some(on) = way.last().and_then(|v| v.on.as_ref()) else { continue };
        if !all.iter().any(|v| v.name == *on) {
            return Err(unknown("variant", on));
        }
        let names: Vec<&str> = way.iter().map(|v| v.name.as_str()).chain([on.as_str()]).collect();
        return Err(EditError::VariantCircle { circle: names.join(" → ") });
    }
    Ok(())
}

/// Variants say nothing of dials and layers that are gone: others may get their ids.
pub(super) fn forget_lost(d: &mut Document) {
    let there: Vec<String> = layers(&d.layers).iter().map(|l| l.id.clone()).collect();
    for variant in &mut d.variants {
        variant.values.retain(|id, _| d.dials.iter().any(|x| x.id == *id));
        variant.shown.retain(|id, _| there.contains(id));
    }
}

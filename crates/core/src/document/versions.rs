//! Uses of recipes that go on: to another version of their recipe, or to be ordinary layers.

use std::collections::BTreeMap;
use std::sync::Arc;

use super::check_dial::check_value;
use super::edit::{layer_mut, rename_in_steps, unknown};
use super::ids::{add_dials, forget_ids};
use super::{Dial, Document, EditError, Layer, LayerKind, Recipe, dial_states, layers};
use crate::setting::{DialStates, Param, ParamType, Settings, Value, resolve_one};

/// What sets the dials of another version of a recipe: what set the dial of the same id, or else of the same label; and the labels of those that have no place there any more.
pub fn carried(from: &Recipe, to: &Recipe, values: &Settings) -> (Settings, Vec<String>) {
    let mut left: BTreeMap<&str, &Param> = values.iter().map(|(id, p)| (id.as_str(), p)).collect();
    let mut out = Settings::new();
    let alike: [fn(&Dial, &Dial) -> bool; 2] = [|a, b| a.id == b.id, |a, b| a.label.eq_ignore_ascii_case(&b.label)];
    for alike in alike {
        for dial in to.dials.iter().filter(|d| d.formula.is_none()) {
            let set = |was: &&Dial| left.get(was.id.as_str()).is_some_and(|p| fits(was, dial, p));
            let Some(was) = from.dials.iter().filter(|was| alike(was, dial)).find(set) else { continue };
            if !out.contains_key(&dial.id)
                && let Some(param) = left.remove(was.id.as_str())
            {
                out.insert(dial.id.clone(), param.clone());
            }
        }
    }
    let lost = from.dials.iter().filter(|d| left.contains_key(d.id.as_str())).map(|d| d.label.clone()).collect();
    (out, lost)
}

/// Whether what set a dial can set that of another version.
fn fits(was: &Dial, dial: &Dial, param: &Param) -> bool {
    match param {
        Param::Const(value) => check_value(dial, value).is_ok(),
        _ => was.kind() == dial.kind(),
    }
}

/// Lets a use follow another version.
pub(super) fn follow_recipe(d: &mut Document, layer: &str, recipe: &Arc<Recipe>) -> Result<(), EditError> {
    let layer = layer_mut(d, layer)?;
    let LayerKind::Use { recipe: from, values } = &layer.kind else { return Err(EditError::Place) };
    let (values, _) = carried(from, recipe, values);
    layer.kind = LayerKind::Use { recipe: recipe.clone(), values };
    Ok(())
}

/// Turns the dials of a use to what a preset says, but those that are driven.
pub(super) fn take_preset(d: &mut Document, layer: &str, name: &str) -> Result<(), EditError> {
    let LayerKind::Use { recipe, values } = &mut layer_mut(d, layer)?.kind else { return Err(EditError::Place) };
    let preset = recipe.presets.iter().find(|p| p.name == name).ok_or_else(|| unknown("preset", name))?;
    for (id, value) in &preset.values {
        if values.get(id).is_none_or(|set| set.drive().is_none()) {
            values.insert(id.clone(), Param::Const(value.clone()));
        }
    }
    Ok(())
}

/// Turns a use into a group of its recipe's layers, whose dials become the document's.
pub(super) fn loosen(d: &mut Document, id: &str) -> Result<(), EditError> {
    let outer = dial_states(&d.dials, &BTreeMap::new());
    let taken: Vec<String> = layers(&d.layers).into_iter().filter_map(|l| l.publish.clone()).collect();
    let layer = layer_mut(d, id)?;
    let LayerKind::Use { recipe, values } = &layer.kind else { return Err(EditError::Place) };
    let (name, mut inner, values) = (layer.name.clone(), recipe.layers.clone(), values.clone());
    let (was, group) =
        (recipe.dials.clone(), |group: &str| if group.is_empty() { name.clone() } else { format!("{name}: {group}") });
    let dials: Vec<Dial> = was.iter().map(|x| Dial { group: group(&x.group), ..x.clone() }).collect();
    free_names(&mut inner, &taken);
    inner.iter_mut().for_each(|l| forget_ids(l, &|_| true));
    let before = d.dials.len();
    add_dials(d, id, &dials, &mut inner);
    // Only now: the use's own settings name the document's dials, whose ids may be those that the recipe's had.
    for (dial, was) in d.dials[before..].iter_mut().zip(&was) {
        settle(dial, values.get(&was.id), &outer);
    }
    layer_mut(d, id)?.kind = LayerKind::Group { layers: inner };
    Ok(())
}

/// Lets a recipe's dial stand at what the use set: a value, a formula over the document's dials, or what such a drive gives now where no formula says the same.
fn settle(dial: &mut Dial, set: Option<&Param>, outer: &DialStates) {
    let Some(param) = set else { return };
    dial.value = resolve_one(&dial.spec(), Some(param), outer);
    let number = matches!(dial.value, Value::Number(_));
    if let Some(text) = param.drive().filter(|_| number).and_then(|drive| drive.as_text(outer)) {
        dial.formula = Some(text);
    }
}

/// Gives masks that layers publish other names where theirs are taken, and lets who follows them go along.
fn free_names(inner: &mut [Layer], taken: &[String]) {
    let own: Vec<String> = layers(inner).into_iter().filter_map(|l| l.publish.clone()).collect();
    for name in own.iter().filter(|n| taken.contains(n)) {
        let free = |n: &String| !taken.contains(n) && !own.contains(n);
        let Some(new) = (2..).map(|i| format!("{name} {i}")).find(free) else { continue };
        publish_anew(inner, name, &new);
        rename_in_steps(inner, ParamType::Follow, name, &new);
    }
}

fn publish_anew(all: &mut [Layer], name: &str, new: &str) {
    for l in all {
        if l.publish.as_deref() == Some(name) {
            l.publish = Some(new.to_owned());
        }
        if let LayerKind::Group { layers } = &mut l.kind {
            publish_anew(layers, name, new);
        }
    }
}

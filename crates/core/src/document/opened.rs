//! A recipe opened in place: edited as layers from one of its uses, while the other uses of it in the document follow.

use std::collections::BTreeMap;
use std::sync::Arc;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

use super::dials::remove_idle;
use super::edit::{layer_mut, unknown};
use super::ids::fresh;
use super::tree::{find_layer, follows_outside, params_mut};
use super::versions::{carried, loosen};
use super::{Dial, Document, EditError, Layer, LayerKind, Recipe, dial_states, dials_behind, layers};
use crate::setting::{Param, Settings, resolve_one};

/// The use that is open, and what leads back.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
pub struct OpenedUse {
    /// The layer: a group while it is open.
    pub layer: String,
    /// What it was called then.
    pub name: String,
    /// The recipe as it was.
    pub recipe: Arc<Recipe>,
    /// What set the recipe's dials in this use.
    pub values: Settings,
    /// What set them in the others, by layer.
    pub others: BTreeMap<String, Settings>,
    /// The document's ids of the recipe's dials, by their ids in the recipe.
    pub dials: BTreeMap<String, String>,
}

/// Opens a use.
pub(super) fn open(d: &mut Document, id: &str) -> Result<(), EditError> {
    if let Some(opened) = &d.opened {
        return Err(EditError::Opened { name: opened.recipe.name.clone() });
    }
    let states = dial_states(&d.dials, &BTreeMap::new());
    let layer = layer_mut(d, id)?;
    let name = layer.name.clone();
    let LayerKind::Use { recipe, values } = &mut layer.kind else { return Err(EditError::Place) };
    let (recipe, set) = (recipe.clone(), values.clone());
    // What drives it from outside stands where it stands until it is closed: the recipe has no part in that.
    for dial in &recipe.dials {
        if let Some(param) = values.get_mut(&dial.id) {
            *param = Param::Const(resolve_one(&dial.spec(), Some(param), &states));
        }
    }
    let before = d.dials.len();
    loosen(d, id)?;
    let dials = recipe.dials.iter().zip(&d.dials[before..]).map(|(of, now)| (of.id.clone(), now.id.clone())).collect();
    let others = others(d, &recipe).into_iter().collect();
    d.opened = Some(OpenedUse { layer: id.into(), name, recipe, values: set, others, dials });
    Ok(())
}

/// The layers that follow that version of a recipe, and what sets its dials there.
fn others(d: &Document, recipe: &Recipe) -> Vec<(String, Settings)> {
    let follows = |r: &Recipe| !recipe.id.is_empty() && r.id == recipe.id && r.version == recipe.version;
    let used = |l: &&Layer| match &l.kind {
        LayerKind::Use { recipe, values } if follows(recipe) => Some((l.id.clone(), values.clone())),
        _ => None,
    };
    layers(&d.layers).iter().filter_map(used).collect()
}

/// Lets the other uses follow what was done to the open one. Where that is gone, it was dropped.
pub(super) fn follow_opened(d: &mut Document) -> Result<(), EditError> {
    let Some(opened) = &d.opened else { return Ok(()) };
    if !matches!(find_layer(&d.layers, &opened.layer).map(|l| &l.kind), Some(LayerKind::Group { .. })) {
        return drop_others(d);
    }
    let (recipe, dials) = derive(d)?;
    if let Some(opened) = &mut d.opened {
        opened.dials = dials;
    }
    let recipe = Arc::new(recipe);
    for (id, values) in others(d, &recipe) {
        set_use(d, &id, &recipe, values)?;
    }
    Ok(())
}

/// Lets a layer use a recipe, with what has a place there of what set its dials.
fn set_use(d: &mut Document, id: &str, recipe: &Arc<Recipe>, values: Settings) -> Result<(), EditError> {
    let (values, _) = carried(recipe, recipe, &values);
    layer_mut(d, id)?.kind = LayerKind::Use { recipe: recipe.clone(), values };
    Ok(())
}

/// The recipe as its open use stands, if one is open.
///
/// # Errors
/// When it would be cut off from a mask that it follows.
pub fn opened_recipe(document: &Document) -> Result<Option<Recipe>, EditError> {
    if document.opened.is_none() { Ok(None) } else { derive(document).map(|(recipe, _)| Some(recipe)) }
}

/// The recipe as its open use stands, and the document's ids of its dials.
fn derive(d: &Document) -> Result<(Recipe, BTreeMap<String, String>), EditError> {
    let Some(opened) = &d.opened else { return Err(EditError::Place) };
    let layer = find_layer(&d.layers, &opened.layer).ok_or_else(|| unknown("layer", &opened.layer))?;
    let LayerKind::Group { layers } = &layer.kind else { return Err(EditError::Place) };
    if let Some((layer, name)) = follows_outside(layers) {
        return Err(EditError::FollowsOutside { layer, name });
    }
    // What it keeps may be restyled and go, but nothing is drawn in it that other uses would show.
    let drawn = |layers: &[Layer]| super::counted_drawn(&super::own_drawn_steps(layers));
    let ((strokes, pins), (had, held)) = (drawn(layers), drawn(&opened.recipe.layers));
    if strokes > had || pins > held {
        return Err(EditError::DrawnInRecipe);
    }
    let behind = dials_behind(layers, &d.dials);
    let known = |id: &str| opened.dials.iter().find(|(_, now)| *now == id).map(|(of, _)| of.clone());
    let mut ids: BTreeMap<String, String> = BTreeMap::new();
    let mut dials = vec![];
    for dial in &d.dials {
        let was = known(&dial.id);
        if was.is_none() && behind.iter().all(|b| b.id != dial.id) {
            continue;
        }
        let taken = opened.dials.keys().chain(ids.values());
        let id = was.clone().unwrap_or_else(|| fresh(taken.map(String::as_str), 'd'));
        ids.insert(dial.id.clone(), id.clone());
        // One that came with the recipe is in this use what it was turned to, and has a default of its own.
        let default = if was.is_some() { dial.default.clone() } else { dial.value.clone() };
        let group =
            dial.group.strip_prefix(opened.name.as_str()).unwrap_or(&dial.group).trim_start_matches(": ").to_owned();
        dials.push(Dial { id, group, of: None, value: default.clone(), default, ..dial.clone() });
    }
    let to = |id: &str| ids.get(id).cloned();
    let mut layers = layers.clone();
    params_mut(&mut layers, &mut |_, param| {
        if let Param::Drive(drive) = param {
            drive.rename(&to);
        }
    });
    for dial in &mut dials {
        dial.when = dial.when.take().filter(|w| ids.contains_key(&w.dial));
        dial.rename(&to);
    }
    let mut recipe = Recipe { layers, dials, ..opened.recipe.as_ref().clone() };
    for preset in &mut recipe.presets {
        preset.values.retain(|id, _| recipe.dials.iter().any(|x| x.id == *id && x.formula.is_none()));
    }
    let recipe = recipe.with_slots();
    Ok((recipe, ids.into_iter().map(|(now, of)| (of, now)).collect()))
}

/// Closes what is open: as the recipe that was kept of it, or as if it had never been opened.
pub(super) fn close(d: &mut Document, kept: Option<&Arc<Recipe>>) -> Result<(), EditError> {
    let Some(opened) = d.opened.clone() else { return Err(EditError::NotOpened) };
    let Some(recipe) = kept else {
        layer_mut(d, &opened.layer)?.kind =
            LayerKind::Use { recipe: opened.recipe.clone(), values: opened.values.clone() };
        remove_idle(d, &opened.layer)?;
        return drop_others(d);
    };
    let states = dial_states(&d.dials, &BTreeMap::new());
    let mut values = Settings::new();
    for dial in recipe.dials.iter().filter(|x| x.formula.is_none()) {
        let now = opened.dials.get(&dial.id).and_then(|id| d.dials.iter().find(|x| x.id == *id));
        let set = opened.values.get(&dial.id);
        let stood = set.map(|set| resolve_one(&dial.spec(), Some(set), &states));
        match (now, set) {
            // What drove it before does so again, unless it was turned meanwhile.
            (Some(now), Some(set)) if stood.as_ref() == Some(&now.value) => {
                _ = values.insert(dial.id.clone(), set.clone())
            }
            (Some(now), _) if now.value != dial.default => {
                values.insert(dial.id.clone(), Param::Const(now.value.clone()));
            }
            _ => {}
        }
    }
    let others = others(d, &opened.recipe);
    d.opened = None;
    set_use(d, &opened.layer, recipe, values)?;
    for (id, values) in others {
        set_use(d, &id, recipe, values)?;
    }
    remove_idle(d, &opened.layer)
}

/// Forgets what is open, and lets the other uses be as they were.
fn drop_others(d: &mut Document) -> Result<(), EditError> {
    let Some(opened) = d.opened.take() else { return Ok(()) };
    for (id, now) in others(d, &opened.recipe).into_iter().filter(|(id, _)| *id != opened.layer) {
        // What was turned meanwhile stays.
        let mut values = opened.others.get(&id).cloned().unwrap_or_default();
        values.extend(now);
        set_use(d, &id, &opened.recipe, values)?;
    }
    Ok(())
}

//! Edits of what is drawn and laid by hand, and the files that strokes are.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

use super::edit::{layer_mut, step_at, unknown};
use super::{Document, Edit, EditError, Layer, LayerKind, Recipe, find_layer};
use crate::mask::{Step, StepKind};
use crate::stroke::{Covers, Led, Points, Pressed, Stroke, Tilted, Tip, Track};

/// What changes of strokes; what isn't named stays.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, JsonSchema, TS)]
#[serde(default)]
#[ts(optional_fields)]
pub struct StrokeChange {
    /// mm.
    pub radius: Option<f64>,
    /// 0…1.
    pub hardness: Option<f64>,
    /// 0…1.
    pub flow: Option<f64>,
    /// 0…1.
    pub value: Option<f64>,
    /// Takes away rather than adds.
    pub take: Option<bool>,
    /// Stays on the shell that it begins on.
    pub one_shell: Option<bool>,
    /// What the pen's pressure changes.
    pub pressed: Option<Pressed>,
    /// What laying the pen down changes.
    pub tilted: Option<Tilted>,
    /// What the brush ends in.
    pub tip: Option<Tip>,
    /// What it covers.
    pub covers: Option<Covers>,
    /// From how many degrees on edges are sharp.
    pub crease: Option<f64>,
    /// How it gets from point to point.
    pub led: Option<Led>,
    /// Whether it comes back to its first point.
    pub closed: Option<bool>,
    /// Shown or hidden.
    pub shown: Option<bool>,
}

impl StrokeChange {
    fn of(&self, s: &mut Stroke) {
        for (number, new) in [
            (&mut s.radius, self.radius),
            (&mut s.hardness, self.hardness),
            (&mut s.flow, self.flow),
            (&mut s.value, self.value),
            (&mut s.crease, self.crease),
        ] {
            *number = new.unwrap_or(*number);
        }
        for (switch, new) in [
            (&mut s.take, self.take),
            (&mut s.one_shell, self.one_shell),
            (&mut s.shown, self.shown),
            (&mut s.closed, self.closed),
        ] {
            *switch = new.unwrap_or(*switch);
        }
        s.pressed = self.pressed.unwrap_or(s.pressed);
        s.tilted = self.tilted.unwrap_or(s.tilted);
        s.tip = self.tip.unwrap_or(s.tip);
        s.covers = self.covers.unwrap_or(s.covers);
        s.led = self.led.unwrap_or(s.led);
    }
}

fn step_mut<'a>(d: &'a mut Document, layer: &str, step: &str) -> Result<&'a mut Step, EditError> {
    let layer = layer_mut(d, layer)?;
    let i = step_at(layer, step)?;
    Ok(&mut layer.mask.steps[i])
}

/// Whether a layer is one of a use that is open: what it holds goes to other pieces as well.
fn in_opened(d: &Document, layer: &str) -> bool {
    let Some(opened) = &d.opened else { return false };
    let held = find_layer(&d.layers, &opened.layer).map(std::slice::from_ref).unwrap_or_default();
    find_layer(held, layer).is_some()
}

/// Where strokes stand in a step's row.
fn places(step: &Step, ids: &[String]) -> Result<Vec<usize>, EditError> {
    let place = |id: &String| step.strokes.iter().position(|s| s.id == *id).ok_or_else(|| unknown("stroke", id));
    ids.iter().map(place).collect()
}

pub(super) fn change_strokes(d: &mut Document, edit: &Edit) -> Result<(), EditError> {
    match edit {
        Edit::AddStroke { layer, step, stroke } => {
            if in_opened(d, layer) {
                return Err(EditError::DrawnInRecipe);
            }
            let step = step_mut(d, layer, step)?;
            if !StepKind::find(&step.kind).is_some_and(StepKind::is_by_hand) {
                return Err(EditError::Place);
            }
            Arc::make_mut(&mut step.strokes).push(Stroke { id: String::new(), ..stroke.clone() });
        }
        Edit::LayPin { layer, step, spot } => {
            if spot.is_some() && in_opened(d, layer) {
                return Err(EditError::DrawnInRecipe);
            }
            step_mut(d, layer, step)?.spot = *spot;
        }
        Edit::SetStrokes { layer, step, strokes, change } => {
            let step = step_mut(d, layer, step)?;
            let places = places(step, strokes)?;
            let all = Arc::make_mut(&mut step.strokes);
            places.into_iter().for_each(|i| change.of(&mut all[i]));
        }
        Edit::SetStrokePoints { layer, step, stroke, points } => {
            let step = step_mut(d, layer, step)?;
            let at = places(step, std::slice::from_ref(stroke))?[0];
            if points.track().is_none() {
                return Err(unknown("points of a stroke", points.hash()));
            }
            Arc::make_mut(&mut step.strokes)[at].points = points.clone();
        }
        Edit::RemoveStrokes { layer, step, strokes } => {
            let step = step_mut(d, layer, step)?;
            places(step, strokes)?;
            Arc::make_mut(&mut step.strokes).retain(|s| !strokes.contains(&s.id));
        }
        Edit::MoveStroke { layer, step, stroke, index } => {
            let step = step_mut(d, layer, step)?;
            let at = places(step, std::slice::from_ref(stroke))?[0];
            let all = Arc::make_mut(&mut step.strokes);
            let taken = all.remove(at);
            all.insert((*index).min(all.len()), taken);
        }
        _ => {}
    }
    Ok(())
}

/// What holds strokes: a document, or a recipe.
pub trait HoldsStrokes {
    /// Its rows of layers; those of groups and of recipes in use are in them.
    fn rows(&self) -> Vec<&[Layer]>;

    /// Calls `change` with those rows. What is shared with others is copied, so it should be asked for only where there is something to change.
    fn change_rows(&mut self, change: &mut dyn FnMut(&mut [Layer]));
}

impl HoldsStrokes for Document {
    fn rows(&self) -> Vec<&[Layer]> {
        let opened = self.opened.as_ref().map(|o| o.recipe.layers.as_slice());
        [self.layers.as_slice()].into_iter().chain(opened).collect()
    }

    fn change_rows(&mut self, change: &mut dyn FnMut(&mut [Layer])) {
        change(&mut self.layers);
        if let Some(opened) = &mut self.opened {
            change_recipe(&mut opened.recipe, change);
        }
    }
}

impl HoldsStrokes for Recipe {
    fn rows(&self) -> Vec<&[Layer]> {
        vec![&self.layers]
    }

    fn change_rows(&mut self, change: &mut dyn FnMut(&mut [Layer])) {
        change(&mut self.layers);
    }
}

/// Only one that keeps strokes, or holds others that do, is copied.
fn change_recipe(recipe: &mut Arc<Recipe>, change: &mut dyn FnMut(&mut [Layer])) {
    if is_drawn(&recipe.layers) {
        change(&mut Arc::make_mut(recipe).layers);
    }
}

/// Calls `change` with the steps of some layers, those of groups and of recipes in use among them.
fn each_step(layers: &mut [Layer], change: &mut dyn FnMut(&mut Step)) {
    for layer in layers {
        layer.mask.steps.iter_mut().for_each(&mut *change);
        match &mut layer.kind {
            LayerKind::Group { layers } => each_step(layers, change),
            LayerKind::Use { recipe, .. } => change_recipe(recipe, &mut |layers| each_step(layers, change)),
            LayerKind::Coat { .. } | LayerKind::Adjust { .. } => {}
        }
    }
}

/// The steps of some layers that something was drawn or laid in by hand, those of groups among them, whatever recipes in use keep.
pub(crate) fn own_drawn_steps(all: &[Layer]) -> Vec<&Step> {
    super::layers(all).into_iter().flat_map(|l| &l.mask.steps).filter(|s| s.is_drawn()).collect()
}

/// The same with those of recipes in use.
pub(crate) fn drawn_steps(all: &[Layer]) -> Vec<&Step> {
    let mut out = own_drawn_steps(all);
    for layer in super::layers(all) {
        if let LayerKind::Use { recipe, .. } = &layer.kind {
            out.extend(drawn_steps(&recipe.layers));
        }
    }
    out
}

/// Whether anything was drawn or laid by hand in some layers, in recipes in use as well.
pub fn is_drawn(all: &[Layer]) -> bool {
    !drawn_steps(all).is_empty()
}

/// How many strokes were drawn and how many pins laid at a spot in some steps.
pub(crate) fn counted_drawn(steps: &[&Step]) -> (usize, usize) {
    (steps.iter().map(|s| s.strokes.len()).sum(), steps.iter().filter(|s| s.spot.is_some()).count())
}

/// The points of all strokes, those that recipes in use keep as well.
pub fn points(of: &impl HoldsStrokes) -> Vec<&Points> {
    let steps = of.rows().into_iter().flat_map(drawn_steps);
    steps.flat_map(|s| s.strokes.iter()).map(|s| &s.points).collect()
}

/// The points of all strokes that are at hand, as the bytes that they are kept as, by hash.
pub fn points_files(of: &impl HoldsStrokes) -> BTreeMap<&str, Vec<u8>> {
    points(of).into_iter().filter_map(|p| Some((p.hash(), p.track()?.bytes()))).collect()
}

/// The points of strokes that one document holds and another, which it was made of, does not: what has to be kept with it.
pub fn new_points(before: &Document, after: &Document) -> Vec<Vec<u8>> {
    let known: BTreeSet<&str> = points(before).into_iter().filter(|p| p.track().is_some()).map(Points::hash).collect();
    let new = points(after).into_iter().filter(|p| !known.contains(p.hash()));
    new.filter_map(|p| Some(p.track()?.bytes())).collect()
}

/// Takes in the points of strokes that are not at hand, by their hashes. What can't be found or read stays away, and draws nothing.
pub fn hold_points(of: &mut impl HoldsStrokes, find: &mut dyn FnMut(&str) -> Option<Vec<u8>>) {
    if points(of).iter().all(|p| p.track().is_some()) {
        return;
    }
    let mut hold = |step: &mut Step| {
        if step.strokes.iter().all(|s| s.points.track().is_some()) {
            return;
        }
        for stroke in Arc::make_mut(&mut step.strokes).iter_mut().filter(|s| s.points.track().is_none()) {
            if let Some(track) = find(stroke.points.hash()).and_then(|bytes| Track::read(&bytes).ok()) {
                stroke.points.hold(Arc::new(track));
            }
        }
    };
    of.change_rows(&mut |layers| each_step(layers, &mut hold));
}

/// Leaves out what was drawn and laid by hand: a recipe has an empty step there, and its next piece is drawn on anew. Recipes in use stay the versions that they are.
pub(crate) fn leave_undrawn(layers: &mut [Layer]) {
    for layer in layers {
        layer.mask.steps.iter_mut().for_each(Step::leave_bare);
        if let LayerKind::Group { layers } = &mut layer.kind {
            leave_undrawn(layers);
        }
    }
}

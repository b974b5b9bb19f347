//! Edits: everything that can be done to a document. Applying one makes a new document or says why not.

use std::collections::BTreeMap;
use std::sync::Arc;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

use super::board::change_board;
use super::dial::dials_behind;
use super::dials::{change_dials, remove_dial};
use super::elements::change_plan;
use super::ids::{add_layer, follow_dials, forget_ids, fresh_ids};
use super::kept::change_kept;
use super::packed::{PackedChannel, lay_packed};
use super::settings::set_param;
use super::strokes::{StrokeChange, change_strokes};
use super::study::{Noted, forget_answers, set_note};
use super::tree::{find_layer_mut, params_mut, row_of, take_layer};
use super::variants::{change_variants, forget_lost};
use super::versions::{follow_recipe, loosen, take_preset};
use super::{
    BoardItem, Dial, Document, EditError, Element, Layer, LayerKind, Layout, Palette, Place, Recipe, check, find_layer,
};
use super::{copy, opened};
use crate::finish::ChannelUse;
use crate::finish::vary::Variation;
use crate::mask::{Join, Step, StepKind};
use crate::mesh::MeshSource;
use crate::mesh::intake::{Finer, PartLook, PartsBy, PictureUse, Swapped};
use crate::mesh::mend::Sharing;
use crate::pin::Spot;
use crate::setting::{DialKind, Param, ParamType, Value};
use crate::stroke::{Points, Stroke};

/// Which setting is meant: a layer's opacity, or a setting of one of its steps or channels, a dial of the recipe that it uses, or a setting of a measurement.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
pub struct Target {
    /// The layer.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub layer: Option<String>,
    /// The step of its mask line.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub step: Option<String>,
    /// The channel of its finish.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub channel: Option<String>,
    /// The measurement.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub reading: Option<String>,
    /// Whether a setting of how the mesh is mended is meant.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[ts(as = "Option<bool>", optional)]
    pub mending: bool,
    /// The dial of the recipe that the layer uses.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub dial: Option<String>,
    /// The setting's key; `opacity` for a layer, `amount` for a step's own, `value` for a dial.
    pub key: String,
    /// The setting of the mask that drives it, if that is meant.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub inner: Option<String>,
}

/// One thing done to a document.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(tag = "edit", rename_all = "snake_case")]
#[allow(missing_docs, reason = "the fields are named after what they hold; ids are those of the document")]
pub enum Edit {
    /// Renames the project.
    Rename { name: String },
    /// Sets the working texture size.
    SetDraftSize { size: u32 },
    /// Says what is handed off; none is what is usual.
    SetLayout { layout: Option<Layout> },
    /// Keeps what the dials stand at and which layers are shown as a variant; one of that name is kept anew. It holds what differs from the one that it builds on.
    KeepVariant {
        name: String,
        #[serde(default)]
        #[ts(optional)]
        on: Option<String>,
    },
    /// Says what a dial stands at in a variant; `null` leaves that to what the variant builds on.
    SetVariant { name: String, dial: String, value: Option<Value> },
    /// Says whether a layer is shown in a variant; `null` leaves that to what the variant builds on.
    ShowInVariant { name: String, layer: String, shown: Option<bool> },
    /// Turns the dials to what they stand at in a variant.
    TakeVariant { name: String },
    /// Forgets a variant.
    RemoveVariant { name: String },
    /// Keeps a place of the camera; one of that name moves there.
    KeepPlace { place: Place },
    /// Forgets a place of the camera.
    RemovePlace { name: String },
    /// Keeps a palette; one of that name is kept anew.
    KeepPalette { palette: Palette },
    /// Forgets a palette.
    RemovePalette { name: String },
    /// Puts things on the board, over what lies there; those with ids lie there already and are changed.
    PutOnBoard { items: Vec<BoardItem> },
    /// Takes things off the board, with the arrows to and from them.
    TakeOffBoard { items: Vec<String> },
    /// Moves a thing to `index` (counted without it): later ones lie over earlier ones.
    StackOnBoard { item: String, index: usize },
    /// Writes a row of the plan, or changes the one of that id.
    SetElement { element: Element },
    /// Takes a row out of the plan; the layer that answers it stays.
    RemoveElement { element: String },
    /// Moves a row to `index` (counted without it).
    MoveElement { element: String, index: usize },
    /// Lays a layer in flat colour for each of these rows that none answers.
    BlockIn { elements: Vec<String> },
    /// Writes a note on a layer, a step or a dial; an empty one takes it away.
    SetNote { on: Noted, text: String },
    /// Lays a layer over the ones below `index` in the row of `inside` (a group) or of the document.
    AddLayer {
        inside: Option<String>,
        index: usize,
        layer: Layer,
        /// Dials that come with it and drive it.
        #[serde(default, skip_serializing_if = "Vec::is_empty")]
        #[ts(as = "Option<Vec<Dial>>", optional)]
        dials: Vec<Dial>,
    },
    /// Lays a layer that was copied, in this project or another one, as the text that copying gave.
    PasteLayer { inside: Option<String>, index: usize, copied: String },
    /// Takes a layer away.
    RemoveLayer { layer: String },
    /// Moves a layer to `index` (counted without it) in the row of `inside`.
    MoveLayer { layer: String, inside: Option<String>, index: usize },
    /// Lays a copy of a layer right over it.
    DuplicateLayer { layer: String },
    /// Wraps a layer in a new group.
    GroupLayer { layer: String, name: String },
    /// Lets a use follow another version of its recipe; what set its dials goes along by id, then by label.
    FollowRecipe { layer: String, recipe: Arc<Recipe> },
    /// Opens a use in place: its recipe is edited as layers, and the other uses of it follow.
    OpenUse { layer: String },
    /// Closes what is open: all uses follow the recipe that was kept of it, or go back to what they were.
    CloseUse { kept: Option<Arc<Recipe>> },
    /// Turns the dials of a use to what they stand at in a preset of its recipe; those that the document's dials drive are left to these.
    TakePreset { layer: String, name: String },
    /// Turns a use into a group of its recipe's layers, whose dials become the document's.
    Loosen { layer: String },
    /// Names, shows or hides a layer.
    SetLayer {
        layer: String,
        #[serde(default)]
        #[ts(optional)]
        name: Option<String>,
        #[serde(default)]
        #[ts(optional)]
        shown: Option<bool>,
        /// Publishes its mask under that name; empty takes it back.
        #[serde(default)]
        #[ts(optional)]
        publish: Option<String>,
    },
    /// Switches a channel of a coat on or off.
    SetChannel { layer: String, channel: String, on: bool },
    /// Varies what lies below a layer that does so already, and nothing else.
    Vary { layer: String, variation: Variation },
    /// Puts a step into a mask line.
    AddStep { layer: String, index: usize, step: Step },
    /// Puts several steps into a layer's line, one after the other: a starter, or a copied line. What stands before is meant to stay: a first step that would take its place multiplies.
    AddSteps { layer: String, index: usize, steps: Vec<Step> },
    /// Takes a step out.
    RemoveStep { layer: String, step: String },
    /// Moves a step to `index` (counted without it).
    MoveStep { layer: String, step: String, index: usize },
    /// Switches a step on or off, or changes how it joins.
    SetStep {
        layer: String,
        step: String,
        #[serde(default)]
        #[ts(optional)]
        on: Option<bool>,
        #[serde(default)]
        #[ts(optional)]
        join: Option<Join>,
    },
    /// Draws a stroke over those of a step.
    AddStroke { layer: String, step: String, stroke: Stroke },
    /// Changes how some strokes were drawn, or shows and hides them; what isn't named stays.
    SetStrokes { layer: String, step: String, strokes: Vec<String>, change: StrokeChange },
    /// Leads a stroke through other points; all else of it stays.
    SetStrokePoints {
        layer: String,
        step: String,
        stroke: String,
        #[ts(type = "number[][]")]
        points: Points,
    },
    /// Takes strokes away.
    RemoveStrokes { layer: String, step: String, strokes: Vec<String> },
    /// Moves a stroke to `index` (counted without it): later ones lie over earlier ones.
    MoveStroke { layer: String, step: String, stroke: String, index: usize },
    /// Lays the picture of a pin at a spot of the piece; `null` takes it off.
    LayPin { layer: String, step: String, spot: Option<Spot> },
    /// Gives a setting a value or a drive; `null` resets it.
    SetParam { target: Target, value: Option<Param> },
    /// Makes a dial of what a setting takes, which stands where the setting stands and drives it: by its own value, or laid on `low` to `high`.
    MakeDial {
        target: Target,
        label: String,
        #[serde(default)]
        group: String,
        #[serde(default)]
        #[ts(optional)]
        low: Option<f64>,
        #[serde(default)]
        #[ts(optional)]
        high: Option<f64>,
    },
    /// Makes a dial that drives nothing yet.
    AddDial { dial: Dial },
    /// Changes a dial's description; its id says which.
    SetDial { dial: Dial },
    /// Moves a dial to `index` (counted without it), into a group.
    MoveDial { dial: String, index: usize, group: String },
    /// Lets a dial follow a formula, its dials by their labels; without one it can be turned again.
    FollowFormula { dial: String, text: Option<String> },
    /// Lets a formula set a setting, its dials by their labels.
    SetFormula { target: Target, text: String },
    /// Turns a dial: of the document, or of a use.
    TurnDial {
        #[serde(default)]
        #[ts(optional)]
        layer: Option<String>,
        dial: String,
        value: Value,
    },
    /// Removes a dial; what it drove keeps the value it had.
    RemoveDial { dial: String },
    /// Takes in another version of the mesh; `parts` are the looks of its parts.
    SwapMesh {
        mesh: MeshSource,
        parts: BTreeMap<String, PartLook>,
        #[serde(default)]
        #[ts(optional)]
        report: Option<Swapped>,
    },
    /// What became of the parts in the last swap has been seen to.
    SettleSwap,
    /// Says what tells the parts apart.
    TellParts {
        by: PartsBy,
        #[serde(default)]
        #[ts(optional)]
        tolerance: Option<f32>,
    },
    /// Names or colours a part; `part` is its key, `was` the name that steps know it by.
    SetPart {
        part: String,
        was: String,
        #[serde(default)]
        #[ts(optional)]
        name: Option<String>,
        #[serde(default)]
        #[ts(optional)]
        color: Option<String>,
    },
    /// Lays the UVs of a part of the file out anew, or leaves them as the file has them.
    UnwrapPart { part: String, anew: bool },
    /// Says what becomes of texels that several triangles of a part of the file share.
    ShareTexels { part: String, shared: Sharing },
    /// Brings in a picture.
    AddPicture { picture: PictureUse },
    /// Changes what a picture is for and how it is read; its hash says which.
    SetPicture { picture: PictureUse },
    /// Lays a layer in flat colour for each of these channels of a picture, with the channel as its mask, hard or as it is, published under its name.
    LayPacked { picture: String, channels: Vec<PackedChannel>, hard: bool },
    /// Takes a picture off.
    RemovePicture { picture: String },
    /// Takes in a finer mesh, looks for it at another distance, or takes it off.
    SetFiner { finer: Option<Finer> },
}

/// The document after an edit.
///
/// # Errors
/// [`EditError`] when the edit names something that is not there, or the document would not be valid. The old one is untouched.
pub fn apply(document: &Document, edit: &Edit) -> Result<Document, EditError> {
    let mut new = document.clone();
    change(&mut new, edit)?;
    forget_lost(&mut new);
    forget_answers(&mut new);
    fresh_ids(&mut new);
    follow_dials(&mut new);
    opened::follow_opened(&mut new)?;
    check(&new)?;
    Ok(new)
}

pub(super) fn unknown(what: &'static str, id: &str) -> EditError {
    EditError::Unknown { what, id: id.into() }
}

pub(super) fn layer_mut<'a>(d: &'a mut Document, id: &str) -> Result<&'a mut Layer, EditError> {
    find_layer_mut(&mut d.layers, id).ok_or_else(|| unknown("layer", id))
}

pub(super) fn step_at(layer: &Layer, id: &str) -> Result<usize, EditError> {
    layer.mask.steps.iter().position(|s| s.id == id).ok_or_else(|| unknown("mask step", id))
}

pub(super) fn row<'a>(d: &'a mut Document, inside: Option<&str>) -> Result<&'a mut Vec<Layer>, EditError> {
    let Some(id) = inside else { return Ok(&mut d.layers) };
    match &mut layer_mut(d, id)?.kind {
        LayerKind::Group { layers } => Ok(layers),
        _ => Err(EditError::Place),
    }
}

fn change(d: &mut Document, edit: &Edit) -> Result<(), EditError> {
    match edit {
        Edit::Rename { name } => d.name = name.clone(),
        Edit::SetDraftSize { size } => d.draft_size = *size,
        Edit::SetLayout { layout } => d.layout.clone_from(layout),
        Edit::KeepVariant { .. }
        | Edit::SetVariant { .. }
        | Edit::ShowInVariant { .. }
        | Edit::TakeVariant { .. }
        | Edit::RemoveVariant { .. } => change_variants(d, edit)?,
        Edit::KeepPlace { .. } | Edit::RemovePlace { .. } | Edit::KeepPalette { .. } | Edit::RemovePalette { .. } => {
            change_kept(d, edit)?
        }
        Edit::PutOnBoard { .. } | Edit::TakeOffBoard { .. } | Edit::StackOnBoard { .. } => {
            change_board(&mut d.study, edit)?
        }
        Edit::SetElement { .. } | Edit::RemoveElement { .. } | Edit::MoveElement { .. } | Edit::BlockIn { .. } => {
            change_plan(d, edit)?
        }
        Edit::LayPacked { picture, channels, hard } => lay_packed(d, picture, channels, *hard)?,
        Edit::SetNote { on, text } => set_note(d, on, text)?,
        Edit::AddLayer { inside, index, layer, dials } => {
            let mut layer = layer.clone();
            // What is added is new, whatever ids it came with: a copy never stands in for what it was copied from.
            forget_ids(&mut layer, &|_| false);
            add_layer(d, inside.as_deref(), *index, layer, dials)?;
        }
        Edit::PasteLayer { inside, index, copied } => {
            let (layer, dials) = copy::read(copied, &d.layers)?;
            add_layer(d, inside.as_deref(), *index, layer, &dials)?;
        }
        Edit::RemoveLayer { layer } => {
            let taken = take_layer(&mut d.layers, layer).ok_or_else(|| unknown("layer", layer))?;
            // What came with a layer goes with the last one that it drives: copies share it. What follows it elsewhere keeps its number.
            let left = dials_behind(&d.layers, &d.dials);
            let gone = dials_behind(std::slice::from_ref(&taken), &d.dials);
            let goes = |x: &&Dial| x.of.is_some() && left.iter().all(|l| l.id != x.id);
            for dial in gone.iter().filter(goes) {
                remove_dial(d, &dial.id)?;
            }
        }
        Edit::MoveLayer { layer, inside, index } => {
            let taken = take_layer(&mut d.layers, layer).ok_or_else(|| unknown("layer", layer))?;
            if let Some(to) = inside
                && find_layer(std::slice::from_ref(&taken), to).is_some()
            {
                return Err(EditError::Place);
            }
            let row = row(d, inside.as_deref())?;
            row.insert((*index).min(row.len()), taken);
        }
        Edit::DuplicateLayer { layer } => {
            let (row, i) = row_of(&mut d.layers, layer).ok_or_else(|| unknown("layer", layer))?;
            let mut copy = row[i].clone();
            forget_ids(&mut copy, &|_| false);
            copy.name = format!("{} copy", copy.name);
            row.insert(i + 1, copy);
        }
        Edit::GroupLayer { layer, name } => {
            let (row, i) = row_of(&mut d.layers, layer).ok_or_else(|| unknown("layer", layer))?;
            let inner = row.remove(i);
            row.insert(i, Layer::everywhere(name, LayerKind::Group { layers: vec![inner] }));
        }
        Edit::FollowRecipe { layer, recipe } => follow_recipe(d, layer, recipe)?,
        Edit::OpenUse { layer } => opened::open(d, layer)?,
        Edit::CloseUse { kept } => opened::close(d, kept.as_ref())?,
        Edit::TakePreset { layer, name } => take_preset(d, layer, name)?,
        Edit::Loosen { layer } => loosen(d, layer)?,
        Edit::SetLayer { layer, name, shown, publish } => {
            let l = layer_mut(d, layer)?;
            l.name = name.clone().unwrap_or_else(|| l.name.clone());
            l.shown = shown.unwrap_or(l.shown);
            if let Some(new) = publish {
                let was = std::mem::replace(&mut l.publish, Some(new.trim().to_owned()).filter(|n| !n.is_empty()));
                // Who follows it goes along with its new name; what it is taken back from follows nothing.
                if let (Some(was), Some(new)) = (was, layer_mut(d, layer)?.publish.clone()) {
                    rename_in_steps(&mut d.layers, ParamType::Follow, &was, &new);
                }
            }
        }
        Edit::SetChannel { layer, channel, on } => {
            let (finish, _) = layer_mut(d, layer)?.kind.finish_mut().ok_or(EditError::Place)?;
            let fresh = || ChannelUse { on: *on, settings: Default::default() };
            finish.channels.entry(channel.clone()).or_insert_with(fresh).on = *on;
        }
        Edit::Vary { layer, variation } => {
            let LayerKind::Adjust { finish } = &mut layer_mut(d, layer)?.kind else { return Err(EditError::Place) };
            // What says more than that is not overwritten.
            Variation::of(finish).ok_or(EditError::Place)?;
            *finish = variation.finish(finish);
        }
        Edit::AddStep { layer, index, step } => {
            let l = layer_mut(d, layer)?;
            let step = Step { id: String::new(), ..step.clone() };
            l.mask.steps.insert((*index).min(l.mask.steps.len()), step);
        }
        Edit::AddSteps { layer, index, steps } => {
            let l = layer_mut(d, layer)?;
            let at = (*index).min(l.mask.steps.len());
            let by_hand = |s: &Step| StepKind::find(&s.kind).is_some_and(StepKind::is_by_hand);
            let takes_place = |i: usize, s: &Step| i == 0 && at > 0 && s.join == Join::Replace && !by_hand(s);
            let joins = |i: usize, s: &Step| if takes_place(i, s) { Join::Multiply } else { s.join };
            let added = |(i, s): (usize, &Step)| Step { id: String::new(), join: joins(i, s), ..s.clone() };
            l.mask.steps.splice(at..at, steps.iter().enumerate().map(added));
        }
        Edit::RemoveStep { layer, step } => {
            let l = layer_mut(d, layer)?;
            let i = step_at(l, step)?;
            l.mask.steps.remove(i);
        }
        Edit::MoveStep { layer, step, index } => {
            let l = layer_mut(d, layer)?;
            let i = step_at(l, step)?;
            let taken = l.mask.steps.remove(i);
            l.mask.steps.insert((*index).min(l.mask.steps.len()), taken);
        }
        Edit::SetStep { layer, step, on, join } => {
            let l = layer_mut(d, layer)?;
            let i = step_at(l, step)?;
            let s = &mut l.mask.steps[i];
            s.on = on.unwrap_or(s.on);
            s.join = join.unwrap_or(s.join);
        }
        Edit::AddStroke { .. }
        | Edit::SetStrokes { .. }
        | Edit::SetStrokePoints { .. }
        | Edit::RemoveStrokes { .. }
        | Edit::MoveStroke { .. }
        | Edit::LayPin { .. } => change_strokes(d, edit)?,
        Edit::SetParam { target, value } => set_param(d, target, value.clone())?,
        Edit::MakeDial { .. }
        | Edit::AddDial { .. }
        | Edit::SetDial { .. }
        | Edit::MoveDial { .. }
        | Edit::FollowFormula { .. }
        | Edit::SetFormula { .. }
        | Edit::TurnDial { .. }
        | Edit::RemoveDial { .. } => change_dials(d, edit)?,
        Edit::SwapMesh { .. }
        | Edit::SettleSwap
        | Edit::TellParts { .. }
        | Edit::SetPart { .. }
        | Edit::UnwrapPart { .. }
        | Edit::ShareTexels { .. }
        | Edit::AddPicture { .. }
        | Edit::SetPicture { .. }
        | Edit::RemovePicture { .. }
        | Edit::SetFiner { .. } => change_intake(d, edit)?,
    }
    Ok(())
}

fn change_intake(d: &mut Document, edit: &Edit) -> Result<(), EditError> {
    let intake = &mut d.intake;
    let place = |all: &[PictureUse], hash: &str| {
        all.iter().position(|p| p.hash == hash).ok_or_else(|| unknown("picture", hash))
    };
    match edit {
        Edit::SwapMesh { mesh, parts, report } => {
            intake.mesh = mesh.clone();
            intake.swapped = None;
            // Parts that are told by colours keep their looks: they are the same colours.
            if intake.parts_by.of_file() {
                let before = std::mem::replace(&mut intake.parts, parts.clone());
                // A part that was unwrapped here is unwrapped again, and what was said of its texels still holds.
                for (key, was) in before.into_iter().filter(|(_, look)| look.unwrap || look.shared.is_some()) {
                    let look = intake.parts.entry(key).or_default();
                    (look.unwrap, look.shared) = (was.unwrap, was.shared);
                }
                intake.swapped = report.clone();
            }
        }
        Edit::SettleSwap => intake.swapped = None,
        Edit::TellParts { by, tolerance } => {
            intake.parts_by = *by;
            intake.tolerance = tolerance.unwrap_or(intake.tolerance);
        }
        Edit::SetPart { part, was, name, color } => {
            let look = intake.parts.entry(part.clone()).or_default();
            look.name = name.clone().or(look.name.take());
            look.color = color.clone().or(look.color.take());
            if let Some(name) = name {
                rename_in_steps(&mut d.layers, ParamType::Part, was, name);
                for dial in d.dials.iter_mut().filter(|x| x.kind() == DialKind::Part) {
                    for value in [&mut dial.value, &mut dial.default] {
                        if *value == Value::Text(was.clone()) {
                            *value = Value::Text(name.clone());
                        }
                    }
                }
                d.study.plan.iter_mut().filter(|e| e.part == *was).for_each(|e| e.part.clone_from(name));
            }
        }
        Edit::UnwrapPart { part, anew } => intake.parts.entry(part.clone()).or_default().unwrap = *anew,
        Edit::ShareTexels { part, shared } => {
            let shared = Some(*shared).filter(|s| *s != Sharing::First);
            intake.parts.entry(part.clone()).or_default().shared = shared;
        }
        Edit::AddPicture { picture } => {
            intake.add_picture(picture.clone());
        }
        Edit::SetPicture { picture } => {
            let i = place(&intake.pictures, &picture.hash)?;
            intake.pictures[i] = picture.clone();
        }
        Edit::RemovePicture { picture } => {
            let i = place(&intake.pictures, picture)?;
            intake.pictures.remove(i);
        }
        Edit::SetFiner { finer } => intake.finer = finer.clone(),
        _ => {}
    }
    Ok(())
}

/// Lets every setting that names a part, or a published mask, go along with its new name.
pub(super) fn rename_in_steps(layers: &mut [Layer], kind: ParamType, was: &str, name: &str) {
    params_mut(layers, &mut |spec, param| {
        if spec.kind == kind && *param == Param::from(was) {
            *param = Param::from(name);
        }
    });
}

//! What an edit is called, for "Undo …": in the artist's words, with the names of the document it was made on.

use super::{Document, Edit, LayerKind, Noted, Target, find_layer};
use crate::bake::{Extent, measurement};
use crate::finish::channel;
use crate::mask::{Step, StepKind};
use crate::mesh::mend;
use crate::mesh::mend::Sharing;
use crate::setting::ParamSpec;

/// A short name of the edit, such as `lay Salt bloom` or `Clouds size`.
pub fn label(document: &Document, edit: &Edit) -> String {
    let layer = |id: &str| find_layer(&document.layers, id).map_or("layer", |l| l.name.as_str());
    let step = |layer: &str, id: &str| {
        let steps = find_layer(&document.layers, layer).map(|l| l.mask.steps.as_slice()).unwrap_or_default();
        steps.iter().find(|s| s.id == id).and_then(|s| StepKind::find(&s.kind)).map_or("step", StepKind::label)
    };
    let dial = |id: &str| document.dials.iter().find(|d| d.id == id).map_or("dial", |d| d.label.as_str());
    let element_name = |id: &str| {
        let found = document.study.plan.iter().find(|e| e.id == *id);
        found.map_or("an element", |e| e.name.as_str())
    };
    match edit {
        Edit::Rename { .. } => "rename".into(),
        Edit::SetDraftSize { .. } => "draft size".into(),
        Edit::SetLayout { .. } => "layout of the hand-off".into(),
        Edit::KeepVariant { name, .. } => format!("keep the variant {name}"),
        Edit::SetVariant { name, .. } | Edit::ShowInVariant { name, .. } => format!("change the variant {name}"),
        Edit::TakeVariant { name } => format!("take the variant {name}"),
        Edit::RemoveVariant { name } => format!("forget the variant {name}"),
        Edit::KeepPlace { place } => format!("keep the place {}", place.name),
        Edit::RemovePlace { name } => format!("forget the place {name}"),
        Edit::KeepPalette { palette } => format!("keep the palette {}", palette.name),
        Edit::RemovePalette { name } => format!("forget the palette {name}"),
        Edit::PutOnBoard { items } => match items.as_slice() {
            [one] if one.id.is_empty() => format!("put {} on the board", one.what()),
            [first, ..] if first.id.is_empty() => format!("put {} things on the board", items.len()),
            [one] => format!("change {} on the board", one.what()),
            _ => "arrange the board".into(),
        },
        Edit::TakeOffBoard { items } => {
            let one = document.study.board.iter().find(|i| items.as_slice() == [i.id.clone()]);
            format!("take {} off the board", one.map_or("things", |i| i.what()))
        }
        Edit::StackOnBoard { .. } => "stack the board otherwise".into(),
        Edit::SetElement { element } if element.id.is_empty() => format!("plan {}", element.name),
        Edit::SetElement { element } => format!("change {} in the plan", element.name),
        Edit::RemoveElement { element } => format!("take {} out of the plan", element_name(element)),
        Edit::MoveElement { element, .. } => format!("move {} in the plan", element_name(element)),
        Edit::BlockIn { elements } => match elements.as_slice() {
            [one] => format!("lay {} flat", element_name(one)),
            more => format!("lay {} elements flat", more.len()),
        },
        Edit::SetNote { on, .. } => match on {
            Noted::Layer { layer: id } => format!("note on {}", layer(id)),
            Noted::Step { layer, step: id } => format!("note on {}", step(layer, id)),
            Noted::Dial { dial: id } => format!("note on {}", dial(id)),
        },
        Edit::AddLayer { layer, .. } => {
            let verb = if matches!(layer.kind, LayerKind::Adjust { .. }) { "adjust with" } else { "lay" };
            format!("{verb} {}", layer.name)
        }
        Edit::PasteLayer { copied, .. } => match super::copy::name(copied) {
            Some(name) => format!("paste {name}"),
            None => "paste a layer".into(),
        },
        Edit::RemoveLayer { layer: id } => format!("remove {}", layer(id)),
        Edit::MoveLayer { layer: id, .. } => format!("move {}", layer(id)),
        Edit::DuplicateLayer { layer: id } => format!("duplicate {}", layer(id)),
        Edit::GroupLayer { layer: id, .. } => format!("group {}", layer(id)),
        Edit::OpenUse { layer: l } => format!("open {}", layer(l)),
        Edit::CloseUse { kept: Some(recipe) } => format!("keep {} as version {}", recipe.name, recipe.version),
        Edit::CloseUse { kept: None } => "drop what was done to the recipe".into(),
        Edit::TakePreset { layer: l, name } => format!("take “{name}” for {}", layer(l)),
        Edit::FollowRecipe { layer: l, recipe } => format!("version {} of {}", recipe.version, layer(l)),
        Edit::Loosen { layer: l } => format!("loosen {}", layer(l)),
        Edit::SetLayer { layer: id, name: Some(_), .. } => format!("rename {}", layer(id)),
        Edit::SetLayer { layer: id, publish: Some(name), .. } if name.is_empty() => {
            format!("take back the mask of {}", layer(id))
        }
        Edit::SetLayer { layer: id, publish: Some(_), .. } => format!("publish the mask of {}", layer(id)),
        Edit::SetLayer { layer: id, shown, .. } => {
            format!("{} {}", if *shown == Some(false) { "hide" } else { "show" }, layer(id))
        }
        Edit::SetChannel { channel: c, on, .. } => {
            let name = channel::find(c).map_or("channel", |c| c.label);
            format!("{name} {}", if *on { "on" } else { "off" })
        }
        Edit::Vary { layer: id, .. } => format!("vary by {}", layer(id)),
        Edit::AddStep { step, .. } => added(std::slice::from_ref(step)),
        Edit::AddSteps { steps, .. } => added(steps),
        Edit::RemoveStep { layer, step: id } => format!("remove {}", step(layer, id)),
        Edit::MoveStep { layer, step: id, .. } => format!("move {}", step(layer, id)),
        Edit::SetStep { layer, step: id, join: Some(_), .. } => format!("{} join", step(layer, id)),
        Edit::SetStep { layer, step: id, on, .. } => {
            format!("{} {}", step(layer, id), if *on == Some(false) { "off" } else { "on" })
        }
        Edit::AddStroke { stroke, .. } if stroke.take => "take away by a stroke".into(),
        Edit::AddStroke { .. } => "draw a stroke".into(),
        Edit::SetStrokes { strokes, change, .. } => match change.shown {
            Some(shown) => format!("{} {}", if shown { "show" } else { "hide" }, counted(strokes.len())),
            None => format!("restyle {}", counted(strokes.len())),
        },
        Edit::SetStrokePoints { .. } => "lead a stroke elsewhere".into(),
        Edit::RemoveStrokes { strokes, .. } => format!("remove {}", counted(strokes.len())),
        Edit::MoveStroke { .. } => "move a stroke".into(),
        Edit::LayPin { spot: Some(_), .. } => "lay a pin".into(),
        Edit::LayPin { spot: None, .. } => "take a pin off".into(),
        Edit::SetParam { target, .. } => target_label(document, target),
        Edit::MakeDial { label, .. } => format!("make dial {label}"),
        Edit::AddDial { dial } => format!("make dial {}", dial.label),
        Edit::MoveDial { dial: id, .. } => format!("move dial {}", dial(id)),
        Edit::FollowFormula { dial: id, .. } => format!("formula of {}", dial(id)),
        Edit::SetFormula { target, .. } => format!("formula of {}", target_label(document, target)),
        Edit::SetDial { dial } => format!("change dial {}", dial.label),
        Edit::TurnDial { layer: None, dial: id, .. } => format!("turn {}", dial(id)),
        Edit::TurnDial { layer: Some(l), .. } => format!("turn a dial of {}", layer(l)),
        Edit::RemoveDial { dial: id } => format!("remove dial {}", dial(id)),
        Edit::SwapMesh { mesh, .. } => format!("swap the mesh for {}", mesh.file),
        Edit::SettleSwap => "put away what the swap left open".into(),
        Edit::TellParts { tolerance: Some(_), .. } => "tolerance of the parts".into(),
        Edit::TellParts { .. } => "how parts are told".into(),
        Edit::SetPart { was, name: Some(_), .. } => format!("rename part {was}"),
        Edit::SetPart { was, .. } => format!("colour of part {was}"),
        Edit::AddPicture { picture } => format!("bring in {}", picture.file),
        Edit::SetPicture { picture } => format!("use of {}", picture.file),
        Edit::LayPacked { picture: hash, .. } => {
            let found = document.intake.pictures.iter().find(|p| p.hash == *hash);
            format!("lay the masks of {}", found.map_or("a picture", |p| p.file.as_str()))
        }
        Edit::RemovePicture { picture: hash } => {
            let found = document.intake.pictures.iter().find(|p| p.hash == *hash);
            format!("take off {}", found.map_or("picture", |p| p.file.as_str()))
        }
        Edit::UnwrapPart { part, anew } => {
            format!("{} of {part}", if *anew { "UVs laid out anew" } else { "the file’s UVs" })
        }
        Edit::ShareTexels { part, shared } => {
            let what = match shared {
                Sharing::First => "the first measured",
                Sharing::Mean => "the mean measured",
                Sharing::Own => "each with its own",
            };
            format!("shared texels of {part}: {what}")
        }
        Edit::SetFiner { finer: Some(_) } => "finer mesh".into(),
        Edit::SetFiner { finer: None } => "take off the finer mesh".into(),
    }
}

fn added(steps: &[Step]) -> String {
    match steps {
        [one] => format!("add {}", StepKind::find(&one.kind).map_or("step", StepKind::label)),
        more => format!("add {} steps", more.len()),
    }
}

fn target_label(document: &Document, target: &Target) -> String {
    let found = |specs: Vec<ParamSpec>| {
        specs.into_iter().find(|s| s.key == target.key).map_or_else(|| target.key.clone(), |s| s.label.to_lowercase())
    };
    let measured = target.reading.as_deref().and_then(|kind| measurement::settings_of(kind, Extent::default()));
    if let Some((label, specs)) = measured {
        return format!("{label} {}", found(specs));
    }
    if target.mending {
        return format!("Mesh {}", found(mend::specs()));
    }
    let layer = target.layer.as_deref().and_then(|id| find_layer(&document.layers, id));
    if let (Some(l), Some(id)) = (layer, &target.step) {
        let kind = l.mask.steps.iter().find(|s| s.id == *id).and_then(|s| StepKind::find(&s.kind));
        return kind.map_or_else(|| target.key.clone(), |k| format!("{} {}", k.label(), found(k.specs().to_vec())));
    }
    if let (Some(l), Some(id)) = (layer, &target.dial)
        && let LayerKind::Use { recipe, .. } = &l.kind
    {
        let dial = recipe.dials.iter().find(|d| d.id == *id).map_or(id.as_str(), |d| d.label.as_str());
        return format!("{} {dial}", l.name);
    }
    if let Some(c) = target.channel.as_deref().and_then(channel::find) {
        let role = layer.and_then(|l| l.kind.finish()).map_or(channel::Role::Lays, |f| f.1);
        return format!("{} {}", c.label, found(c.settings(role)));
    }
    layer.map_or_else(|| target.key.clone(), |l| format!("{} {}", l.name, target.key))
}

/// So many strokes, in words.
pub(super) fn counted(strokes: usize) -> String {
    if strokes == 1 { "a stroke".into() } else { format!("{strokes} strokes") }
}

//! Walking the tree of layers.

use super::{Layer, LayerKind, Target, opacity_spec};
use crate::finish::channel;
use crate::mask::{StepKind, amount_spec};
use crate::setting::{Param, ParamSpec, Value};

/// All layers below `layers`, from the bottom up, parents before what they hold. Layers inside recipes are not part of the tree.
pub fn layers(layers: &[Layer]) -> Vec<&Layer> {
    let mut out = vec![];
    for l in layers {
        out.push(l);
        if let LayerKind::Group { layers: inner } = &l.kind {
            out.extend(self::layers(inner));
        }
    }
    out
}

/// The layer of that id.
pub fn find_layer<'a>(all: &'a [Layer], id: &str) -> Option<&'a Layer> {
    layers(all).into_iter().find(|l| l.id == id)
}

pub(super) fn find_layer_mut<'a>(all: &'a mut [Layer], id: &str) -> Option<&'a mut Layer> {
    for l in all {
        if l.id == id {
            return Some(l);
        }
        if let LayerKind::Group { layers } = &mut l.kind
            && let Some(found) = find_layer_mut(layers, id)
        {
            return Some(found);
        }
    }
    None
}

/// Takes a layer out of the tree.
pub(super) fn take_layer(all: &mut Vec<Layer>, id: &str) -> Option<Layer> {
    if let Some(i) = all.iter().position(|l| l.id == id) {
        return Some(all.remove(i));
    }
    all.iter_mut().find_map(|l| match &mut l.kind {
        LayerKind::Group { layers } => take_layer(layers, id),
        _ => None,
    })
}

/// The row of layers that holds the one of that id, and its place there.
pub(super) fn row_of<'a>(all: &'a mut Vec<Layer>, id: &str) -> Option<(&'a mut Vec<Layer>, usize)> {
    if let Some(i) = all.iter().position(|l| l.id == id) {
        return Some((all, i));
    }
    all.iter_mut().find_map(|l| match &mut l.kind {
        LayerKind::Group { layers } => row_of(layers, id),
        _ => None,
    })
}

/// Where a param stands.
pub(super) struct Place<'a> {
    pub layer: &'a Layer,
    /// Id and label of the step, or kind and label of the channel.
    pub within: Option<Within<'a>>,
    pub spec: ParamSpec,
}

#[derive(Clone, Copy)]
pub(super) enum Within<'a> {
    Step(&'a str, &'static str),
    Channel(&'a str, &'static str),
}

impl Place<'_> {
    /// `Layer › Step › Setting`.
    pub fn words(&self) -> String {
        match self.within {
            Some(Within::Step(_, label) | Within::Channel(_, label)) => {
                format!("{} › {label} › {}", self.layer.name, self.spec.label)
            }
            None => format!("{} › {}", self.layer.name, self.spec.label),
        }
    }

    /// How an edit names it.
    pub fn target(&self) -> Target {
        let (step, channel) = match self.within {
            Some(Within::Step(id, _)) => (Some(id.to_owned()), None),
            Some(Within::Channel(kind, _)) => (None, Some(kind.to_owned())),
            None => (None, None),
        };
        Target { layer: Some(self.layer.id.clone()), step, channel, reading: None, key: self.spec.key.into() }
    }
}

/// Calls `see` with every param that the layers hold, and its description.
pub(super) fn params(all: &[Layer], see: &mut dyn FnMut(&Place, &Param)) {
    for layer in layers(all) {
        see(&Place { layer, within: None, spec: opacity_spec() }, &layer.opacity);
        for s in &layer.mask.steps {
            let Some(kind) = StepKind::find(&s.kind) else { continue };
            let within = Some(Within::Step(&s.id, kind.label()));
            see(&Place { layer, within, spec: amount_spec() }, &s.amount);
            for spec in kind.specs() {
                if let Some(p) = s.settings.get(spec.key) {
                    see(&Place { layer, within, spec }, p);
                }
            }
        }
        let LayerKind::Coat { finish } = &layer.kind else { continue };
        for (key, ch) in &finish.channels {
            let Some(channel) = channel::find(key) else { continue };
            let within = Some(Within::Channel(key, channel.label));
            for spec in (channel.specs)() {
                if let Some(p) = ch.settings.get(spec.key) {
                    see(&Place { layer, within, spec }, p);
                }
            }
        }
    }
}

/// Calls `change` with every param that the layers hold.
pub(super) fn params_mut(all: &mut [Layer], change: &mut dyn FnMut(&ParamSpec, &mut Param)) {
    for l in all {
        change(&opacity_spec(), &mut l.opacity);
        for s in &mut l.mask.steps {
            let Some(kind) = StepKind::find(&s.kind) else { continue };
            change(&amount_spec(), &mut s.amount);
            for spec in kind.specs() {
                if let Some(p) = s.settings.get_mut(spec.key) {
                    change(&spec, p);
                }
            }
        }
        match &mut l.kind {
            LayerKind::Group { layers } => params_mut(layers, change),
            LayerKind::Coat { finish } => {
                for (key, ch) in &mut finish.channels {
                    for spec in channel::find(key).map(|c| (c.specs)()).unwrap_or_default() {
                        if let Some(p) = ch.settings.get_mut(spec.key) {
                            change(&spec, p);
                        }
                    }
                }
            }
            LayerKind::Use { .. } => {}
        }
    }
}

/// Steps that name a part or a picture which the piece doesn't have, or a mask that nothing publishes, each as a finding.
pub fn lost_names(document: &super::Document, piece: &crate::mesh::Piece) -> Vec<crate::mesh::Finding> {
    let layers = self::layers(&document.layers);
    let mut out = vec![];
    for layer in &layers {
        for step in &layer.mask.steps {
            let key = if step.kind == "follow" { "name" } else { step.kind.as_str() };
            let Some(Param::Const(Value::Text(name))) = step.settings.get(key).filter(|_| !key.is_empty()) else {
                continue;
            };
            let (there, what, remedy) = match step.kind.as_str() {
                "part" => (
                    piece.part_named(name).is_some(),
                    format!("the part “{name}”, which this piece doesn't have"),
                    "Give one of the parts that name in the list above, or pick another part in the mask line.",
                ),
                "picture" => (
                    piece.pictures.contains_key(name),
                    format!("the picture “{name}”, which is not among those for masks"),
                    "Bring it in and let it be used for steps of masks, or pick another one in the mask line.",
                ),
                "follow" => (
                    layers.iter().any(|l| l.publish.as_ref() == Some(name)),
                    format!("the mask “{name}”, which no layer publishes"),
                    "Let a layer publish its mask under that name, or pick another one in the mask line.",
                ),
                _ => continue,
            };
            if !name.is_empty() && !there {
                out.push(crate::mesh::Finding {
                    serious: true,
                    what: format!("The mask of {} asks for {what}.", layer.name),
                    remedy: format!("It shows nothing there. {remedy}"),
                });
            }
        }
    }
    out
}

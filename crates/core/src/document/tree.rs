//! Walking the tree of layers.

use super::{Dial, Layer, LayerKind, Recipe, Target, dial_states, opacity_spec};
use crate::finish::channel;
use crate::mask::{StepKind, amount_spec, change_deep, sources};
use crate::mesh::{Finding, Piece};
use crate::setting::{DialStates, Param, ParamSpec, ParamType, Settings, Value, palette_spec, resolve_one};

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

pub(crate) fn find_layer_mut<'a>(all: &'a mut [Layer], id: &str) -> Option<&'a mut Layer> {
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
    /// The step's number that the mask drives whose setting it is.
    pub drives: Option<ParamSpec>,
}

#[derive(Clone, Copy)]
pub(super) enum Within<'a> {
    Step(&'a str, &'static str),
    Channel(&'a str, &'static str),
    /// A dial of the recipe that the layer uses.
    Dial(&'a Dial),
}

impl Place<'_> {
    /// `Layer › Step › Setting`.
    pub fn words(&self) -> String {
        if let Some(Within::Dial(dial)) = self.within {
            return format!("{} › {}", self.layer.name, dial.label);
        }
        let within = match self.within {
            Some(Within::Step(_, label) | Within::Channel(_, label)) => format!("{} › {label}", self.layer.name),
            Some(Within::Dial(_)) | None => self.layer.name.clone(),
        };
        match &self.drives {
            Some(driven) => format!("{within} › {} › {}", driven.label, self.spec.label),
            None => format!("{within} › {}", self.spec.label),
        }
    }

    /// How an edit names it.
    pub fn target(&self) -> Target {
        let own = |text: &str| Some(text.to_owned());
        let (step, channel, dial) = match self.within {
            Some(Within::Step(id, _)) => (own(id), None, None),
            Some(Within::Channel(kind, _)) => (None, own(kind), None),
            Some(Within::Dial(dial)) => (None, None, own(&dial.id)),
            None => (None, None, None),
        };
        let (key, inner) = match &self.drives {
            Some(driven) => (driven.key.into(), Some(self.spec.key.into())),
            None => (self.spec.key.into(), None),
        };
        Target { layer: Some(self.layer.id.clone()), step, channel, dial, reading: None, mending: false, key, inner }
    }
}

/// Calls `see` with every param that the layers hold, and its description. Those of masks that drive numbers follow the number that they drive.
pub(super) fn params(all: &[Layer], see: &mut dyn FnMut(&Place, &Param)) {
    for layer in layers(all) {
        see(&Place { layer, within: None, spec: opacity_spec(), drives: None }, &layer.opacity);
        for s in &layer.mask.steps {
            let Some(kind) = StepKind::find(&s.kind) else { continue };
            let within = Some(Within::Step(&s.id, kind.label()));
            let own = kind.specs().iter().filter_map(|spec| Some((s.settings.get(spec.key)?, spec.clone())));
            for (param, spec) in [(&s.amount, amount_spec())].into_iter().chain(own) {
                see_deep(Place { layer, within, spec, drives: None }, param, see);
            }
        }
        if let LayerKind::Use { recipe, values } = &layer.kind {
            for dial in &recipe.dials {
                if let Some(p) = values.get(&dial.id) {
                    see(&Place { layer, within: Some(Within::Dial(dial)), spec: dial.spec(), drives: None }, p);
                }
            }
        }
        let Some((finish, role)) = layer.kind.finish() else { continue };
        for (key, ch) in &finish.channels {
            let Some(channel) = channel::find(key) else { continue };
            let within = Some(Within::Channel(key, channel.label));
            for spec in channel.settings(role) {
                if let Some(p) = ch.settings.get(spec.key) {
                    see_deep(Place { layer, within, spec, drives: None }, p, see);
                }
            }
        }
    }
}

fn see_deep(place: Place, param: &Param, see: &mut dyn FnMut(&Place, &Param)) {
    see(&place, param);
    if let Param::Ramp(drive) = param {
        for by in drive.stops.iter().filter_map(|s| s.by.clone()) {
            see(&place, &Param::Drive(by));
        }
        if let Some(by) = drive.palette.clone() {
            see(
                &Place { spec: palette_spec(&drive.stops), drives: Some(place.spec.clone()), ..place },
                &Param::Drive(by),
            );
        }
    }
    let Some(source) = param.source() else { return };
    for spec in StepKind::find(&source.kind).map(StepKind::specs).unwrap_or_default() {
        if let Some(p) = source.settings.get(spec.key) {
            see(&Place { spec: spec.clone(), drives: Some(place.spec.clone()), ..place }, p);
        }
    }
}

/// Calls `change` with every param that the layers hold.
pub(crate) fn params_mut(all: &mut [Layer], change: &mut dyn FnMut(&ParamSpec, &mut Param)) {
    for l in all {
        change(&opacity_spec(), &mut l.opacity);
        l.mask.steps.iter_mut().for_each(|s| s.each_param(change));
        match &mut l.kind {
            LayerKind::Group { layers } => params_mut(layers, change),
            LayerKind::Use { recipe, values } => {
                for dial in &recipe.dials {
                    if let Some(p) = values.get_mut(&dial.id) {
                        change(&dial.spec(), p);
                    }
                }
            }
            LayerKind::Coat { .. } | LayerKind::Adjust { .. } => {}
        }
        let Some((finish, role)) = l.kind.finish_mut() else { continue };
        for (key, ch) in &mut finish.channels {
            for spec in channel::find(key).map(|c| c.settings(role)).unwrap_or_default() {
                if let Some(p) = ch.settings.get_mut(spec.key) {
                    change_deep(&spec, p, change);
                }
            }
        }
    }
}

/// What is shown layers, what dials stand at there, and the recipe that they belong to.
pub(crate) type SeeScope<'a> = dyn FnMut(&[Layer], &DialStates, Option<&Recipe>) + 'a;

/// Calls `see` with layers and what dials stand at there, and with those of every recipe in use below them.
pub(crate) fn each_scope(all: &[Layer], dials: &DialStates, recipe: Option<&Recipe>, see: &mut SeeScope) {
    see(all, dials, recipe);
    for layer in layers(all) {
        if let LayerKind::Use { recipe, values } = &layer.kind {
            each_scope(&recipe.layers, &recipe.dial_states(values, dials), Some(recipe), see);
        }
    }
}

/// Steps that name a part or a picture which the piece doesn't have, or a mask that nothing publishes, each as a finding; those of recipes in use as well.
pub fn lost_names(document: &super::Document, piece: &Piece) -> Vec<Finding> {
    let states = dial_states(&document.dials, &Default::default());
    let mut out = vec![];
    each_scope(&document.layers, &states, None, &mut |layers, states, recipe| {
        let place = recipe.map(|r| format!(" in the recipe {}", r.name)).unwrap_or_default();
        out.extend(lost_in(layers, states, &place, piece));
    });
    out
}

fn lost_in(all: &[Layer], dials: &DialStates, place: &str, piece: &Piece) -> Vec<Finding> {
    let mut out = vec![];
    for (layer, kind, name) in names(all, dials) {
        let (there, what, remedy) = match kind {
            ParamType::Part => (
                piece.part_named(&name).is_some(),
                format!("the part “{name}”, which this piece doesn't have"),
                "Give one of the parts that name in the list above, or pick another part in the mask line.",
            ),
            ParamType::Picture => (
                piece.pictures.contains_key(&name),
                format!("the picture “{name}”, which is not among those for masks"),
                "Bring it in and let it be used for steps of masks, or pick another one in the mask line.",
            ),
            _ => (
                publishes(all, &name),
                format!("the mask “{name}”, which no layer{place} publishes"),
                "Let a layer publish its mask under that name, or pick another one in the mask line.",
            ),
        };
        if !there {
            out.push(Finding {
                serious: true,
                what: format!("The mask of {}{place} asks for {what}.", layer.name),
                remedy: format!("It shows nothing there. {remedy}"),
            });
        }
    }
    out
}

fn publishes(all: &[Layer], name: &str) -> bool {
    layers(all).iter().any(|l| l.publish.as_deref() == Some(name))
}

/// The parts, pictures and published masks that mask lines name where dials stand so: layer, what it is that is named, and its name.
fn names<'a>(all: &'a [Layer], dials: &DialStates) -> Vec<(&'a Layer, ParamType, String)> {
    let mut out = vec![];
    for layer in layers(all) {
        let lines = layer.mask.steps.iter().flat_map(|s| s.sources());
        for (kind, settings) in lines.chain(finish_sources(layer)) {
            let specs = StepKind::find(kind).map_or(&[][..], StepKind::specs);
            let names = |s: &&ParamSpec| matches!(s.kind, ParamType::Follow | ParamType::Part | ParamType::Picture);
            for spec in specs.iter().filter(names) {
                if let Value::Text(name) = resolve_one(spec, settings.get(spec.key), dials)
                    && !name.is_empty()
                {
                    out.push((layer, spec.kind, name));
                }
            }
        }
    }
    out
}

/// The masks that drive what a layer lays down: kinds and settings.
pub(crate) fn finish_sources(layer: &Layer) -> impl Iterator<Item = (&str, &Settings)> {
    let on = layer.kind.finish().map(|f| f.0).into_iter().flat_map(|f| f.channels.values()).filter(|c| c.on);
    on.flat_map(|c| sources(c.settings.values()))
}

/// A layer, by name, whose mask follows one that none of these layers publishes, and the name that it asks for.
pub(crate) fn follows_outside(all: &[Layer]) -> Option<(String, String)> {
    let mut named = names(all, &DialStates::new()).into_iter();
    let lost = named.find(|(_, kind, name)| *kind == ParamType::Follow && !publishes(all, name));
    lost.map(|(layer, _, name)| (layer.name.clone(), name))
}

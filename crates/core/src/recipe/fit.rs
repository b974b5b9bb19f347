//! How a recipe will lie on a piece: what it needs to be told, what it measures, and how large its patterns come out.

use serde::Serialize;
use strsim::jaro_winkler;
use ts_rs::TS;

use super::slots::{is_slot, labels};
use crate::bake::reading;
use crate::document::{self, Dial, Layer, Recipe, each_scope, finish_sources, layers};
use crate::mask::StepKind;
use crate::mesh::Piece;
use crate::pattern::placement::USUAL;
use crate::setting::{DialKind, DialStates, Settings, Value, resolve};

/// How alike two names must be for one to stand in for the other, from 0 to 1.
const ALIKE: f64 = 0.8;

/// What a recipe asks of a piece.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, TS)]
pub struct Needs {
    /// Labels of the measurements that it reads.
    pub measurements: Vec<String>,
    /// Labels of the slots that a part fills.
    pub parts: Vec<String>,
    /// Labels of the slots that a picture fills.
    pub pictures: Vec<String>,
}

/// How a recipe will lie on a piece.
#[derive(Debug, Clone, Default, PartialEq, Serialize, TS)]
pub struct Fit {
    /// What the piece has to fill, in the order of the dials.
    pub slots: Vec<SlotFit>,
    /// Its patterns, each once, from the bottom layer up.
    pub sizes: Vec<PatternSize>,
    /// What was drawn and laid by hand in it, if it keeps that.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub drawn: Option<DrawnFit>,
}

/// What a recipe keeps of strokes and pins, on a piece.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, TS)]
pub struct DrawnFit {
    /// How many strokes.
    pub strokes: usize,
    /// How many pins that stand at a spot.
    pub pins: usize,
    /// Whether the piece has the shape of that which they were drawn on; on others they show nothing.
    pub shows: bool,
}

/// A slot on a piece.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, TS)]
pub struct SlotFit {
    /// Id of the dial.
    pub dial: String,
    /// Its label.
    pub label: String,
    /// A part or a picture.
    pub kind: DialKind,
    /// What the recipe was made with.
    pub wanted: String,
    /// Names of what the piece has.
    pub options: Vec<String>,
    /// Which of them is taken if nothing else is said; none where nothing is alike.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub takes: Option<String>,
}

/// How large a pattern comes out.
#[derive(Debug, Clone, PartialEq, Serialize, TS)]
pub struct PatternSize {
    /// Name of the layer.
    pub layer: String,
    /// Label of the pattern.
    pub pattern: String,
    /// Label of the length.
    pub setting: String,
    /// In mm.
    pub mm: f64,
    /// As a share of the piece's diagonal.
    pub share: f64,
}

impl Recipe {
    /// What the recipe asks of a piece, what recipes within it ask as well.
    pub fn needs(&self) -> Needs {
        let mut needs = Needs {
            measurements: vec![],
            parts: labels(self, DialKind::Part),
            pictures: labels(self, DialKind::Picture),
        };
        let states = self.dial_states(&Settings::new(), &DialStates::new());
        each_scope(&self.layers, &states, None, &mut |all, _, _| {
            for (kind, _) in layers(all).into_iter().flat_map(sources_of) {
                let label = reading::find(kind).and_then(|r| r.measurement()).map(|m| m.label.to_owned());
                needs.measurements.extend(label.filter(|l| !needs.measurements.contains(l)));
            }
        });
        needs
    }

    /// How the recipe will lie on a piece where these set its dials.
    pub fn fit(&self, values: &Settings, piece: &Piece) -> Fit {
        let slots = self.dials.iter().filter(|d| is_slot(d) && d.formula.is_none());
        let slot = |d: &Dial| {
            let options: Vec<String> = match d.kind() {
                DialKind::Part => piece.parts.iter().map(|p| p.name.clone()).collect(),
                _ => piece.pictures.keys().cloned().collect(),
            };
            let wanted = if let Value::Text(name) = &d.default { name.clone() } else { String::new() };
            // Of a single part there is nothing to ask.
            let only = options.first().filter(|_| d.kind() == DialKind::Part && options.len() == 1).cloned();
            let takes = only.or_else(|| alike(&wanted, &options));
            SlotFit { dial: d.id.clone(), label: d.label.clone(), kind: d.kind(), wanted, options, takes }
        };
        let slots = slots.map(slot).collect();
        let mut sizes = vec![];
        let states = self.dial_states(values, &DialStates::new());
        each_scope(&self.layers, &states, None, &mut |all, dials, _| {
            for layer in layers(all).into_iter().filter(|l| l.shown) {
                for (kind, settings) in sources_of(layer) {
                    let size = size_of(layer, kind, settings, dials, piece.diagonal());
                    sizes.extend(size.filter(|s| !sizes.contains(s)));
                }
            }
        });
        let drawn = self.drawn_on.map(|_| {
            let (strokes, pins) = document::counted_drawn(&document::drawn_steps(&self.layers));
            DrawnFit { strokes, pins, shows: !self.is_drawn_on_another(&piece.shape()) }
        });
        Fit { slots, sizes, drawn }
    }
}

/// The name that is the wanted one, or the one that is most like it.
fn alike(wanted: &str, options: &[String]) -> Option<String> {
    let likeness = |name: &String| jaro_winkler(&wanted.to_lowercase(), &name.to_lowercase());
    let best = options.iter().filter(|_| !wanted.is_empty()).max_by(|a, b| likeness(a).total_cmp(&likeness(b)))?;
    (likeness(best) >= ALIKE).then(|| best.clone())
}

/// What brings something into a layer's mask, or drives what it lays down: kinds and settings.
fn sources_of(layer: &Layer) -> impl Iterator<Item = (&str, &Settings)> {
    layer.mask.steps.iter().filter(|s| s.on).flat_map(|s| s.sources()).chain(finish_sources(layer))
}

/// The length that says most of how large a pattern is.
fn size_of(layer: &Layer, kind: &str, settings: &Settings, dials: &DialStates, diagonal: f32) -> Option<PatternSize> {
    let found @ StepKind::Pattern(_) = StepKind::find(kind)? else { return None };
    let specs = found.specs();
    let spec = ["size", "large", "length"].iter().find_map(|key| specs.iter().find(|s| s.key == *key))?;
    let resolved = resolve(specs, settings, dials);
    let scale = if resolved.text("scale") == "piece" { diagonal / USUAL } else { 1.0 };
    let mm = f64::from(resolved.number(spec.key) * scale);
    Some(PatternSize {
        layer: layer.name.clone(),
        pattern: found.label().into(),
        setting: spec.label.into(),
        mm,
        share: mm / f64::from(diagonal.max(1e-6)),
    })
}

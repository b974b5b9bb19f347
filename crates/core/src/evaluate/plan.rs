//! The plan: the document's layers flattened from the bottom up, every setting worked out.

use std::collections::BTreeMap;
use std::rc::Rc;
use std::sync::Arc;

use super::{EvaluateError, coat};
use crate::bake::{MeasurementKey, Reading};
use crate::document::{Document, Layer, LayerKind, dial_states, opacity_spec};
use crate::finish::channel::{self, Channel};
use crate::mask::line::{Around, Field, Line};
use crate::mesh::Piece;
use crate::raster::pyramid::MaskPicture;
use crate::setting::{DialStates, Resolved, Settings, Value, resolve, resolve_one};

/// All layers of a document, from the bottom up; what holds others stands before them.
pub struct Plan {
    /// The layers.
    pub layers: Vec<LayerPlan>,
}

/// One layer, worked out.
pub struct LayerPlan {
    /// Id; layers inside a use are `use/inner`.
    pub id: String,
    /// Name.
    pub name: String,
    /// Its mask line.
    pub line: Line,
    /// 0…1.
    pub opacity: f32,
    /// Index of the layer that holds it.
    pub parent: Option<usize>,
    /// Whether it, and all that hold it, are shown and not fully faded.
    pub counts: bool,
    /// The channels it lays down; none for what only holds others.
    pub finish: Option<Vec<(&'static Channel, Resolved)>>,
}

struct Scope<'a> {
    dials: Rc<DialStates>,
    project: &'a BTreeMap<String, Settings>,
    piece: &'a Piece,
    prefix: String,
}

/// What the lines are worked out from, layer by layer, once all layers are known: a line may follow one above it.
struct Lines<'a> {
    of: Vec<(&'a Layer, Rc<DialStates>)>,
    /// Index of the layer that publishes, by its scope's prefix and the name.
    published: BTreeMap<(String, String), usize>,
    project: &'a BTreeMap<String, Settings>,
    piece: &'a Piece,
    /// Lines that are being worked out: who follows them meanwhile follows in a circle, which validation refuses, and gets nothing.
    underway: Vec<bool>,
    done: Vec<bool>,
}

impl Plan {
    /// Works a document out for a piece. Cheap: no texel is touched.
    pub fn new(document: &Document, piece: &Piece) -> Plan {
        let mut plan = Plan { layers: vec![] };
        let scope = Scope {
            dials: Rc::new(dial_states(&document.dials, &BTreeMap::new())),
            project: &document.readings,
            piece,
            prefix: String::new(),
        };
        let mut lines = Lines {
            of: vec![],
            published: BTreeMap::new(),
            project: &document.readings,
            piece,
            underway: vec![],
            done: vec![],
        };
        plan.add(&document.layers, &scope, None, &mut lines);
        lines.underway = vec![false; plan.layers.len()];
        lines.done = vec![false; plan.layers.len()];
        for i in 0..plan.layers.len() {
            plan.work_out(i, &mut lines);
        }
        plan
    }

    /// The layers that are shown, as indices.
    pub fn counting(&self) -> impl Iterator<Item = usize> {
        (0..self.layers.len()).filter(|i| self.layers[*i].counts)
    }

    /// The index of a layer.
    ///
    /// # Errors
    /// [`EvaluateError::NoLayer`]
    pub fn find(&self, id: &str) -> Result<usize, EvaluateError> {
        self.layers.iter().position(|l| l.id == id).ok_or_else(|| EvaluateError::NoLayer(id.into()))
    }

    /// The layer itself and all that hold it, as indices.
    pub fn chain(&self, at: usize) -> impl Iterator<Item = usize> {
        std::iter::successors(Some(at), |i| self.layers[*i].parent)
    }

    /// The layers whose masks are read to make those of `of`, these included; each once, in the order of the plan.
    pub fn read_by(&self, of: impl IntoIterator<Item = usize>) -> Vec<usize> {
        let mut wanted = vec![false; self.layers.len()];
        let mut waiting: Vec<usize> = of.into_iter().collect();
        while let Some(i) = waiting.pop() {
            if std::mem::replace(&mut wanted[i], true) {
                continue;
            }
            for field in self.layers[i].line.fields() {
                match field {
                    Field::Layer(j, _) => waiting.push(*j),
                    Field::Below(..) => waiting.extend((0..i).filter(|k| self.layers[*k].counts)),
                    _ => {}
                }
            }
        }
        (0..wanted.len()).filter(|i| wanted[*i]).collect()
    }

    fn work_out(&mut self, i: usize, lines: &mut Lines) {
        if lines.done[i] || lines.underway[i] {
            return;
        }
        lines.underway[i] = true;
        let (layer, dials) = (lines.of[i].0, lines.of[i].1.clone());
        let line = Line::new(&layer.mask, &dials, &mut Surroundings { plan: self, lines, at: i });
        self.layers[i].line = line;
        (lines.underway[i], lines.done[i]) = (false, true);
    }

    fn add<'a>(&mut self, layers: &'a [Layer], scope: &Scope<'a>, parent: Option<usize>, lines: &mut Lines<'a>) {
        for l in layers {
            let opacity = match resolve_one(&opacity_spec(), Some(&l.opacity), &scope.dials) {
                Value::Number(n) => n as f32,
                _ => 1.0,
            };
            let above = parent.is_none_or(|p| self.layers[p].counts);
            self.layers.push(LayerPlan {
                id: format!("{}{}", scope.prefix, l.id),
                name: l.name.clone(),
                line: Line::default(),
                opacity,
                parent,
                counts: above && l.shown && opacity > 0.0,
                finish: finish(l, &scope.dials),
            });
            let me = self.layers.len() - 1;
            lines.of.push((l, scope.dials.clone()));
            if let Some(name) = &l.publish {
                lines.published.insert((scope.prefix.clone(), name.clone()), me);
            }
            match &l.kind {
                LayerKind::Coat { .. } => {}
                LayerKind::Group { layers } => self.add(layers, scope, Some(me), lines),
                LayerKind::Use { recipe, values } => {
                    let inner = Scope {
                        dials: Rc::new(recipe.dial_states(values)),
                        project: scope.project,
                        piece: scope.piece,
                        prefix: format!("{}{}/", scope.prefix, l.id),
                    };
                    self.add(&recipe.layers, &inner, Some(me), lines);
                }
            }
        }
    }
}

struct Surroundings<'a, 'b> {
    plan: &'a mut Plan,
    lines: &'a mut Lines<'b>,
    at: usize,
}

impl Around for Surroundings<'_, '_> {
    fn measured(&mut self, reading: &Reading) -> Option<MeasurementKey> {
        let project = self.lines.project;
        reading.key(self.lines.piece, &|kind: &str| project.get(kind).cloned().unwrap_or_default())
    }

    fn picture(&mut self, name: &str) -> Option<(String, Arc<MaskPicture>)> {
        self.lines.piece.pictures.get(name).cloned()
    }

    fn follow(&mut self, name: &str) -> Option<(usize, blake3::Hash)> {
        let id = &self.plan.layers[self.at].id;
        let prefix = id.rfind('/').map_or("", |i| &id[..=i]).to_owned();
        let j = *self.lines.published.get(&(prefix, name.to_owned()))?;
        self.plan.work_out(j, self.lines);
        self.lines.done[j].then(|| (j, self.plan.layers[j].line.hash))
    }

    fn below(&mut self, channel: &'static Channel) -> blake3::Hash {
        for k in 0..self.at {
            self.plan.work_out(k, self.lines);
        }
        coat::channel_hash(self.plan, channel, self.at)
    }
}

fn finish(layer: &Layer, dials: &DialStates) -> Option<Vec<(&'static Channel, Resolved)>> {
    let LayerKind::Coat { finish } = &layer.kind else { return None };
    let on = finish.channels.iter().filter(|(_, c)| c.on);
    Some(
        on.filter_map(|(key, c)| channel::find(key).map(|ch| (ch, resolve(&(ch.specs)(), &c.settings, dials))))
            .collect(),
    )
}

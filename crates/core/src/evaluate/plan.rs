//! The plan: the document's layers flattened from the bottom up, every setting worked out.

use std::collections::BTreeMap;
use std::rc::Rc;
use std::sync::Arc;

use super::laid::Laid;
use super::{EvaluateError, Tint, coat};
use crate::bake::measurement::settings_among;
use crate::bake::{MeasurementKey, Reading, weather};
use crate::document::{Document, Layer, LayerKind, OpenedUse, dial_states, opacity_spec};
use crate::finish::ChannelUse;
use crate::finish::channel::{self, CHANNELS, Channel, DISTANCE, Role};
use crate::mask::StepKind;
use crate::mask::bring::Around;
use crate::mask::field::Field;
use crate::mask::line::Line;
use crate::mesh::{Piece, Shape};
use crate::pin::Pin;
use crate::raster::pyramid::MaskPicture;
use crate::setting::{DialStates, Settings, Value, resolve_one};

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
    /// Ids of the steps of its mask line, and what each is.
    pub labels: Vec<(String, &'static str)>,
    /// Its mask line.
    pub line: Line,
    /// 0…1.
    pub opacity: f32,
    /// Index of the layer that holds it.
    pub parent: Option<usize>,
    /// Whether it, and all that hold it, are shown and not fully faded.
    pub counts: bool,
    /// What it lays down or changes; none for what only holds others.
    pub finish: Option<Vec<Laid>>,
    /// Whether it hides what lies below, rather than change it.
    pub hides: bool,
}

impl LayerPlan {
    /// All fields that its finish reads, those that others are made of included.
    pub fn finish_fields(&self) -> Vec<&Field> {
        self.finish.iter().flatten().flat_map(Laid::fields).flat_map(Field::all).collect()
    }
}

type InForce<'a> = &'a dyn Fn(MeasurementKey) -> MeasurementKey;

#[derive(Clone)]
struct Scope<'a> {
    dials: Rc<DialStates>,
    shape: &'a Shape,
    opened: Option<&'a OpenedUse>,
    prefix: String,
    /// Whether it is within a recipe that was drawn on a piece of another shape.
    elsewhere: bool,
}

/// What the lines are worked out from, layer by layer, once all layers are known: a line may follow one above it.
struct Lines<'a> {
    of: Vec<(&'a Layer, Rc<DialStates>)>,
    /// Of each layer, whether what was drawn and laid by hand in it belongs to a piece of another shape.
    elsewhere: Vec<bool>,
    /// Index of the layer that publishes, by its scope's prefix and the name.
    published: BTreeMap<(String, String), usize>,
    project: &'a BTreeMap<String, Settings>,
    piece: &'a Piece,
    /// What is read in the place of a measurement.
    in_force: InForce<'a>,
    /// Lines that are being worked out: who follows them meanwhile follows in a circle, which validation refuses, and gets nothing.
    underway: Vec<bool>,
    done: Vec<bool>,
    /// The same of finishes.
    laying: Vec<bool>,
    laid: Vec<bool>,
}

impl Plan {
    /// Works a document out for a piece. Cheap: no texel is touched.
    pub fn new(document: &Document, piece: &Piece) -> Plan {
        Self::with(document, piece, &|key| key)
    }

    /// The same, where something else is read in the place of some measurements.
    pub fn with(document: &Document, piece: &Piece, in_force: InForce) -> Plan {
        let mut plan = Plan { layers: vec![] };
        let shape = piece.shape();
        let scope = Scope {
            dials: Rc::new(dial_states(&document.dials, &BTreeMap::new())),
            shape: &shape,
            opened: document.opened.as_ref(),
            prefix: String::new(),
            elsewhere: false,
        };
        let mut lines = Lines {
            of: vec![],
            elsewhere: vec![],
            published: BTreeMap::new(),
            project: &document.readings,
            piece,
            in_force,
            underway: vec![],
            done: vec![],
            laying: vec![],
            laid: vec![],
        };
        plan.add(&document.layers, &scope, None, &mut lines);
        for flags in [&mut lines.underway, &mut lines.done, &mut lines.laying, &mut lines.laid] {
            *flags = vec![false; plan.layers.len()];
        }
        for i in 0..plan.layers.len() {
            plan.work_out(i, &mut lines);
            plan.work_out_finish(i, &mut lines);
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

    /// The channels that the piece has: those that every piece has, and those that a layer that is shown lays down. With the greatest value of each that there can be.
    pub fn channels(&self) -> Vec<(&'static Channel, f32)> {
        let laid = |c: &'static Channel| {
            let coats = self.layers.iter().filter(|l| l.counts).flat_map(|l| l.finish.iter().flatten());
            let bare = c.bare.iter().copied().fold(f32::MIN, f32::max);
            let (mut highest, mut present) = (bare, c.always);
            for laid in coats.filter(|l| l.channel.kind == c.kind) {
                (highest, present) = (laid.highest(highest), true);
            }
            present.then_some((c, highest))
        };
        CHANNELS.iter().filter_map(|c| laid(c)).collect()
    }

    /// What the body does to light: as the topmost coat that is shown says. glTF has one such colour for a material.
    pub fn tint(&self) -> Option<Tint> {
        let said = |kind: &str| {
            let coats = self.layers.iter().rev().filter(|l| l.counts).flat_map(|l| l.finish.iter().flatten());
            coats.filter(|l| l.channel.kind == kind).find_map(Laid::main)
        };
        let color = said("attenuation_color")?;
        let distance = said("attenuation_distance").map_or(DISTANCE, |d| d[0]);
        Some(Tint { color: [color[0], color[1], color[2]], distance })
    }

    /// The layer itself and all that hold it, as indices.
    pub fn chain(&self, at: usize) -> impl Iterator<Item = usize> {
        std::iter::successors(Some(at), |i| self.layers[*i].parent)
    }

    /// The measurements that are read to make the masks of some layers, and with `coats` what they lay down as well; as often as they are read.
    pub fn needs(&self, of: impl IntoIterator<Item = usize>, coats: bool) -> Vec<&MeasurementKey> {
        let read = self.read(of, coats);
        fn key(field: &Field) -> Option<&MeasurementKey> {
            if let Field::Reading(_, _, key) = field { key.as_ref() } else { None }
        }
        let fields = self.layers.iter().zip(read).flat_map(|(layer, [line, finish])| {
            let line = if line { layer.line.fields() } else { vec![] };
            line.into_iter().chain(if finish { layer.finish_fields() } else { vec![] })
        });
        fields.filter_map(key).collect()
    }

    /// Of each layer, whether its line and whether what it lays down is worked out to make the masks of some layers, and with `coats` what they lay down as well.
    pub fn read(&self, of: impl IntoIterator<Item = usize>, coats: bool) -> Vec<[bool; 2]> {
        let mut seen = vec![[false; 2]; self.layers.len()];
        // Layers whose masks are read, and those whose finishes are.
        let mut waiting: Vec<(usize, bool)> =
            of.into_iter().flat_map(|i| [(i, false)].into_iter().chain(coats.then_some((i, true)))).collect();
        while let Some((i, finish)) = waiting.pop() {
            if std::mem::replace(&mut seen[i][usize::from(finish)], true) {
                continue;
            }
            let layer = &self.layers[i];
            for field in if finish { layer.finish_fields() } else { layer.line.fields() } {
                match field {
                    Field::Layer(j, _) => waiting.push((*j, false)),
                    Field::Below(..) => {
                        waiting.extend((0..i).filter(|k| self.layers[*k].counts).flat_map(|k| [(k, false), (k, true)]));
                    }
                    _ => {}
                }
            }
        }
        seen
    }

    fn work_out(&mut self, i: usize, lines: &mut Lines) {
        if lines.done[i] || lines.underway[i] {
            return;
        }
        lines.underway[i] = true;
        let (layer, dials) = (lines.of[i].0, lines.of[i].1.clone());
        let line = Line::new(&layer.mask, &dials, &mut Surroundings { plan: self, lines, at: i, finish: false });
        self.layers[i].line = line;
        (lines.underway[i], lines.done[i]) = (false, true);
    }

    fn work_out_finish(&mut self, i: usize, lines: &mut Lines) {
        let (layer, dials) = (lines.of[i].0, lines.of[i].1.clone());
        let Some((finish, role)) = layer.kind.finish() else { return };
        if lines.laid[i] || std::mem::replace(&mut lines.laying[i], true) {
            return;
        }
        let on = finish.channels.iter().filter(|(_, c)| c.on);
        let one = |(key, c): (&String, &ChannelUse)| {
            let mut around = Surroundings { plan: self, lines, at: i, finish: true };
            let make = if role == Role::Lays { Laid::new } else { Laid::changing };
            Some(make(channel::find(key)?, c, &dials, &mut around))
        };
        let laid = on.filter_map(one).collect();
        self.layers[i].finish = Some(laid);
        (lines.laying[i], lines.laid[i]) = (false, true);
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
                labels: l
                    .mask
                    .steps
                    .iter()
                    .filter_map(|s| Some((s.id.clone(), StepKind::find(&s.kind)?.label())))
                    .collect(),
                line: Line::default(),
                opacity,
                parent,
                counts: above && l.shown && opacity > 0.0,
                finish: l.kind.finish().map(|_| vec![]),
                hides: matches!(l.kind, LayerKind::Coat { .. }),
            });
            let me = self.layers.len() - 1;
            lines.of.push((l, scope.dials.clone()));
            lines.elsewhere.push(scope.elsewhere);
            if let Some(name) = &l.publish {
                lines.published.insert((scope.prefix.clone(), name.clone()), me);
            }
            match &l.kind {
                LayerKind::Coat { .. } | LayerKind::Adjust { .. } => {}
                LayerKind::Group { layers } => {
                    let opened = scope.opened.filter(|o| scope.prefix.is_empty() && o.layer == l.id);
                    let elsewhere = opened.is_some_and(|o| o.recipe.is_drawn_on_another(scope.shape));
                    let inner = Scope { elsewhere: scope.elsewhere || elsewhere, ..scope.clone() };
                    self.add(layers, &inner, Some(me), lines);
                }
                LayerKind::Use { recipe, values } => {
                    let inner = Scope {
                        dials: Rc::new(recipe.dial_states(values, &scope.dials)),
                        prefix: format!("{}{}/", scope.prefix, l.id),
                        elsewhere: scope.elsewhere || recipe.is_drawn_on_another(scope.shape),
                        ..scope.clone()
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
    /// Whether it is the layer's finish that is worked out, rather than its line.
    finish: bool,
}

impl Around for Surroundings<'_, '_> {
    fn measured(&mut self, reading: &Reading) -> Option<MeasurementKey> {
        let project = self.lines.project;
        let key = reading.key(self.lines.piece, &|kind: &str| settings_among(project, kind));
        key.map(self.lines.in_force)
    }

    fn weather(&mut self) -> Settings {
        settings_among(self.lines.project, weather::KIND)
    }

    fn stand_in(&mut self, reading: &Reading) -> Option<String> {
        reading.stand_in(self.lines.piece).map(|s| s.0.clone())
    }

    fn part(&mut self, name: &str) -> Option<u16> {
        self.lines.piece.part_named(name)
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

    fn is_drawn_elsewhere(&self) -> bool {
        self.lines.elsewhere[self.at]
    }

    fn within(&mut self) -> String {
        let id = &self.plan.layers[self.at].id;
        id.rfind('/').map_or("", |i| &id[..i]).to_owned()
    }

    fn own(&mut self) -> Option<(usize, blake3::Hash)> {
        if !self.finish {
            return None;
        }
        self.plan.work_out(self.at, self.lines);
        self.lines.done[self.at].then(|| (self.at, self.plan.layers[self.at].line.hash))
    }

    fn pins(&mut self) -> Vec<(Arc<Pin>, String)> {
        // Only a finish asks, whose line is worked out before it.
        if !self.finish {
            return vec![];
        }
        self.plan.work_out(self.at, self.lines);
        if self.lines.done[self.at] { self.plan.layers[self.at].line.pins() } else { vec![] }
    }

    fn below(&mut self, channel: &'static Channel) -> blake3::Hash {
        for k in 0..self.at {
            self.plan.work_out(k, self.lines);
            self.plan.work_out_finish(k, self.lines);
        }
        coat::channel_hash(self.plan, channel, self.at)
    }
}

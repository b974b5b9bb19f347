//! The plan: the document's layers flattened from the bottom up, every setting worked out.

use std::collections::BTreeMap;

use crate::document::{Document, Layer, LayerKind, dial_states, opacity_spec};
use crate::finish::channel::{self, Channel};
use crate::mask::line::Line;
use crate::mesh::Piece;
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
    dials: DialStates,
    project: &'a BTreeMap<String, Settings>,
    piece: &'a Piece,
    prefix: String,
}

impl Plan {
    /// Works a document out for a piece. Cheap: no texel is touched.
    pub fn new(document: &Document, piece: &Piece) -> Plan {
        let mut plan = Plan { layers: vec![] };
        let scope = Scope {
            dials: dial_states(&document.dials, &BTreeMap::new()),
            project: &document.readings,
            piece,
            prefix: String::new(),
        };
        plan.add(&document.layers, &scope, None);
        plan
    }

    /// The layer itself and all that hold it, as indices.
    pub fn chain(&self, at: usize) -> impl Iterator<Item = usize> {
        std::iter::successors(Some(at), |i| self.layers[*i].parent)
    }

    fn add(&mut self, layers: &[Layer], scope: &Scope, parent: Option<usize>) {
        for l in layers {
            let opacity = match resolve_one(&opacity_spec(), Some(&l.opacity), &scope.dials) {
                Value::Number(n) => n as f32,
                _ => 1.0,
            };
            let above = parent.is_none_or(|p| self.layers[p].counts);
            let project = |kind: &str| scope.project.get(kind).cloned().unwrap_or_default();
            self.layers.push(LayerPlan {
                id: format!("{}{}", scope.prefix, l.id),
                name: l.name.clone(),
                line: Line::new(&l.mask, &scope.dials, &|r| r.key(scope.piece, &project)),
                opacity,
                parent,
                counts: above && l.shown && opacity > 0.0,
                finish: finish(l, &scope.dials),
            });
            let me = Some(self.layers.len() - 1);
            match &l.kind {
                LayerKind::Coat { .. } => {}
                LayerKind::Group { layers } => self.add(layers, scope, me),
                LayerKind::Use { recipe, values } => {
                    let inner = Scope {
                        dials: recipe.dial_states(values),
                        project: scope.project,
                        piece: scope.piece,
                        prefix: format!("{}{}/", scope.prefix, l.id),
                    };
                    self.add(&recipe.layers, &inner, me);
                }
            }
        }
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

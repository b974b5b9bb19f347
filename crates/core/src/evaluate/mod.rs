//! Evaluation: a document, laid on a surface, becomes planes of texels.
//!
//! [`Plan`] works every setting out and flattens the layers; [`evaluate`] runs it. Everything that is worth keeping is a node with a
//! content hash of its own settings and its inputs — pattern fields, masks, channels, coverage — kept in a [`Cache`] within a byte
//! budget, so only what changed is computed. Nothing else has a say: the same document gives the same bytes at every thread count.

mod anywhere;
pub mod bands;
mod cache;
mod coat;
mod coverage;
mod finer;
mod laid;
mod line;
mod measured;
pub mod packing;
pub mod plan;
pub mod probe;
pub mod steps;
pub mod texture;

use std::collections::BTreeMap;
use std::ops::Range;
use std::sync::Arc;

use rayon::prelude::*;

pub use cache::{Cache, Store};
pub use coverage::LayerCoverage;
use line::{LineFields, field_plane, held_fields, hold, mask_after};
pub use measured::Measured;
pub use plan::Plan;

use crate::bake::{MeasurementKey, Surface};
use crate::document::Document;
use crate::finish::channel::Channel;
use crate::finish::relief;
use crate::mask::field::Field;
use crate::mesh::Piece;
use crate::raster::Plane;
use crate::setting::Resolved;
use crate::task::{Cancel, Cancelled, OnProgress};

/// Why an evaluation gave nothing.
#[derive(Debug, thiserror::Error)]
pub enum EvaluateError {
    /// Asked to stop.
    #[error(transparent)]
    Cancelled(#[from] Cancelled),
    /// Not measured yet.
    #[error("{} is not measured at this size yet. Measure it in the Surface room.", crate::bake::measurement::find(.0.kind).map_or(.0.kind, |m| m.label))]
    Missing(MeasurementKey),
    /// Nowhere to lie.
    #[error(
        "The piece has no texels: none of its UVs lie inside a tile. Lay them out in the modeller and bring the mesh in again."
    )]
    NoTexels,
    /// No such layer.
    #[error("There is no layer “{0}” any more.")]
    NoLayer(String),
}

/// What an evaluation is given besides the document.
pub struct Context<'a> {
    /// The piece at the wanted size.
    pub surface: &'a Surface,
    /// Measurements.
    pub measured: &'a Measured,
    /// What was computed before.
    pub cache: &'a Cache,
    /// Somebody may ask to stop.
    pub cancel: &'a Cancel,
    /// Somebody may want to watch.
    pub progress: OnProgress<'a>,
}

/// The channels that a piece has, with the greatest value of each that there can be; and what a material has one of.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Highest {
    values: BTreeMap<&'static str, f32>,
    /// What the body does to light, if a coat says so.
    pub tint: Option<Tint>,
}

/// What a body does to light that goes through it: its colour after a distance in mm (KHR_materials_volume).
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Tint {
    /// Linear.
    pub color: [f32; 3],
    /// In mm.
    pub distance: f32,
}

impl std::ops::Deref for Highest {
    type Target = BTreeMap<&'static str, f32>;

    fn deref(&self) -> &Self::Target {
        &self.values
    }
}

/// The channels that a document gives to a piece.
pub fn channels(document: &Document, piece: &Piece) -> Highest {
    highest(&Plan::new(document, piece))
}

/// The finished planes.
pub struct Evaluation {
    /// Per channel kind that the piece has: one value per covered texel, components one after the other.
    pub channels: BTreeMap<&'static str, Arc<Plane>>,
    /// Content hash per channel kind.
    pub keys: BTreeMap<&'static str, String>,
    /// The greatest value that there can be per channel kind, wherever the masks let it lie.
    pub highest: Highest,
    /// Masks that were asked for, by the ids of their layers: one value per covered texel.
    pub masks: BTreeMap<String, Arc<Plane>>,
    /// Per layer, from the bottom up, those inside groups included.
    pub coverage: Vec<LayerCoverage>,
    /// Names of the nodes that were computed; the others were in the cache.
    pub computed: Vec<String>,
    /// Of a band: heights right beyond the borders of charts, each with its index into the squares. A whole surface knows them by itself.
    pub fringe: Vec<(u32, f32)>,
}

impl Evaluation {
    /// Tangent-space normals, one per covered texel: of its height, with its fine normals laid over them.
    pub fn normals(&self, surface: &Surface) -> Vec<[f32; 3]> {
        let mut all = relief::normals(surface, &self.channels["height"], &self.fringe);
        if let Some(fine) = self.channels.get("normal") {
            relief::lay_over(&mut all, fine);
        }
        all
    }
}

impl Context<'_> {
    /// A document worked out for the piece, with the measurements that are at hand.
    pub fn plan(&self, document: &Document) -> Plan {
        Plan::with(document, &self.surface.piece, &|key| self.measured.in_force(key, self.surface))
    }

    fn check_readings(&self, needs: Vec<&MeasurementKey>) -> Result<(), EvaluateError> {
        if self.surface.atlas.is_empty() {
            return Err(EvaluateError::NoTexels);
        }
        let hash = |k: &MeasurementKey| k.hash(&self.surface.piece.hash, self.surface.atlas.size);
        let missing = needs.into_iter().find(|k| self.measured.get(&hash(k)).is_none());
        missing.map_or(Ok(()), |k| Err(EvaluateError::Missing(k.clone())))
    }

    fn key(&self, what: &str, hash: &str) -> String {
        format!("{what}/{}/{hash}", self.surface.key())
    }
}

/// Evaluates a document on a surface.
///
/// # Errors
/// [`EvaluateError::Missing`] names the first reading that must be measured before; [`EvaluateError::Cancelled`] when asked to stop.
pub fn evaluate(document: &Document, context: &Context) -> Result<Evaluation, EvaluateError> {
    let plan = context.plan(document);
    let (channels, keys, masks, mut computed) = coats(&plan, context)?;
    let coverage = coverage::coverage(&plan, &masks, context, &mut computed)?;
    Ok(Evaluation {
        channels,
        keys,
        highest: highest(&plan),
        masks: BTreeMap::new(),
        coverage,
        computed,
        fringe: vec![],
    })
}

/// The same without the coverage, which nobody reads off while something moves: masks that lie below what changed aren't asked for.
///
/// # Errors
/// As [`evaluate`].
pub fn evaluate_channels(document: &Document, context: &Context) -> Result<Evaluation, EvaluateError> {
    let plan = context.plan(document);
    let mut masks = Masks::new(&plan, context, plan.counting(), true)?;
    let (channels, keys) = coat::channels(&mut masks)?;
    let computed = masks.computed;
    let (highest, masks) = (highest(&plan), BTreeMap::new());
    Ok(Evaluation { channels, keys, highest, masks, coverage: vec![], computed, fringe: vec![] })
}

/// The same with smooth edges: texels within which the coats vary are worked out at more places. The coverage is that of single samples, which knows no bias.
///
/// # Errors
/// As [`evaluate`].
pub fn evaluate_finely(document: &Document, context: &Context) -> Result<Evaluation, EvaluateError> {
    evaluate_with_masks(document, context, &[])
}

/// The same with the masks of some layers, which are as smooth, whether or not these layers are shown.
///
/// # Errors
/// As [`evaluate`], and [`EvaluateError::NoLayer`].
pub fn evaluate_with_masks(
    document: &Document,
    context: &Context,
    wanted: &[String],
) -> Result<Evaluation, EvaluateError> {
    let plan = Arc::new(context.plan(document));
    let (channels, keys, masks, mut computed) = coats(&plan, context)?;
    let coverage = coverage::coverage(&plan, &masks, context, &mut computed)?;
    let keys: BTreeMap<&'static str, String> =
        keys.into_iter().map(|(kind, key)| (kind, format!("fine/{key}"))).collect();
    let held: BTreeMap<&'static str, Arc<Plane>> =
        keys.iter().filter_map(|(kind, key)| Some((*kind, context.cache.get(key)?))).collect();
    let channels = if held.len() == keys.len() {
        held
    } else {
        computed.push("smooth edges".into());
        let anywhere = anywhere::Anywhere::new(plan.clone(), context, &[])?;
        let fine = finer::channels(&anywhere, context.surface, &channels)?;
        fine.into_iter().map(|(kind, plane)| (kind, context.cache.put(keys[kind].clone(), plane))).collect()
    };
    let masks = fine_masks(&plan, context, wanted)?;
    Ok(Evaluation { channels, keys, highest: highest(&plan), masks, coverage, computed, fringe: vec![] })
}

/// The masks of some layers with smooth edges, by their ids.
fn fine_masks(
    plan: &Arc<Plan>,
    context: &Context,
    wanted: &[String],
) -> Result<BTreeMap<String, Arc<Plane>>, EvaluateError> {
    if wanted.is_empty() {
        return Ok(BTreeMap::new());
    }
    let of: Vec<usize> = wanted.iter().map(|id| plan.find(id)).collect::<Result<_, _>>()?;
    let single = masks_of(plan, context, &of)?;
    let anywhere = anywhere::Anywhere::new(plan.clone(), context, &of)?;
    let fine = finer::masks(&anywhere, context.surface, &of, &single)?;
    Ok(wanted.iter().cloned().zip(fine.into_iter().map(Arc::new)).collect())
}

/// The masks of some layers, whether or not they are shown: one value per covered texel.
fn masks_of(plan: &Plan, context: &Context, of: &[usize]) -> Result<Vec<Arc<Plane>>, EvaluateError> {
    let mut masks = Masks::new(plan, context, of.iter().copied(), false)?;
    let whole = Arc::new(vec![1.0; context.surface.atlas.len()]);
    of.iter().map(|i| Ok(masks.of(*i)?.unwrap_or_else(|| whole.clone()))).collect()
}

/// What an evaluation says of itself while the channels are laid; before that it makes masks, each under its layer's name.
pub const LAYING: &str = "Laying the coats";
/// What it says while it sums up the coverage.
pub const COVERING: &str = "Coverage";

type Coats = (BTreeMap<&'static str, Arc<Plane>>, BTreeMap<&'static str, String>, Vec<Option<Arc<Plane>>>, Vec<String>);

/// All channels, their keys, the masks of the layers that are shown, and what was computed.
fn coats(plan: &Plan, context: &Context) -> Result<Coats, EvaluateError> {
    let mut masks = Masks::new(plan, context, plan.counting(), true)?;
    for i in plan.counting() {
        masks.of(i)?;
    }
    let (channels, keys) = coat::channels(&mut masks)?;
    let Masks { done, computed, .. } = masks;
    // Masks of hidden layers are only read by others.
    let masks = done.into_iter().zip(&plan.layers).map(|(m, l)| m.flatten().filter(|_| l.counts)).collect();
    Ok((channels, keys, masks, computed))
}

fn highest(plan: &Plan) -> Highest {
    let values = plan.channels().into_iter().map(|(c, highest)| (c.kind, highest)).collect();
    Highest { values, tint: plan.tint() }
}

/// The mask of one layer by itself, whether or not the layer is shown: one value per covered texel, and its content hash.
///
/// # Errors
/// As [`evaluate`], and [`EvaluateError::NoLayer`].
pub fn mask(document: &Document, layer: &str, context: &Context) -> Result<(Arc<Plane>, String), EvaluateError> {
    let plan = context.plan(document);
    let i = plan.find(layer)?;
    let key = context.key("mask", plan.layers[i].line.hash.to_hex().as_str());
    Ok((masks_of(&plan, context, &[i])?.swap_remove(0), key))
}

/// Planes that are given to a line by what lies around its layer, by hash.
type Given = BTreeMap<String, Arc<Plane>>;

/// The masks of a plan, each made when first asked for: a line may read what another one makes.
struct Masks<'a> {
    plan: &'a Plan,
    context: &'a Context<'a>,
    /// Per layer: not asked for yet, or its mask, which is none for an even line.
    done: Vec<Option<Option<Arc<Plane>>>>,
    /// Validation refuses circles; if there is one all the same, who is asked for again while being made is even.
    underway: Vec<bool>,
    computed: Vec<String>,
}

impl<'a> Masks<'a> {
    /// Of a plan, to be asked for `wanted`, and with `coats` for what these layers lay down.
    fn new(
        plan: &'a Plan,
        context: &'a Context<'a>,
        wanted: impl IntoIterator<Item = usize>,
        coats: bool,
    ) -> Result<Self, EvaluateError> {
        context.check_readings(plan.needs(wanted, coats))?;
        Ok(Self {
            plan,
            context,
            done: vec![None; plan.layers.len()],
            underway: vec![false; plan.layers.len()],
            computed: vec![],
        })
    }

    /// A layer's mask; none when its line is even.
    fn of(&mut self, i: usize) -> Result<Option<Arc<Plane>>, EvaluateError> {
        if let Some(done) = &self.done[i] {
            return Ok(done.clone());
        }
        let layer = &self.plan.layers[i];
        let mask = if layer.line.is_even() || std::mem::replace(&mut self.underway[i], true) {
            None
        } else {
            let given = self.given(i)?;
            let upto = layer.line.ops.len();
            Some(mask_after(&layer.line, upto, &layer.name, self.context, &given, &mut self.computed)?)
        };
        self.done[i] = Some(mask.clone());
        Ok(mask)
    }

    /// What a layer's line is given by what lies around it.
    fn given(&mut self, i: usize) -> Result<Given, EvaluateError> {
        let plan = self.plan;
        self.given_to(i, plan.layers[i].line.fields())
    }

    /// What the finishes of some layers read in some channels: what lies around them, and their patterns as far as they are worth keeping. The layers below have an empty entry each.
    fn finishes(&mut self, channels: &[&Channel], of: Range<usize>) -> Result<Vec<LineFields<'a>>, EvaluateError> {
        let (plan, context) = (self.plan, self.context);
        let mut out = vec![];
        for (i, layer) in plan.layers[..of.end].iter().enumerate() {
            let counts = layer.counts && of.contains(&i);
            let laid = layer.finish.iter().flatten();
            let wanted = laid.filter(|l| counts && channels.iter().any(|c| c.kind == l.channel.kind));
            let fields: Vec<&Field> = wanted.flat_map(|l| l.fields()).collect();
            let given = self.given_to(i, fields.iter().flat_map(|f| f.all()).collect())?;
            out.push(hold(&fields, &layer.name, context, &given, &mut self.computed)?);
        }
        Ok(out)
    }

    fn given_to(&mut self, i: usize, fields: Vec<&Field>) -> Result<Given, EvaluateError> {
        let n = self.context.surface.atlas.len();
        let mut given = Given::new();
        for field in fields {
            match field {
                Field::Layer(j, hash) => {
                    let mask = self.of(*j)?;
                    given.insert(hash.clone(), mask.unwrap_or_else(|| Arc::new(vec![1.0; n])));
                }
                Field::Below(channel, value, settings, hash) => {
                    let key = self.context.key("below", hash);
                    let plane = match self.context.cache.get(&key) {
                        Some(plane) => plane,
                        None => self.context.cache.put(key, self.below(i, channel, *value, settings)?),
                    };
                    given.insert(hash.clone(), plane);
                }
                _ => {}
            }
        }
        Ok(given)
    }

    fn below(
        &mut self,
        i: usize,
        channel: &'static Channel,
        value: fn(&Resolved, &[f32]) -> f32,
        settings: &Resolved,
    ) -> Result<Plane, EvaluateError> {
        let components = coat::lay(self, &[channel], i)?.swap_remove(0);
        let (n, count) = (self.context.surface.atlas.len(), channel.bare.len());
        let at = |t: usize| {
            let all: [f32; 3] = std::array::from_fn(|c| if c < count { components[c * n + t] } else { 0.0 });
            value(settings, &all[..count])
        };
        self.computed.push(format!("what lies below {}", self.plan.layers[i].name));
        Ok((0..n).into_par_iter().with_min_len(4096).map(at).collect())
    }
}

/// The layers whose masks are to be looked at beside what is shown.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum MasksOf<'a> {
    /// None but those that are shown.
    Shown,
    /// One layer by its id, hidden though it may be. One that isn't there needs nothing.
    Layer(&'a str),
    /// All, the hidden ones too.
    All,
}

/// The measurements that a document's channels need on a piece, each once: of what is shown, and of what that reads.
pub fn needs(document: &Document, piece: &Piece) -> Vec<MeasurementKey> {
    let plan = Plan::new(document, piece);
    each_once(plan.needs(plan.counting(), true))
}

/// The same, and the occlusion that goes into the packed map whether or not a mask asks for it.
pub fn needs_with_occlusion(document: &Document, piece: &Piece) -> Vec<MeasurementKey> {
    needs_to_look_at(document, piece, MasksOf::Shown)
}

/// The same, and after that what some masks read that may be hidden.
pub fn needs_to_look_at(document: &Document, piece: &Piece, masks: MasksOf) -> Vec<MeasurementKey> {
    let plan = Plan::new(document, piece);
    let mut out = each_once(plan.needs(plan.counting(), true));
    let packed = crate::bake::reading::find("occlusion").and_then(|r| r.key(piece, &|kind| document.reading(kind)));
    out.extend(packed.filter(|k| !out.contains(k)));
    let looked_at = match masks {
        MasksOf::Shown => vec![],
        MasksOf::Layer(id) => plan.find(id).into_iter().collect(),
        MasksOf::All => (0..plan.layers.len()).collect(),
    };
    let read = each_once(plan.needs(looked_at, false));
    out.extend(read.into_iter().filter(|k| !out.contains(k)).collect::<Vec<_>>());
    out
}

/// Measurements each once, in the order of their kinds.
fn each_once(keys: Vec<&MeasurementKey>) -> Vec<MeasurementKey> {
    let mut out: Vec<MeasurementKey> = vec![];
    for key in keys {
        if !out.contains(key) {
            out.push(key.clone());
        }
    }
    out.sort_by(|a, b| a.kind.cmp(b.kind));
    out
}

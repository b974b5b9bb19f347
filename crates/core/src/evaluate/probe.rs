//! The probe: what every layer and step did at one texel, from the bare piece up. The numbers are the evaluator's own.

use std::sync::Arc;

use serde::Serialize;
use ts_rs::TS;

use super::steps::{Gathered, run};
use super::{Cache, Context, EvaluateError, Masks, coat};
use crate::document::Document;
use crate::finish::channel::Channel;
use crate::raster::Plane;
use crate::raster::srgb::encode_u8;

/// What was found at a texel.
#[derive(Debug, Clone, PartialEq, Serialize, TS)]
pub struct Probe {
    /// Where it lies on the piece, in mm.
    pub place: [f32; 3],
    /// Name of the part.
    pub part: String,
    /// Number of the shell.
    pub shell: u32,
    /// The channels of the bare piece.
    pub bare: Vec<ProbedValue>,
    /// The layers from the bottom up; what holds others stands before them.
    pub layers: Vec<ProbedLayer>,
}

/// A layer at a texel.
#[derive(Debug, Clone, PartialEq, Serialize, TS)]
pub struct ProbedLayer {
    /// Id; layers inside a use are `use/inner`.
    pub layer: String,
    /// Its name.
    pub name: String,
    /// Whether it, and all that hold it, are shown.
    pub shown: bool,
    /// How many layers hold it.
    pub depth: usize,
    /// Its mask there.
    pub mask: f32,
    /// Mask × opacity, its own and of all that hold it.
    pub weight: f32,
    /// What of that the coats above leave to be seen; 0 for what only holds others.
    pub visible: f32,
    /// The mask after each step that has an effect.
    pub steps: Vec<ProbedStep>,
    /// The channels that it lays down or changes, as they stand after it.
    pub after: Vec<ProbedValue>,
}

/// The mask after a step, at a texel.
#[derive(Debug, Clone, PartialEq, Serialize, TS)]
pub struct ProbedStep {
    /// Its id.
    pub step: String,
    /// What it is.
    pub label: String,
    /// The mask after it.
    pub mask: f32,
}

/// A channel at a texel.
#[derive(Debug, Clone, PartialEq, Serialize, TS)]
pub struct ProbedValue {
    /// Key of the channel.
    pub channel: &'static str,
    /// What the artist reads.
    pub label: &'static str,
    /// Unit of the number.
    pub unit: &'static str,
    /// One number, or a linear colour.
    pub value: Vec<f32>,
    /// The colour as `#rrggbb`, if it is one.
    pub color: Option<String>,
}

fn valued(channel: &Channel, value: &[f32]) -> ProbedValue {
    let hex = |v: &[f32]| v.iter().map(|c| format!("{:02x}", encode_u8(*c))).collect::<String>();
    ProbedValue {
        channel: channel.kind,
        label: channel.label,
        unit: channel.value().unit,
        value: value.to_vec(),
        color: (value.len() == 3).then(|| format!("#{}", hex(value))),
    }
}

/// Looks into the piece at a covered texel.
///
/// # Errors
/// As [`super::evaluate`].
pub fn probe(document: &Document, texel: u32, context: &Context) -> Result<Probe, EvaluateError> {
    let (atlas, piece) = (&context.surface.atlas, &context.surface.piece);
    let (plan, at) = (context.plan(document), texel as usize);
    let (subset, count) = (context.surface.subset(&[texel]), plan.layers.len());
    let mut masks = Masks::new(&plan, context, 0..count, true)?;
    let mut steps = vec![];
    for (i, layer) in plan.layers.iter().enumerate() {
        let given = masks.given(i)?;
        let gathered = Gathered { context, texels: &[texel], given: &given };
        steps.push(run(&layer.line, &layer.name, &gathered, &subset)?);
        masks.of(i)?;
    }
    let here = |mask: &Option<Option<Arc<Plane>>>| mask.as_ref()?.as_ref().map(|plane| Arc::new(vec![plane[at]]));
    let done: Vec<Option<Arc<Plane>>> = masks.done.iter().map(here).collect();
    // The same layers on the one texel alone, with the masks that were found.
    let measured = context.measured.map(|whole| whole.chunks_exact(atlas.len()).map(|plane| plane[at]).collect());
    let none = Cache::new(0);
    let alone = Context { surface: &subset, measured: &measured, cache: &none, ..*context };
    let mut one = Masks::new(&plan, &alone, [], false)?;
    one.done = done.iter().cloned().map(Some).collect();
    let channels: Vec<&'static Channel> = plan.channels().into_iter().map(|c| c.0).collect();
    let bare = channels.iter().map(|c| valued(c, c.bare)).collect();
    let (mut layers, mut seen) = (vec![], 1.0f32);
    for (i, layer) in plan.layers.iter().enumerate() {
        let mut weight = [0.0f32];
        coat::weight(&plan, &done, i, 0, &mut weight);
        let laid: Vec<&'static Channel> = layer.finish.iter().flatten().map(|l| l.channel).collect();
        let after = if layer.counts { coat::lay(&mut one, &laid, i + 1)? } else { vec![] };
        let named = |(id, mask): &(String, Plane)| {
            let label = layer.labels.iter().find(|(step, _)| step == id).map_or("", |l| l.1);
            ProbedStep { step: id.clone(), label: label.into(), mask: mask[0] }
        };
        layers.push(ProbedLayer {
            layer: layer.id.clone(),
            name: layer.name.clone(),
            shown: layer.counts,
            depth: plan.chain(i).count() - 1,
            mask: done[i].as_ref().map_or(1.0, |m| m[0]),
            weight: if layer.counts { weight[0] } else { 0.0 },
            visible: 0.0,
            steps: steps[i].iter().map(named).collect(),
            after: laid.iter().zip(&after).map(|(c, value)| valued(c, value)).collect(),
        });
    }
    for (probed, layer) in layers.iter_mut().zip(&plan.layers).rev().filter(|(_, l)| l.counts && l.finish.is_some()) {
        probed.visible = probed.weight * seen;
        seen *= if layer.hides { 1.0 - probed.weight } else { 1.0 };
    }
    let part = &piece.parts[usize::from(atlas.part[at])].name;
    let shell = piece.shell_of[atlas.triangle[at] as usize];
    Ok(Probe { place: [atlas.px[at], atlas.py[at], atlas.pz[at]], part: part.clone(), shell, bare, layers })
}

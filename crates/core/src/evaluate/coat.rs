//! Laying the coats over one another, channel by channel, in batches.

use std::collections::BTreeMap;
use std::sync::Arc;

use rayon::prelude::*;

use super::laid::{Laid, Scratch};
use super::{EvaluateError, LAYING, Masks, Plan};
use crate::finish::channel::Channel;
use crate::mask::field::BATCH;
use crate::raster::Plane;
use crate::task::Cancelled;

type Planes = [Option<Arc<Plane>>];
type Channels = (BTreeMap<&'static str, Arc<Plane>>, BTreeMap<&'static str, String>);

/// Fills `weight` with mask × opacity of a layer and of all that hold it, for the covered texels from `start` on.
pub(super) fn weight(plan: &Plan, masks: &Planes, layer: usize, start: usize, weight: &mut [f32]) {
    let opacity: f32 = plan.chain(layer).map(|i| plan.layers[i].opacity).product();
    weight.fill(opacity);
    for i in plan.chain(layer) {
        if let Some(mask) = &masks[i] {
            for (w, m) in weight.iter_mut().zip(&mask[start..]) {
                *w *= m;
            }
        }
    }
}

/// What the weight of a layer depends on.
pub(super) fn weight_hash(plan: &Plan, layer: usize, h: &mut blake3::Hasher) {
    for i in plan.chain(layer) {
        let l = &plan.layers[i];
        h.update(l.line.hash.as_bytes()).update(&l.opacity.to_bits().to_le_bytes());
    }
    h.update(b"|");
}

/// All channels that the piece has; those whose inputs are unchanged come from the cache, the others are computed together.
pub(super) fn channels(masks: &mut Masks) -> Result<Channels, EvaluateError> {
    let (plan, context) = (masks.plan, masks.context);
    let present = plan.channels();
    let keys: BTreeMap<&'static str, String> = present
        .iter()
        .map(|(c, _)| (c.kind, context.key(c.kind, channel_hash(plan, c, plan.layers.len()).to_hex().as_str())))
        .collect();
    let mut found: BTreeMap<&'static str, Arc<Plane>> =
        keys.iter().filter_map(|(kind, key)| Some((*kind, context.cache.get(key)?))).collect();
    let todo: Vec<&'static Channel> = present.iter().map(|p| p.0).filter(|c| !found.contains_key(c.kind)).collect();
    for (channel, plane) in todo.iter().zip(lay(masks, &todo, plan.layers.len())?) {
        masks.computed.push(format!("channel {}", channel.kind));
        found.insert(channel.kind, context.cache.put(keys[channel.kind].clone(), plane));
    }
    Ok((found, keys))
}

/// The first `upto` layers that lay a channel down.
fn coats<'a>(plan: &'a Plan, kind: &'static str, upto: usize) -> impl Iterator<Item = (usize, &'a Laid)> {
    plan.layers[..upto].iter().enumerate().filter(|(_, l)| l.counts).filter_map(move |(i, l)| {
        let laid = l.finish.as_ref()?.iter().find(|laid| laid.channel.kind == kind)?;
        Some((i, laid))
    })
}

/// What a channel depends on, up to a layer.
pub(super) fn channel_hash(plan: &Plan, channel: &Channel, upto: usize) -> blake3::Hash {
    let mut h = blake3::Hasher::new();
    for (i, laid) in coats(plan, channel.kind, upto) {
        h.update(laid.hash.as_bytes());
        weight_hash(plan, i, &mut h);
    }
    h.finalize()
}

/// Lays some channels down, up to a layer, component after component: the masks of the layers that count have been made.
pub(super) fn lay(masks: &mut Masks, todo: &[&'static Channel], upto: usize) -> Result<Vec<Plane>, EvaluateError> {
    if todo.is_empty() {
        return Ok(vec![]);
    }
    let (plan, context) = (masks.plan, masks.context);
    (context.progress)(LAYING, 0.0);
    let fields = masks.finishes(todo, upto)?;
    let made: Vec<Option<Arc<Plane>>> = masks.done.iter().map(|m| m.clone().flatten()).collect();
    let n = context.surface.atlas.len();
    let mut planes: Vec<Plane> = todo.iter().map(|c| vec![0.0; n * c.bare.len()]).collect();
    // Turned around: per batch, the slices of all components of all channels.
    let mut batches: Vec<Vec<&mut [f32]>> = (0..n.div_ceil(BATCH)).map(|_| vec![]).collect();
    for plane in &mut planes {
        for component in plane.chunks_mut(n) {
            component.chunks_mut(BATCH).enumerate().for_each(|(b, slice)| batches[b].push(slice));
        }
    }
    let per_layer = by_layer(plan, todo, upto);
    batches.par_iter_mut().enumerate().try_for_each(|(b, slices)| {
        context.cancel.check()?;
        let mut at = 0;
        for c in todo {
            for bare in c.bare {
                slices[at].fill(*bare);
                at += 1;
            }
        }
        let mut w = [0.0f32; BATCH];
        let w = &mut w[..slices[0].len()];
        let mut scratch = Scratch::new();
        for (layer, laid) in per_layer.iter().enumerate().filter(|(_, laid)| !laid.is_empty()) {
            weight(plan, &made, layer, b * BATCH, w);
            for (first, laid) in laid {
                let below = &mut slices[*first..*first + laid.channel.bare.len()];
                laid.lay(context.surface, &fields[layer], b * BATCH, w, &mut scratch, below);
            }
        }
        Ok::<_, Cancelled>(())
    })?;
    Ok(planes)
}

/// Per layer, what it lays down of some channels: first component's place, and what.
fn by_layer<'a>(plan: &'a Plan, todo: &[&'static Channel], upto: usize) -> Vec<Vec<(usize, &'a Laid)>> {
    let mut out: Vec<Vec<_>> = plan.layers.iter().map(|_| vec![]).collect();
    let mut first = 0;
    for channel in todo {
        for (i, laid) in coats(plan, channel.kind, upto) {
            out[i].push((first, laid));
        }
        first += channel.bare.len();
    }
    out
}

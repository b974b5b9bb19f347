//! Laying the coats over one another, channel by channel, in batches.

use std::collections::BTreeMap;
use std::ops::Range;
use std::sync::Arc;

use rayon::prelude::*;

use super::laid::{Laid, Scratch};
use super::{Context, EvaluateError, LAYING, Masks, Plan};
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
    let key = |c: &Channel| state_key(context, c, channel_hash(plan, c, plan.layers.len()));
    let keys: BTreeMap<&'static str, String> = present.iter().map(|(c, _)| (c.kind, key(c))).collect();
    let mut found: BTreeMap<&'static str, Arc<Plane>> =
        keys.iter().filter_map(|(kind, key)| Some((*kind, context.cache.get(key)?))).collect();
    let todo: Vec<&'static Channel> = present.iter().map(|p| p.0).filter(|c| !found.contains_key(c.kind)).collect();
    for (channel, plane) in todo.iter().zip(lay(masks, &todo, plan.layers.len())?) {
        masks.computed.push(format!("channel {}", channel.kind));
        found.insert(channel.kind, context.cache.put(keys[channel.kind].clone(), plane));
    }
    Ok((found, keys))
}

/// Some layers that lay a channel down.
fn coats<'a>(plan: &'a Plan, kind: &'static str, layers: Range<usize>) -> impl Iterator<Item = (usize, &'a Laid)> {
    let first = layers.start;
    plan.layers[layers].iter().enumerate().filter(|(_, l)| l.counts).filter_map(move |(i, l)| {
        let laid = l.finish.as_ref()?.iter().find(|laid| laid.channel.kind == kind)?;
        Some((first + i, laid))
    })
}

/// What a channel depends on, up to a layer.
pub(super) fn channel_hash(plan: &Plan, channel: &Channel, upto: usize) -> blake3::Hash {
    below_each(plan, channel, upto)[upto]
}

/// What a channel depends on below each layer, and last above all of `upto`: `upto` + 1 hashes.
fn below_each(plan: &Plan, channel: &Channel, upto: usize) -> Vec<blake3::Hash> {
    let mut h = blake3::Hasher::new();
    let mut out = vec![h.finalize(); upto + 1];
    for (i, laid) in coats(plan, channel.kind, 0..upto) {
        h.update(laid.hash.as_bytes());
        weight_hash(plan, i, &mut h);
        out[i + 1..].fill(h.finalize());
    }
    out
}

/// What a channel is kept by, wherever among the layers it stands: what is finished in one document may lie below a coat of the next.
fn state_key(context: &Context, channel: &Channel, hash: blake3::Hash) -> String {
    context.key(channel.kind, hash.to_hex().as_str())
}

/// Lays some channels down, up to a layer, component after component.
///
/// A change costs what lies at and above it: laying begins at the highest layer below which all of them are in the cache, and the state below the lowest layer that differs from
/// what was laid the last time is kept there, for that layer is likely to be changed again.
pub(super) fn lay(masks: &mut Masks, todo: &[&'static Channel], upto: usize) -> Result<Vec<Plane>, EvaluateError> {
    if todo.is_empty() {
        return Ok(vec![]);
    }
    let (plan, context) = (masks.plan, masks.context);
    (context.progress)(LAYING, 0.0);
    let n = context.surface.atlas.len();
    let components: usize = todo.iter().map(|c| c.bare.len()).sum();
    if !context.cache.keeps_fields(n * components) {
        return lay_over(masks, todo, vec![None; todo.len()], 0..upto);
    }
    let hashes: Vec<Vec<blake3::Hash>> = todo.iter().map(|c| below_each(plan, c, upto)).collect();
    let keys = |at: usize| todo.iter().zip(&hashes).map(move |(c, h)| state_key(context, c, h[at]));
    // Nothing lies below the first of them: every channel is bare there.
    let held = |at: usize| -> Option<Vec<Option<Arc<Plane>>>> {
        let bare = |i: usize| hashes[i][at] == hashes[i][0];
        keys(at)
            .enumerate()
            .map(|(i, key)| if bare(i) { Some(None) } else { context.cache.get(&key).map(Some) })
            .collect()
    };
    let (mut first, mut below) =
        (0..=upto).rev().find_map(|at| Some((at, held(at)?))).unwrap_or_else(|| (0, vec![None; todo.len()]));
    let alike = todo
        .iter()
        .zip(&hashes)
        .map(|(c, h)| context.cache.alike(&context.key(c.kind, &format!("laid/{upto}")), h))
        .min();
    let changed = alike.unwrap_or(0).saturating_sub(1);
    if changed > first && changed < upto {
        let planes = lay_over(masks, todo, below, first..changed)?;
        below = keys(changed).zip(planes).map(|(key, plane)| Some(context.cache.put(key, plane))).collect();
        first = changed;
        masks.computed.push(format!("state below {}", plan.layers[changed].name));
    }
    lay_over(masks, todo, below, first..upto)
}

/// Lays some layers over what lies below them, which is none where the channel is bare.
fn lay_over(
    masks: &mut Masks,
    todo: &[&'static Channel],
    below: Vec<Option<Arc<Plane>>>,
    layers: Range<usize>,
) -> Result<Vec<Plane>, EvaluateError> {
    let (plan, context) = (masks.plan, masks.context);
    let per_layer = by_layer(plan, todo, layers.clone());
    for (i, _) in per_layer.iter().enumerate().filter(|(_, laid)| !laid.is_empty()) {
        for holder in plan.chain(i) {
            masks.of(holder)?;
        }
    }
    let fields = masks.finishes(todo, layers)?;
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
    batches.par_iter_mut().enumerate().try_for_each(|(b, slices)| {
        context.cancel.check()?;
        let mut of = slices.iter_mut();
        for (c, below) in todo.iter().zip(&below) {
            for (k, (bare, slice)) in c.bare.iter().zip(&mut of).enumerate() {
                match below {
                    Some(plane) => slice.copy_from_slice(&plane[k * n + b * BATCH..][..slice.len()]),
                    None => slice.fill(*bare),
                }
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
fn by_layer<'a>(plan: &'a Plan, todo: &[&'static Channel], layers: Range<usize>) -> Vec<Vec<(usize, &'a Laid)>> {
    let mut out: Vec<Vec<_>> = plan.layers.iter().map(|_| vec![]).collect();
    let mut first = 0;
    for channel in todo {
        for (i, laid) in coats(plan, channel.kind, layers.clone()) {
            out[i].push((first, laid));
        }
        first += channel.bare.len();
    }
    out
}

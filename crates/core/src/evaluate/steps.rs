//! The mask as it stands after each step, on a handful of texels: for the tiles of a mask line.

use std::ops::Range;
use std::sync::Arc;

use super::{Context, EvaluateError, Given, Masks, field_plane, held_fields, mask_after};
use crate::bake::Surface;
use crate::document::{Document, find_layer, find_layer_mut};
use crate::mask::field::{BATCH, Fields};
use crate::mask::line::{Line, Op};
use crate::mask::{Join, Step, StepKind};
use crate::raster::Plane;

/// A step's id and the mask after it, one value per texel asked for.
pub type AfterStep = (String, Plane);

/// A handful of texels, and what lines are given there.
pub(super) struct Gathered<'a> {
    pub context: &'a Context<'a>,
    pub texels: &'a [u32],
    pub given: &'a Given,
}

impl Fields for Gathered<'_> {
    fn plane(&self, hash: &str) -> Option<Arc<Plane>> {
        let whole = self.context.measured.get(hash)?;
        // Measurements may hold several planes, one after the other.
        let planes = whole.chunks_exact(self.context.surface.atlas.len());
        Some(Arc::new(planes.flat_map(|p| self.texels.iter().map(|i| p[*i as usize])).collect()))
    }
}

/// Runs a layer's line over `texels` alone (indices of covered texels; `subset` is the surface cut down to them). Steps that are off
/// or without effect have no entry.
///
/// # Errors
/// As [`super::evaluate`], and [`EvaluateError::NoLayer`].
pub fn after_each(
    document: &Document,
    layer: &str,
    context: &Context,
    texels: &[u32],
    subset: &Surface,
) -> Result<Vec<AfterStep>, EvaluateError> {
    let plan = context.plan(document);
    let i = plan.find(layer)?;
    let given = Masks::new(&plan, context, [i], false)?.given(i)?;
    let layer = &plan.layers[i];
    run(&layer.line, &layer.name, &Gathered { context, texels, given: &given }, subset)
}

/// What some steps of a layer's line make by themselves, as if they were all of it: one value per texel of `texels`. None when they only change what is there, or
/// do nothing.
///
/// # Errors
/// As [`super::evaluate`], and [`EvaluateError::NoLayer`].
pub fn by_themselves(
    document: &Document,
    layer: &str,
    steps: Range<usize>,
    context: &Context,
    texels: &[u32],
    subset: &Surface,
) -> Result<Option<Vec<f32>>, EvaluateError> {
    let mut alone = document.clone();
    let Some(found) = find_layer_mut(&mut alone.layers, layer) else {
        return Err(EvaluateError::NoLayer(layer.into()));
    };
    let mut some: Vec<Step> = found.mask.steps.drain(..).take(steps.end).skip(steps.start).collect();
    if some.iter().all(|s| matches!(StepKind::find(&s.kind), Some(StepKind::Shaper(_)) | None)) {
        return Ok(None);
    }
    if let Some(first) = some.first_mut() {
        first.join = Join::Replace;
    }
    found.mask.steps = some;
    Ok(after_each(&alone, layer, context, texels, subset)?.pop().map(|(_, mask)| mask))
}

/// The mask after each step that has an effect.
pub(super) fn run(
    line: &Line,
    name: &str,
    gathered: &Gathered,
    subset: &Surface,
) -> Result<Vec<AfterStep>, EvaluateError> {
    // Gathering happens once per reading, not once per batch.
    let keys = line.needs().map(|k| k.hash(&subset.piece.hash, subset.atlas.size));
    let mut held: Given = keys.filter_map(|k| gathered.plane(&k).map(|p| (k, p))).collect();
    let pick = |whole: &Plane| Arc::new(gathered.texels.iter().map(|i| whole[*i as usize]).collect::<Plane>());
    held.extend(gathered.given.iter().map(|(hash, whole)| (hash.clone(), pick(whole))));
    let held = Held(held);
    let n = subset.atlas.len();
    let mut out: Vec<AfterStep> = line.ops.iter().map(|(id, _)| (id.clone(), vec![0.0; n])).collect();
    let mut before = vec![1.0f32; n];
    let mut first = 0;
    while first < line.ops.len() {
        if line.ops[first].1.is_whole() {
            // What asks what lies around needs the whole mask; the evaluation of the layer has left it in the cache.
            let whole = mask_after(line, first + 1, name, gathered.context, gathered.given, &mut vec![])?;
            before = gathered.texels.iter().map(|i| whole[*i as usize]).collect();
            out[first].1.copy_from_slice(&before);
            first += 1;
            continue;
        }
        let fused = line.ops[first..].iter().take_while(|(_, op)| !op.is_whole()).count();
        for (b, m) in before.chunks_mut(BATCH).enumerate() {
            let start = b * BATCH;
            line.run(first..first + fused, subset, &held, start, m, |i, m| {
                out[i].1[start..start + m.len()].copy_from_slice(m);
            });
        }
        first += fused;
    }
    Ok(out)
}

struct Held(Given);

impl Fields for Held {
    fn plane(&self, hash: &str) -> Option<Arc<Plane>> {
        self.0.get(hash).cloned()
    }
}

/// The mask of a layer as it stands before one of its steps, over the whole surface; none when no setting of the step is a value of that mask, or the step is
/// off or without effect.
///
/// # Errors
/// As [`super::evaluate`], and [`EvaluateError::NoLayer`].
pub fn before(
    document: &Document,
    layer: &str,
    step: &str,
    context: &Context,
) -> Result<Option<Arc<Plane>>, EvaluateError> {
    let plan = context.plan(document);
    let i = plan.find(layer)?;
    let found = find_layer(&document.layers, layer).and_then(|l| l.mask.steps.iter().find(|s| s.id == step));
    let kind = found.and_then(|s| StepKind::find(&s.kind));
    if !kind.is_some_and(|k| k.specs().iter().any(|s| s.marks)) {
        return Ok(None);
    }
    let line = &plan.layers[i].line;
    let Some(upto) = line.ops.iter().position(|(id, _)| id == step) else { return Ok(None) };
    let given = Masks::new(&plan, context, [i], false)?.given(i)?;
    mask_after(line, upto, &plan.layers[i].name, context, &given, &mut vec![]).map(Some)
}

/// What a step does by itself, over the whole surface, and a key of its pixels: what a source brings in, whatever it joins and how much of it is taken; the mask
/// after a shaper. None when the step is off or without effect.
///
/// # Errors
/// As [`super::evaluate`], and [`EvaluateError::NoLayer`].
pub fn alone(
    document: &Document,
    layer: &str,
    step: &str,
    context: &Context,
) -> Result<Option<(Arc<Plane>, String)>, EvaluateError> {
    let plan = context.plan(document);
    let i = plan.find(layer)?;
    let (line, name) = (&plan.layers[i].line, &plan.layers[i].name);
    let Some(at) = line.ops.iter().position(|(id, _)| id == step) else { return Ok(None) };
    let given = Masks::new(&plan, context, [i], false)?.given(i)?;
    let key = context.key("alone", line.after[at].to_hex().as_str());
    let plane = match &line.ops[at].1 {
        Op::Join(_, _, field) => {
            let fields = held_fields(line, at..at + 1, name, context, &given, &mut vec![])?;
            // By itself: what is drawn is a mask then.
            Arc::new(field_plane(field, &fields)?)
        }
        _ => mask_after(line, at + 1, name, context, &given, &mut vec![])?,
    };
    Ok(Some((plane, key)))
}

/// Area-weighted histogram of a mask in `bins` even bins from 0 to 1; the shares add up to 1.
pub fn histogram(surface: &Surface, mask: &[f32], bins: usize) -> Vec<f32> {
    let mut sums = vec![0.0f64; bins];
    for (m, a) in mask.iter().zip(&surface.atlas.area) {
        sums[((m * bins as f32) as usize).min(bins - 1)] += f64::from(*a);
    }
    let total = surface.atlas.total_area.max(1e-12);
    sums.into_iter().map(|s| (s / total) as f32).collect()
}

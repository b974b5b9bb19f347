//! Running a mask line: fused where its steps work value by value, whole where one asks what lies around.

use std::any::Any;
use std::collections::BTreeMap;
use std::ops::Range;
use std::sync::Arc;

use rayon::prelude::*;

use super::{Context, EvaluateError, Given};
use crate::mask::Join;
use crate::mask::field::{BATCH, Drawn, Field, Fields};
use crate::mask::graded::{self, Graded};
use crate::mask::line::{Line, Op};
use crate::mask::shaper::{self, BorderShape, Keeper, Reshape, distance};
use crate::raster::Plane;
use crate::stroke::{Drawing, State};
use crate::task::{Cancelled, Progress};

/// What a line reads: the fields that are held for it, and measurements.
pub(super) struct LineFields<'a> {
    context: &'a Context<'a>,
    held: BTreeMap<String, Arc<Plane>>,
}

impl Fields for LineFields<'_> {
    fn plane(&self, hash: &str) -> Option<Arc<Plane>> {
        self.held.get(hash).or_else(|| self.context.measured.get(hash)).cloned()
    }
}

/// The mask as it stands after the first `upto` steps of a line. Kept where the line ends and at every step that asks what lies around.
pub(super) fn mask_after(
    line: &Line,
    upto: usize,
    name: &str,
    context: &Context,
    given: &Given,
    computed: &mut Vec<String>,
) -> Result<Arc<Plane>, EvaluateError> {
    let surface = context.surface;
    let Some(hash) = upto.checked_sub(1).map(|i| line.after[i]) else {
        return Ok(Arc::new(vec![1.0; surface.atlas.len()]));
    };
    let key = context.key("mask", hash.to_hex().as_str());
    if let Some(plane) = context.cache.get(&key) {
        return Ok(plane);
    }
    let op = &line.ops[upto - 1].1;
    if op.is_whole() {
        let before = mask_after(line, upto - 1, name, context, given, computed)?;
        let fields = held_fields(line, upto - 1..upto, name, context, given, computed)?;
        let before_hash = upto.checked_sub(2).map_or(String::new(), |i| line.after[i].to_hex().to_string());
        let shaped = match op {
            Op::Border(_, reach, graded) => border(&before, &before_hash, (*reach, graded), &fields, computed)?,
            Op::Reshape(_, graded) => reshaped(&before, graded, context, &fields)?,
            Op::Join(..) | Op::Shape(..) => unreachable!("those are not whole"),
        };
        let mut out = before.to_vec();
        out.par_chunks_mut(BATCH).zip(shaped.par_chunks(BATCH)).enumerate().for_each(|(b, (m, g))| {
            op.amount().join(Join::Replace, surface, &fields, b * BATCH, m, g);
        });
        computed.push(format!("a step of {name}"));
        return Ok(context.cache.put(key, out));
    }
    let from = line.whole_before(upto);
    let fields = held_fields(line, from..upto, name, context, given, computed)?;
    let before = if from > 0 { Some(mask_after(line, from, name, context, given, computed)?) } else { None };
    let mut out = vec![1.0f32; surface.atlas.len()];
    let progress = Progress::new(format!("Mask of {name}"), out.len().div_ceil(BATCH), context.progress);
    out.par_chunks_mut(BATCH).enumerate().try_for_each(|(i, m)| {
        context.cancel.check()?;
        if let Some(before) = &before {
            m.copy_from_slice(&before[i * BATCH..i * BATCH + m.len()]);
        }
        line.run(from..upto, surface, &fields, i * BATCH, m, |_, _| {});
        progress.advance();
        Ok::<_, Cancelled>(())
    })?;
    computed.push(format!("mask of {name}"));
    Ok(context.cache.put(key, out))
}

/// What a step makes of the distances from the mask's border. They are kept, so that turning the step's other numbers doesn't find them again.
fn border(
    before: &[f32],
    before_hash: &str,
    (reach, graded): (f32, &Graded<BorderShape>),
    fields: &LineFields,
    computed: &mut Vec<String>,
) -> Result<Plane, EvaluateError> {
    let context = fields.context;
    let surface = context.surface;
    let texel = surface.atlas.texel_length;
    // Found a little further than is asked for, in steps of a half: a number that is turned asks for another reach with every move.
    let reach = {
        let (wanted, mut step) = (reach + texel, texel);
        while step < wanted {
            step *= 1.5;
        }
        step
    };
    let key = context.key("border", &format!("{reach}/{before_hash}"));
    let distances = match context.cache.get(&key) {
        Some(distances) => distances,
        None => {
            computed.push("distances".into());
            context.cache.put(key, distance::signed(surface, before, reach, context.cancel)?)
        }
    };
    let mut out = distances.to_vec();
    out.par_chunks_mut(BATCH).enumerate().for_each(|(b, out)| {
        graded.run(surface, fields, b * BATCH, out, &mut |shape, d| shape(d, texel));
    });
    Ok(out)
}

impl Keeper for Context<'_> {
    fn kept(&self, name: &str) -> Option<Arc<dyn Any + Send + Sync>> {
        self.cache.kept(&self.key("kept", name))
    }

    fn keep(&self, name: String, what: Arc<dyn Any + Send + Sync>, bytes: u64) {
        self.cache.keep(self.key("kept", &name), what, bytes);
    }

    fn room(&self) -> u64 {
        self.cache.budget()
    }
}

/// What a step makes of the whole mask; along a mask that drives it, once for every rung that any texel asks for.
fn reshaped(
    before: &[f32],
    graded: &Graded<Reshape>,
    context: &Context,
    fields: &dyn Fields,
) -> Result<Plane, EvaluateError> {
    let (by, rungs) = match graded {
        Graded::Even(reshape) => {
            return Ok(reshape(context.surface, before, &shaper::Given { cancel: context.cancel, keeper: context })?);
        }
        Graded::Along(by, rungs) => (by, rungs),
    };
    let mut t = vec![0.0f32; before.len()];
    t.par_chunks_mut(BATCH).enumerate().for_each(|(b, t)| by.fill(context.surface, fields, b * BATCH, t));
    let mut out = vec![0.0f32; before.len()];
    for (k, rung) in rungs.iter().enumerate() {
        if !t.par_iter().any(|t| graded::share(*t, k, rungs.len()) > 0.0) {
            continue;
        }
        let shaped = reshaped(before, rung, context, fields)?;
        let all = out.par_iter_mut().zip(&shaped).zip(&t).with_min_len(BATCH);
        all.for_each(|((out, v), t)| *out += graded::share(*t, k, rungs.len()) * v);
    }
    Ok(out)
}

/// The fields of some steps of a line, as far as they are worth keeping: kept by their own hashes, so that turning a later step doesn't sample them again.
pub(super) fn held_fields<'a>(
    line: &Line,
    steps: Range<usize>,
    name: &str,
    context: &'a Context<'a>,
    given: &Given,
    computed: &mut Vec<String>,
) -> Result<LineFields<'a>, EvaluateError> {
    let fields: Vec<&Field> = line.ops[steps].iter().flat_map(|(_, op)| op.fields()).collect();
    hold(&fields, name, context, given, computed)
}

pub(super) fn hold<'a>(
    wanted: &[&Field],
    name: &str,
    context: &'a Context<'a>,
    given: &Given,
    computed: &mut Vec<String>,
) -> Result<LineFields<'a>, EvaluateError> {
    let mut fields = LineFields { context, held: given.clone() };
    if context.cache.keeps_fields(context.surface.atlas.len()) {
        for field in wanted {
            let Some(hash) = field.kept() else { continue };
            let key = context.key("field", hash);
            let plane = match context.cache.get(&key) {
                Some(plane) => plane,
                None => {
                    computed.push(format!("pattern of {name}"));
                    let plane = match field {
                        Field::Drawn(drawn) => drawn_planes(drawn, context)?,
                        _ => field_plane(field, &fields)?,
                    };
                    context.cache.put(key, plane)
                }
            };
            fields.held.insert(hash.to_owned(), plane);
        }
    }
    Ok(fields)
}

/// What strokes lay down and what they leave of the mask before, one plane after the other: from where as many of them as can be were drawn already, so that one more costs itself alone.
fn drawn_planes(drawn: &Drawn, context: &Context) -> Result<Plane, Cancelled> {
    let known = |after: &String| context.cache.get(&context.key("field", after));
    let all = drawn.shown().count();
    // The last one is the whole.
    let before = drawn.after.iter().rev().enumerate().skip(1).find_map(|(new, after)| Some((all - new, known(after)?)));
    let surface = context.surface;
    let state = match before {
        None => return Ok(drawn.drawing.over(surface, State::untouched(surface.atlas.len()), context.cancel)?.planes),
        Some((drawn_before, plane)) => {
            let new = drawn.shown().skip(drawn_before).cloned().collect();
            Drawing::new(Arc::new(new)).over(surface, State { planes: plane.to_vec() }, context.cancel)?
        }
    };
    Ok(state.planes)
}

pub(super) fn field_plane(field: &Field, fields: &LineFields) -> Result<Plane, Cancelled> {
    let context = fields.context;
    let mut out = vec![0.0f32; context.surface.atlas.len()];
    out.par_chunks_mut(BATCH).enumerate().try_for_each(|(i, f)| {
        context.cancel.check()?;
        field.fill(context.surface, fields, i * BATCH, f);
        Ok::<_, Cancelled>(())
    })?;
    Ok(out)
}

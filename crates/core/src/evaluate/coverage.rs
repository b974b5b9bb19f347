//! Coverage: the share of the piece's surface area that a layer's mask covers, and the share where it stays visible.

use std::ops::Range;
use std::sync::Arc;

use rayon::prelude::*;
use serde::Serialize;
use ts_rs::TS;

use super::coat::{weight, weight_hash};
use super::{COVERING, Context, EvaluateError, Plan};
use crate::bake::Surface;
use crate::mask::field::BATCH;
use crate::raster::Plane;
use crate::task::{Cancel, Cancelled};

/// Shares of the surface area, 0…1.
#[derive(Debug, Clone, PartialEq, Serialize, TS)]
pub struct LayerCoverage {
    /// Id of the layer; layers inside a use are `use/inner`.
    pub layer: String,
    /// Its name.
    pub name: String,
    /// Mean of its mask, without opacity.
    pub mask: f64,
    /// What of it is not hidden by the coats above; what holds others has the sum of the coats in it.
    pub visible: f64,
}

/// Coverage of all layers. Sums run over fixed blocks in a fixed order, so they don't depend on the thread count.
pub(super) fn coverage(
    plan: &Plan,
    masks: &[Option<Arc<Plane>>],
    context: &Context,
    computed: &mut Vec<String>,
) -> Result<Vec<LayerCoverage>, EvaluateError> {
    let mut h = blake3::Hasher::new();
    for (i, l) in plan.layers.iter().enumerate() {
        h.update(&[u8::from(l.counts), u8::from(l.finish.is_some()), u8::from(l.hides)]);
        weight_hash(plan, i, &mut h);
    }
    let key = context.key("coverage", h.finalize().to_hex().as_str());
    let sums = match context.cache.get(&key) {
        Some(sums) => sums,
        None => {
            computed.push("coverage".into());
            (context.progress)(COVERING, 0.0);
            let sums = sums(plan, masks, context.surface, context.cancel, 0..context.surface.atlas.len())?;
            let total = context.surface.atlas.total_area.max(1e-12);
            context.cache.put(key, sums.iter().map(|s| (s / total) as f32).collect())
        }
    };
    Ok(shares(plan, &sums))
}

/// The layers' coverage from the shares of each: of its mask, and visible.
pub(super) fn shares(plan: &Plan, sums: &[f32]) -> Vec<LayerCoverage> {
    let mut out: Vec<LayerCoverage> = plan
        .layers
        .iter()
        .enumerate()
        .map(|(i, l)| LayerCoverage {
            layer: l.id.clone(),
            name: l.name.clone(),
            mask: f64::from(sums[2 * i]),
            visible: f64::from(sums[2 * i + 1]),
        })
        .collect();
    // What is visible is shared out among the coats, so holders have the sum of theirs; children stand after their holder.
    for i in (0..out.len()).rev() {
        if let Some(p) = plan.layers[i].parent
            && (plan.layers[i].hides || plan.layers[i].finish.is_none())
        {
            out[p].visible += out[i].visible;
        }
    }
    out
}

/// Area in mm² that each layer's mask covers, and that stays visible, over some covered texels.
pub(super) fn sums(
    plan: &Plan,
    masks: &[Option<Arc<Plane>>],
    surface: &Surface,
    cancel: &Cancel,
    of: Range<usize>,
) -> Result<Vec<f64>, EvaluateError> {
    let layers = plan.layers.len();
    let blocks: Vec<Vec<f64>> = surface.atlas.area[of.clone()]
        .par_chunks(BATCH)
        .enumerate()
        .map(|(b, area)| {
            cancel.check()?;
            let start = of.start + b * BATCH;
            let mut sums = vec![0.0f64; 2 * layers];
            let (mut w, mut seen) = ([0.0f32; BATCH], [1.0f32; BATCH]);
            let (w, seen) = (&mut w[..area.len()], &mut seen[..area.len()]);
            for i in (0..layers).rev().filter(|i| plan.layers[*i].counts) {
                sums[2 * i] = match &masks[i] {
                    Some(m) => area.iter().zip(&m[start..]).map(|(a, m)| f64::from(a * m)).sum(),
                    None => area.iter().map(|a| f64::from(*a)).sum(),
                };
                if plan.layers[i].finish.is_none() {
                    continue;
                }
                weight(plan, masks, i, start, w);
                let (mut visible, hides) = (0.0f64, plan.layers[i].hides);
                for ((a, w), s) in area.iter().zip(w.iter()).zip(seen.iter_mut()) {
                    visible += f64::from(a * w * *s);
                    *s *= if hides { 1.0 - w } else { 1.0 };
                }
                sums[2 * i + 1] = visible;
            }
            Ok::<_, Cancelled>(sums)
        })
        .collect::<Result<_, _>>()?;
    Ok((0..2 * layers).map(|k| blocks.iter().map(|b| b[k]).sum()).collect())
}

//! Smooth edges: texels within which the coats vary are worked out at more places.
//!
//! A texel is one sample of lines that end in hard cuts, so that a draft and a final texture alike would be jagged, and of another look at every size. Where a texel differs from
//! one of its neighbours it is worked out at four places instead; the channel there is the mean over them, as the eye mixes them from farther away.

use std::collections::BTreeMap;
use std::sync::Arc;

use glam::Vec2;
use rayon::prelude::*;

use super::EvaluateError;
use super::anywhere::Anywhere;
use crate::bake::Surface;
use crate::bake::places::{Places, Spot};
use crate::finish::channel::Channel;
use crate::raster::Plane;

/// Places in a texel, in texels from its centre: a rotated grid.
const PLACES: [[f32; 2]; 4] = [[-0.125, -0.375], [0.375, -0.125], [0.125, 0.375], [-0.375, 0.125]];
/// How long the square that each of them stands for is, in texels.
const LENGTH: f32 = 0.5;
/// How far a texel must differ from a neighbour, as a share of what is seen of a channel, to be looked at more finely.
const DIFFERS: f32 = 0.15;
/// Texels that are worked out in one go: about 200 MB.
const CHUNK: usize = 1 << 18;

type Channels = BTreeMap<&'static str, Plane>;

/// Works planes out at places.
type At<'a> = &'a dyn Fn(&Places) -> Result<Vec<Arc<Plane>>, EvaluateError>;

/// A plane of one or three numbers a texel, components one after the other, and how they are seen.
struct Looked<'a> {
    plane: &'a Plane,
    components: usize,
    /// As it is seen: 0 and 1 are black and white.
    seen: Box<dyn Fn(f32) -> f32 + Sync + 'a>,
}

/// The channels of a surface with smooth edges, `channels` being one sample a texel. Texels of `of`, which is the whole surface or a band above it.
///
/// # Errors
/// [`EvaluateError::Cancelled`] when asked to stop.
pub(super) fn channels(
    anywhere: &Anywhere,
    of: &Surface,
    channels: &BTreeMap<&'static str, Arc<Plane>>,
) -> Result<Channels, EvaluateError> {
    let present: Vec<(&'static Channel, &Plane)> =
        anywhere.plan.channels().iter().filter_map(|(c, _)| Some((*c, &**channels.get(c.kind)?))).collect();
    let all: Vec<Looked> = present
        .iter()
        .map(|(c, plane)| Looked { plane, components: c.bare.len(), seen: Box::new(|v| seen(c, v)) })
        .collect();
    let varied = differing(of, &all);
    let at = |places: &Places| {
        let found = anywhere.at(&places.surface, &|plane| places.read(plane))?.0;
        Ok(present.iter().map(|(c, _)| found[c.kind].clone()).collect())
    };
    let planes = mean(anywhere, of, &all, &varied, &at)?;
    let mut out: Channels = present.iter().map(|(c, _)| c.kind).zip(planes).collect();
    let n = of.atlas.len();
    for (channel, _) in present.iter().filter(|(c, _)| c.is_direction()) {
        let Some(plane) = out.get_mut(channel.kind) else { continue };
        for i in varied.iter().map(|i| *i as usize) {
            let v = glam::Vec3::new(plane[i], plane[n + i], plane[2 * n + i]).normalize_or(glam::Vec3::Z);
            (plane[i], plane[n + i], plane[2 * n + i]) = (v.x, v.y, v.z);
        }
    }
    Ok(out)
}

/// The masks of some layers with smooth edges, `masks` being one sample a texel.
///
/// # Errors
/// As [`channels`].
pub(super) fn masks(
    anywhere: &Anywhere,
    of: &Surface,
    layers: &[usize],
    masks: &[Arc<Plane>],
) -> Result<Vec<Plane>, EvaluateError> {
    let all: Vec<Looked> = masks.iter().map(|plane| Looked { plane, components: 1, seen: Box::new(|v| v) }).collect();
    let varied = differing(of, &all);
    let at = |places: &Places| anywhere.masks(layers, &places.surface, &|plane| places.read(plane));
    mean(anywhere, of, &all, &varied, &at)
}

/// A value as it is seen: 0 and 1 are black and white. Light is seen about as its root.
fn seen(channel: &Channel, v: f32) -> f32 {
    if channel.bare.len() == 3 && !channel.is_direction() {
        return v.max(0.0).sqrt();
    }
    (v - channel.seen.0) / (channel.seen.1 - channel.seen.0)
}

/// The texels that differ from a neighbour of their chart in some plane.
fn differing(of: &Surface, all: &[Looked]) -> Vec<u32> {
    let (atlas, piece, n) = (&of.atlas, &of.piece, of.atlas.len());
    let chart = |i: usize| piece.chart_of[atlas.triangle[i] as usize];
    let differs = |i: usize, j: usize| {
        all.iter().any(|looked| {
            (0..looked.components).any(|c| {
                let (a, b) = (looked.plane[c * n + i], looked.plane[c * n + j]);
                a != b && ((looked.seen)(a) - (looked.seen)(b)).abs() > DIFFERS
            })
        })
    };
    let varies = |i: &u32| {
        let own = *i as usize;
        atlas.neighbours(*i).any(|j| chart(j) == chart(own) && differs(own, j))
    };
    (0..n as u32).into_par_iter().with_min_len(4096).filter(varies).collect()
}

/// The planes, with the mean over the places of some texels in these; `at` works the planes out at places.
fn mean(
    anywhere: &Anywhere,
    of: &Surface,
    all: &[Looked],
    texels: &[u32],
    at: At,
) -> Result<Vec<Plane>, EvaluateError> {
    let mut out: Vec<Plane> = all.iter().map(|looked| looked.plane.clone()).collect();
    // A band is of the same piece, and is laid out for itself each time.
    let (count, n, beside) = (PLACES.len(), of.atlas.len(), anywhere.context.surface.beside());
    for chunk in texels.chunks(CHUNK) {
        anywhere.context.cancel.check()?;
        let spot = |i: &u32, place: [f32; 2]| {
            let (atlas, size) = (&of.atlas, of.atlas.size);
            let at = atlas.texel[*i as usize];
            let centre = Vec2::new((at % size) as f32 + 0.5, (at / size % size) as f32 + 0.5);
            beside.spot(&of.piece, size, atlas.triangle[*i as usize], centre + Vec2::from(place))
        };
        let spots: Vec<Spot> =
            chunk.par_iter().flat_map_iter(|i| PLACES.into_iter().map(move |place| spot(i, place))).collect();
        let found = at(&Places::new(anywhere.context.surface, of, &spots, LENGTH))?;
        for ((looked, values), out) in all.iter().zip(&found).zip(&mut out) {
            for c in 0..looked.components {
                let values = &values[c * spots.len()..(c + 1) * spots.len()];
                for (i, some) in chunk.iter().zip(values.chunks_exact(count)) {
                    out[c * n + *i as usize] = some.iter().sum::<f32>() / count as f32;
                }
            }
        }
    }
    Ok(out)
}

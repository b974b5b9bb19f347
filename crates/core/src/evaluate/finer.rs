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
    let mut out: Channels = present.iter().map(|(c, plane)| (c.kind, (*plane).clone())).collect();
    let present: Vec<&'static Channel> = present.into_iter().map(|p| p.0).collect();
    let varied = differing(of, &present, &out);
    mean(anywhere, of, &present, &varied, &mut out)?;
    let n = of.atlas.len();
    for channel in present.iter().filter(|c| c.is_direction()) {
        let Some(plane) = out.get_mut(channel.kind) else { continue };
        for i in varied.iter().map(|i| *i as usize) {
            let v = glam::Vec3::new(plane[i], plane[n + i], plane[2 * n + i]).normalize_or(glam::Vec3::Z);
            (plane[i], plane[n + i], plane[2 * n + i]) = (v.x, v.y, v.z);
        }
    }
    Ok(out)
}

/// A value as it is seen: 0 and 1 are black and white. Light is seen about as its root.
fn seen(channel: &Channel, v: f32) -> f32 {
    if channel.bare.len() == 3 && !channel.is_direction() {
        return v.max(0.0).sqrt();
    }
    (v - channel.seen.0) / (channel.seen.1 - channel.seen.0)
}

/// The texels that differ from a neighbour of their chart in some channel.
fn differing(of: &Surface, present: &[&'static Channel], channels: &Channels) -> Vec<u32> {
    let (atlas, piece, n) = (&of.atlas, &of.piece, of.atlas.len());
    let chart = |i: usize| piece.chart_of[atlas.triangle[i] as usize];
    let differs = |i: usize, j: usize| {
        present.iter().any(|channel| {
            let plane = &channels[channel.kind];
            (0..channel.bare.len()).any(|c| {
                let (a, b) = (plane[c * n + i], plane[c * n + j]);
                a != b && (seen(channel, a) - seen(channel, b)).abs() > DIFFERS
            })
        })
    };
    let varies = |i: &u32| {
        let own = *i as usize;
        atlas.neighbours(*i).any(|j| chart(j) == chart(own) && differs(own, j))
    };
    (0..n as u32).into_par_iter().with_min_len(4096).filter(varies).collect()
}

/// Puts the mean over the places of some texels into `out`.
fn mean(
    anywhere: &Anywhere,
    of: &Surface,
    present: &[&'static Channel],
    texels: &[u32],
    out: &mut Channels,
) -> Result<(), EvaluateError> {
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
        let places = Places::new(anywhere.context.surface, of, &spots, LENGTH);
        let found = anywhere.at(&places.surface, &|plane| places.read(plane))?.0;
        for channel in present {
            let (values, out) = (&found[channel.kind], out.get_mut(channel.kind).expect("those that are present"));
            for c in 0..channel.bare.len() {
                let values = &values[c * spots.len()..(c + 1) * spots.len()];
                for (i, some) in chunk.iter().zip(values.chunks_exact(count)) {
                    out[c * n + *i as usize] = some.iter().sum::<f32>() / count as f32;
                }
            }
        }
    }
    Ok(())
}

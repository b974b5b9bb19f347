//! How far each texel lies from the mask's border, in mm along the surface: what grow, rim and lift are made of.
//!
//! The border runs where the mask is ½, found between texels by its slope. Each texel is told the nearest spot of it by its neighbours, nearest texels first, so the
//! wave goes over edges, seams and sheets but never through the piece. On a plane this is the exact Euclidean distance but for rare texels between two fronts
//! (Danielsson 1980 on the nearest-spot propagation and its error).

use glam::Vec3;
use rayon::prelude::*;

use crate::bake::Surface;
use crate::bake::links::{AROUND, place};
use crate::raster::Plane;
use crate::task::{Cancel, Cancelled};

/// Signed distance in mm, positive where the mask is ½ or more; ±`reach` from there on.
///
/// # Errors
/// [`Cancelled`] when asked to stop.
pub fn signed(surface: &Surface, mask: &[f32], reach: f32, cancel: &Cancel) -> Result<Plane, Cancelled> {
    let links = surface.links();
    let border = |i: usize| {
        let mut best: Option<(f32, Vec3)> = None;
        for (dx, dy) in &AROUND[..4] {
            let Some((j, _)) = links.next(surface, i as u32, *dx, *dy) else { continue };
            let (a, b) = (mask[i], mask[j as usize]);
            if (a >= 0.5) == (b >= 0.5) {
                continue;
            }
            let p = place(surface, i as u32);
            let spot = p.lerp(place(surface, j), ((0.5 - a) / (b - a)).clamp(0.0, 1.0));
            let d = spot.distance(p);
            if best.is_none_or(|b| d < b.0) {
                best = Some((d, spot));
            }
        }
        best
    };
    let n = surface.atlas.len();
    // What is known of a texel lies side by side: the nearest spot, and how far it is.
    let mut known: Vec<Known> = (0..n)
        .into_par_iter()
        .with_min_len(4096)
        .map(|i| border(i).map_or(Known::NOTHING, |(d, spot)| Known { spot, distance: d.min(reach) }))
        .collect();
    // Texels wait in buckets half a texel wide, by their distance; within a bucket their order makes no difference worth speaking of, but is always the same.
    let width = surface.atlas.texel_length * 0.5;
    let bucket = |d: f32| (d / width) as usize;
    let mut waiting: Vec<Vec<u32>> = vec![vec![]; bucket(reach) + 2];
    for (i, k) in known.iter().enumerate().filter(|(_, k)| k.distance < reach) {
        waiting[bucket(k.distance)].push(i as u32);
    }
    let mut passed_on = vec![f32::INFINITY; n];
    for b in 0..waiting.len() {
        cancel.check()?;
        while let Some(i) = waiting[b].pop() {
            let here = known[i as usize];
            // Told again of what it has passed on already, or moved to an earlier bucket.
            if passed_on[i as usize] == here.distance {
                continue;
            }
            passed_on[i as usize] = here.distance;
            for (dx, dy) in &AROUND[..4] {
                let Some((j, _)) = links.next(surface, i, *dx, *dy) else { continue };
                let d = place(surface, j).distance(here.spot);
                let there = &mut known[j as usize];
                if d < there.distance && d < reach {
                    *there = Known { spot: here.spot, distance: d };
                    waiting[bucket(d).max(b)].push(j);
                }
            }
        }
    }
    let sign = |k: &Known, m: &f32| if *m >= 0.5 { k.distance.min(reach) } else { -k.distance.min(reach) };
    Ok(known.par_iter().zip(mask).map(|(k, m)| sign(k, m)).collect())
}

/// The nearest spot of the border that a texel has been told of.
#[derive(Clone, Copy)]
struct Known {
    spot: Vec3,
    distance: f32,
}

impl Known {
    const NOTHING: Known = Known { spot: Vec3::ZERO, distance: f32::INFINITY };
}

/// 0 to 1 over `width` mm around 0, smooth at both ends.
pub fn edge(distance: f32, width: f32) -> f32 {
    let t = (distance / width + 0.5).clamp(0.0, 1.0);
    t * t * (3.0 - 2.0 * t)
}

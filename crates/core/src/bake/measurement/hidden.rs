//! Texels that lie within another shell: they are never seen, and whatever rays read there says nothing of what lies beside them.
//!
//! They take on what the nearest texels read that do not, so that no dark line runs where one shell leaves another.

use rayon::prelude::*;

use super::Surface;
use crate::bake::Atlas;

/// How far what is seen is carried on into what is not, as a share of the piece's diagonal: no farther than filters of textures reach, since what is hidden is no surface.
const REACH: f32 = 0.005;
/// The fewest rings.
const LEAST: f32 = 2.0;

/// Carries the values of planes on from texels that are seen to hidden ones, ring by ring; farther in they stay what they are.
pub fn carry_on(surface: &Surface, planes: &mut [f32], hidden: &[bool]) {
    let atlas: &Atlas = &surface.atlas;
    let len = atlas.len();
    let rings = (REACH * surface.piece.diagonal() / atlas.texel_length.max(1e-6)).ceil().clamp(LEAST, 256.0) as u32;
    let mut open: Vec<bool> = hidden.to_vec();
    let mut todo: Vec<u32> = (0..len as u32).filter(|i| hidden[*i as usize]).collect();
    for _ in 0..rings {
        let seen = |i: &u32| atlas.neighbours(*i).any(|j| !open[j]);
        let (ring, rest): (Vec<u32>, Vec<u32>) = todo.par_iter().partition(|i| seen(i));
        if ring.is_empty() {
            return;
        }
        for plane in planes.chunks_exact_mut(len) {
            let mean = |i: &u32| {
                let around = atlas.neighbours(*i).filter(|j| !open[*j]);
                let (sum, n) = around.fold((0.0, 0.0f32), |(sum, n), j| (sum + plane[j], n + 1.0));
                sum / n
            };
            let values: Vec<f32> = ring.par_iter().map(mean).collect();
            ring.iter().zip(values).for_each(|(i, v)| plane[*i as usize] = v);
        }
        ring.iter().for_each(|i| open[*i as usize] = false);
        todo = rest;
    }
}

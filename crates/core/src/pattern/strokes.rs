//! Strokes strewn over a plane: short, bent, tapering lines. What scratches and fibres are made of.

use multiversion::multiversion;

use super::Field;
use crate::lattice::{cell, clamp, hash, next, sin_turn, unit};
use crate::setting::Resolved;

/// How they are strewn. Lengths in mm, angles in turns.
#[derive(Debug, Clone, Copy)]
pub struct Strokes {
    /// Length of the longest.
    pub length: f32,
    /// Width of the widest.
    pub width: f32,
    /// How many there are on average where a stroke could begin: per square of half a length's side.
    pub density: f32,
    /// Direction, from x.
    pub direction: f32,
    /// How far a stroke's direction strays from it, each way.
    pub spread: f32,
    /// How far a stroke bends: sagitta as a share of its length.
    pub bend: f32,
    /// Whether it fades towards its ends.
    pub taper: bool,
    /// Chooses the arrangement.
    pub seed: u32,
}

impl Strokes {
    /// By the settings `length`, `width`, `density`, `direction`, `spread`, `seed`, and the one named for the `bend`. `salt` tells patterns of one seed apart.
    pub fn new(s: &Resolved, bend: &str, taper: bool, salt: u32) -> Self {
        Self {
            length: s.number("length").max(0.01),
            width: s.number("width"),
            density: s.number("density"),
            direction: s.number("direction") / 360.0,
            spread: s.number("spread") / 360.0,
            bend: s.number(bend),
            taper,
            seed: s.integer("seed").wrapping_mul(salt),
        }
    }
}

impl Field for Strokes {
    fn sample(&self, x: &[f32], y: &[f32], _: &[f32], out: &mut [f32]) {
        sample(self, x, y, out);
    }
}

/// The strongest stroke over each point of a plane: 1 in its middle, 0 beside it.
#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
fn sample(s: &Strokes, x: &[f32], y: &[f32], out: &mut [f32]) {
    out.fill(0.0);
    // Slices of one length need no check of bounds in the loop, and so become vectors.
    let n = out.len();
    let (x, y) = (&x[..n], &y[..n]);
    // A stroke reaches half its length from its middle, which is the side of a cell: those of the cells around are all that can be met.
    let side = 0.5 * s.length * (1.0 + s.bend);
    let frequency = 1.0 / side;
    let rounds = (s.density.ceil() as u32).clamp(1, 16);
    let chance = s.density / rounds as f32;
    for round in 0..rounds {
        for k in 0..9u32 {
            let (dx, dy) = (k % 3, k / 3);
            for i in 0..n {
                let ((fx, ix), (fy, iy)) = (cell(x[i] * frequency), cell(y[i] * frequency));
                let h = hash(ix.wrapping_add(dx).wrapping_sub(1), iy.wrapping_add(dy).wrapping_sub(1), round, s.seed);
                let (h2, h3) = (next(h), next(h ^ 0x5bd1_e995));
                let (h4, h5) = (next(h2), next(h3));
                let (px, py) = ((fx + 1.0 - dx as f32 - unit(h)) * side, (fy + 1.0 - dy as f32 - unit(h2)) * side);
                // Few are long and wide, many are short and fine.
                let size = 0.3 + 0.7 * unit(h4) * unit(h4);
                let turn = s.direction + s.spread * (2.0 * unit(h3) - 1.0);
                let (sin, cos) = (sin_turn(turn), sin_turn(turn + 0.25));
                let (along, across) = (px * cos + py * sin, py * cos - px * sin);
                let half = 0.5 * s.length * size;
                let t = along / half;
                let sag = s.bend * s.length * size * (2.0 * unit(h5) - 1.0);
                // The chord of a parabola, 0 at the ends.
                let off = (across - sag * (1.0 - t * t)).abs();
                let end = clamp((1.0 - t.abs()) * 4.0);
                let body = if s.taper { 1.0 - t * t } else { end };
                let wide = 0.5 * s.width * (0.45 + 0.55 * size) * (if s.taper { 0.4 + 0.6 * end } else { 1.0 });
                let core = clamp(1.5 - 1.5 * off / wide);
                let v = core * clamp(body) * (0.45 + 0.55 * unit(next(h4)));
                let counts = (unit(next(h5)) < chance) & (t.abs() < 1.0) & (v > out[i]);
                out[i] = if counts { v } else { out[i] };
            }
        }
    }
}

//! Octaves of gradient noise that is folded where it crosses 0: what billows and ridges are made of.

use multiversion::multiversion;

use super::Field;
use crate::lattice::{Octave, clamp, gradient_noise};

/// Which way the noise n is folded.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Fold {
    /// |n|: round puffs, sharp valleys.
    Valleys,
    /// (1 − |n|)²: sharp crests.
    Crests,
}

/// Folded octaves around a middle.
pub struct Folded {
    /// The octaves, with the spread that the sum is to have.
    pub octaves: Vec<Octave>,
    /// The way they are folded.
    pub fold: Fold,
    /// Mean of one folded octave, which is taken off it.
    pub mean: f32,
    /// What the sum lies around.
    pub middle: f32,
}

impl Field for Folded {
    fn sample(&self, x: &[f32], y: &[f32], z: &[f32], out: &mut [f32]) {
        sample(self, x, y, z, out);
    }
}

#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
fn sample(f: &Folded, x: &[f32], y: &[f32], z: &[f32], out: &mut [f32]) {
    out.fill(f.middle);
    let crests = f.fold == Fold::Crests;
    for o in &f.octaves {
        for (((x, y), z), v) in x.iter().zip(y).zip(z).zip(out.iter_mut()) {
            let n = gradient_noise(*x, *y, *z, o).abs();
            let folded = if crests { (1.0 - n) * (1.0 - n) } else { n };
            *v += o.amplitude * (folded - f.mean);
        }
    }
    for v in out {
        *v = clamp(*v);
    }
}

//! Simplex noise in octaves (Perlin 2001; the skewing and corner order as in Gustavson 2005): gradient noise on a lattice of tetrahedra,
//! with less of a grain along the axes than Perlin's.

use multiversion::multiversion;

use super::{Field, Pattern};
use crate::lattice::{Octave, cell, clamp, corner, hash_lattice, octave_specs, octaves_of};

/// The pattern.
pub static PATTERN: Pattern = Pattern {
    kind: "simplex",
    label: "Haze",
    help: "Simplex noise in several octaves: soft patches as in Clouds, with less of a grain along the axes.",
    axes: super::Axes::Three,
    specs: || octave_specs(40.0, 5.0),
    field: |s| Box::new(Simplex(octaves_of(s, SPREAD))),
};

struct Simplex(Vec<Octave>);

impl Field for Simplex {
    fn sample(&self, x: &[f32], y: &[f32], z: &[f32], out: &mut [f32]) {
        sample(&self.0, x, y, z, out);
    }
}

/// Stretches the sum so that five octaves use most of 0…1.
const SPREAD: f32 = 0.62;

/// Noise in about −1…1.
#[inline(always)]
fn simplex_noise(x: f32, y: f32, z: f32, seed: u32) -> f32 {
    let skew = (x + y + z) * (1.0 / 3.0);
    let ((_, i), (_, j), (_, k)) = (cell(x + skew), cell(y + skew), cell(z + skew));
    let (fi, fj, fk) = (i as i32 as f32, j as i32 as f32, k as i32 as f32);
    let back = (fi + fj + fk) * (1.0 / 6.0);
    let (x0, y0, z0) = (x - fi + back, y - fj + back, z - fk + back);
    // The second corner goes along the greatest coordinate, the third along the two greatest.
    let (xy, yz, xz) = (u32::from(x0 >= y0), u32::from(y0 >= z0), u32::from(x0 >= z0));
    let (i1, j1, k1) = (xy & xz, (1 - xy) & yz, (1 - xz) & (1 - yz));
    let (i2, j2, k2) = (xy | xz, (1 - xy) | yz, (1 - xz) | (1 - yz));
    let term = |di: u32, dj: u32, dk: u32, shift: f32| {
        let (dx, dy, dz) = (x0 - di as f32 + shift, y0 - dj as f32 + shift, z0 - dk as f32 + shift);
        let t = 0.6 - dx * dx - dy * dy - dz * dz;
        let t = if t > 0.0 { t } else { 0.0 };
        let h = hash_lattice(i.wrapping_add(di), j.wrapping_add(dj), k.wrapping_add(dk), seed);
        t * t * t * t * corner(h, dx, dy, dz)
    };
    32.0 * (term(0, 0, 0, 0.0) + term(i1, j1, k1, 1.0 / 6.0) + term(i2, j2, k2, 1.0 / 3.0) + term(1, 1, 1, 0.5))
}

#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
fn sample(octaves: &[Octave], x: &[f32], y: &[f32], z: &[f32], out: &mut [f32]) {
    out.fill(0.5);
    for o in octaves {
        // A tetrahedron's edge is shorter than a cube's: the lattice is widened so that patches are as long as Size says.
        let (f, [a, b, c]) = (o.frequency * 0.7, o.offset);
        for (((x, y), z), v) in x.iter().zip(y).zip(z).zip(out.iter_mut()) {
            *v += o.amplitude * simplex_noise(*x * f + a, *y * f + b, *z * f + c, o.seed);
        }
    }
    for v in out {
        *v = clamp(*v);
    }
}

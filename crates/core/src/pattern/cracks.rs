//! Cracks: the borders between cells that are pulled about by noise, wide in places and closed in others, with finer ones inside.

use multiversion::multiversion;

use super::cells::{CHUNK, Cells, Want, find};
use super::{Field, Pattern};
use crate::lattice::{Octave, clamp, gradient_noise, octaves, seed_spec, smooth};
use crate::setting::{ParamSpec, Resolved};

/// The pattern.
pub static PATTERN: Pattern = Pattern {
    kind: "cracks",
    label: "Cracks",
    help: "A net of cracks, as in old paint, glaze or dried mud: 1 in the crack, 0 on the flakes.",
    axes: super::Axes::Three,
    specs,
    field: |s| Box::new(Cracks::new(s)),
};

fn specs() -> Vec<ParamSpec> {
    vec![
        ParamSpec::length("size", "Size", (0.1, 5000.0), 30.0, "Length of a flake."),
        ParamSpec::length("width", "Width", (0.01, 500.0), 0.8, "Width of the widest cracks."),
        ParamSpec::share("wander", "Wander", 0.35, "How far the cracks stray from straight lines."),
        ParamSpec::share("closed", "Closed", 0.35, "How much of the net is closed."),
        ParamSpec::share(
            "finer",
            "Finer ones",
            0.5,
            "How wide a second net of a third of the size is, against the first.",
        ),
        seed_spec(),
    ]
}

struct Cracks {
    size: f32,
    width: f32,
    wander: f32,
    closed: f32,
    finer: f32,
    seed: u32,
    stray: Vec<Octave>,
    gap: Octave,
}

impl Cracks {
    fn new(s: &Resolved) -> Self {
        let (size, seed) = (s.number("size").max(1e-3), s.integer("seed").wrapping_mul(0x2c1b_3c6d));
        Self {
            size,
            width: s.number("width"),
            wander: s.number("wander"),
            closed: s.number("closed"),
            finer: s.number("finer"),
            seed,
            stray: octaves(size * 0.6, 3, 2.1, 0.55, seed ^ 0x77, 1.0),
            gap: octaves(size * 1.4, 1, 2.0, 0.5, seed ^ 0x99, 1.0)[0],
        }
    }

    /// Lays a net over at most [`CHUNK`] points, `wide` mm where it is widest.
    fn net(&self, p: [&[f32]; 3], size: f32, wide: f32, seed: u32, out: &mut [f32]) {
        let n = out.len();
        let mut q = [[0.0f32; CHUNK]; 3];
        stray(&self.stray, p, size, self.wander, &mut q);
        let mut cells = Cells::default();
        find(q.each_ref().map(|v| &v[..n]), 1.0, 0.95, seed, Want::Border, &mut cells);
        open(&cells, p, size, wide, self.closed, &self.gap, out);
    }
}

/// Places in cells, each axis pulled about by the same noise seen elsewhere.
#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
fn stray(octaves: &[Octave], p: [&[f32]; 3], size: f32, wander: f32, q: &mut [[f32; CHUNK]; 3]) {
    let n = p[0].len().min(CHUNK);
    let p = p.map(|v| &v[..n]);
    for k in 0..3 {
        let far = k as f32 * 977.0 * size;
        for i in 0..n {
            q[k][i] = 0.0;
        }
        for o in octaves {
            for i in 0..n {
                q[k][i] += o.amplitude * gradient_noise(p[0][i] + far, p[1][i], p[2][i] - far, o);
            }
        }
        for i in 0..n {
            q[k][i] = p[k][i] / size + q[k][i] * wander * 0.5;
        }
    }
}

/// From the crack's middle to its lip, where it is open.
#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
fn open(cells: &Cells, p: [&[f32]; 3], size: f32, wide: f32, closed: f32, gap: &Octave, out: &mut [f32]) {
    let p = p.map(|v| &v[..out.len()]);
    for (i, v) in out.iter_mut().enumerate() {
        let open = gradient_noise(p[0][i], p[1][i], p[2][i], gap) * 0.7 + 0.5 - closed;
        let half = 0.5 * wide * clamp(open * 2.0 + 0.4);
        let d = cells.border[i] * size;
        let here = if half > 0.02 * wide { 1.0 - smooth((d - half * 0.6) / (half * 0.8)) } else { 0.0 };
        *v = if here > *v { here } else { *v };
    }
}

impl Field for Cracks {
    fn sample(&self, x: &[f32], y: &[f32], z: &[f32], out: &mut [f32]) {
        for (c, out) in out.chunks_mut(CHUNK).enumerate() {
            let p = [x, y, z].map(|v| &v[c * CHUNK..c * CHUNK + out.len()]);
            out.fill(0.0);
            self.net(p, self.size, self.width, self.seed, out);
            if self.finer > 0.0 {
                self.net(p, self.size / 3.1, self.width * 0.5 * self.finer, self.seed ^ 0x5bd1, out);
            }
        }
    }
}

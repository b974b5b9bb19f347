//! Shell: a random value for each connected bit of the mesh, for variation from bolt to bolt and plank to plank.

use super::{Origin, Reading, Run};
use crate::lattice::mix;
use crate::setting::{ParamSpec, Resolved};

pub static READING: Reading = Reading {
    kind: "shell",
    label: "Shell",
    help: "A random value for every shell: one bolt, one plank differs from the next.",
    specs,
    weather: &[],
    origin: Origin::Computed(fill),
};

fn specs() -> Vec<ParamSpec> {
    vec![ParamSpec::integer("seed", "Seed", (0.0, 9999.0), 1.0, "Another number, other values.")]
}

fn fill(run: &Run, settings: &Resolved, out: &mut [f32]) {
    let (atlas, piece) = (&run.surface.atlas, &run.surface.piece);
    for (i, v) in (run.start..).zip(out) {
        *v = random(piece.shell_of[atlas.triangle[i] as usize], settings.integer("seed"));
    }
}

/// A value 0…1 for a number and a seed.
pub fn random(number: u32, seed: u32) -> f32 {
    (mix(number.wrapping_mul(0x9e37_79b9) ^ mix(seed ^ 0x51ed_270b)) >> 8) as f32 / 16_777_215.0
}

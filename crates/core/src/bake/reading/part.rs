//! Part: a random value for each part, for variation from part to part.

use super::{Origin, Reading, Run, shell};
use crate::setting::{ParamSpec, Resolved};

pub static READING: Reading = Reading {
    kind: "part_value",
    label: "Part value",
    help: "A random value for every part: each material slot or ID colour differs from the next.",
    specs: || vec![ParamSpec::integer("seed", "Seed", (0.0, 9999.0), 1.0, "Another number, other values.")],
    weather: &[],
    origin: Origin::Computed(fill),
};

fn fill(run: &Run, settings: &Resolved, out: &mut [f32]) {
    for (part, v) in run.surface.atlas.part[run.start..].iter().zip(out) {
        *v = shell::random(u32::from(*part), settings.integer("seed") ^ 0xa3c5);
    }
}

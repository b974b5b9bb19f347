//! Chart border: closeness to where the UVs are cut, in millimetres on the surface.

use super::{Origin, Reading, Run};
use crate::setting::{ParamSpec, Resolved};

pub static READING: Reading = Reading {
    kind: "chart_border",
    label: "Chart border",
    help: "Closeness to where the UVs are cut: 1 on the cut, 0 beyond the reach. For weld lines and to find seams.",
    specs: || {
        vec![ParamSpec::length("reach", "Reach", (0.1, 1_000.0), 5.0, "How far from the cut it has fallen to 0.")]
    },
    weather: &[],
    origin: Origin::Computed(fill),
};

fn fill(run: &Run, settings: &Resolved, out: &mut [f32]) {
    let reach = settings.number("reach");
    let borders = run.surface.borders();
    let atlas = &run.surface.atlas;
    for (i, v) in (run.start..).zip(out) {
        let distance = borders.distance([atlas.px[i], atlas.py[i], atlas.pz[i]]);
        *v = (1.0 - distance / reach).clamp(0.0, 1.0);
    }
}

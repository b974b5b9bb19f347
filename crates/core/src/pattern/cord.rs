//! Cord: laid rope wound close, turn beside turn.
//!
//! A turn is half a round in section. Its strands are helices: the phase of a strand grows along the turn by one over the lay, and around it by the angle of the
//! place on the round, which is the arc sine of how far it lies from the middle. Turns start at phases of their own, as they do on a drum.

use multiversion::multiversion;

use crate::lattice::{cell, clamp, hash, seed_spec, unit, value_noise};

use super::{Field, Pattern};
use crate::setting::{ParamSpec, Resolved};

/// The pattern.
pub static PATTERN: Pattern = Pattern {
    kind: "cord",
    label: "Cord",
    help: "Laid rope wound close: turn beside turn, the strands of each at a slant. 1 on a strand's crest, 0 between turns.",
    axes: super::Axes::Two,
    specs,
    field: |s| Box::new(Cord::new(s)),
};

fn specs() -> Vec<ParamSpec> {
    vec![
        ParamSpec::choice(
            "output",
            "Gives",
            &[
                ("height", "height of the rope"),
                ("groove", "grooves between strands"),
                ("strand", "random per strand"),
                ("turn", "random per turn"),
            ],
            "Which number of the rope is taken.",
        ),
        ParamSpec::length("size", "Rope", (0.5, 500.0), 14.0, "How thick the rope is: from one turn to the next."),
        ParamSpec::integer("strands", "Strands", (2.0, 6.0), 3.0, "How many strands it is laid of."),
        ParamSpec::number(
            "lay",
            "Lay",
            "",
            (1.0, 8.0),
            3.2,
            "After how many times its thickness a strand has gone round once.",
        ),
        ParamSpec::share("uneven", "Uneven", 0.3, "How unlike each other the turns are, and how they waver."),
        seed_spec(),
    ]
}

struct Cord {
    output: u8,
    frequency: f32,
    strands: f32,
    /// Strands along one thickness of the rope.
    along: f32,
    uneven: f32,
    seed: u32,
}

impl Cord {
    fn new(s: &Resolved) -> Self {
        let strands = s.integer("strands").clamp(2, 6) as f32;
        Self {
            output: match s.text("output") {
                "groove" => 1,
                "strand" => 2,
                "turn" => 3,
                _ => 0,
            },
            frequency: 1.0 / s.number("size").max(1e-3),
            strands,
            along: strands / s.number("lay").max(0.5),
            uneven: s.number("uneven"),
            seed: s.integer("seed").wrapping_mul(0x9e37_79b1),
        }
    }
}

impl Field for Cord {
    fn sample(&self, x: &[f32], y: &[f32], _: &[f32], out: &mut [f32]) {
        sample(self, x, y, out);
    }
}

/// The arc sine over π, −½…½ over −1…1, to 3·10⁻⁵ (Abramowitz & Stegun 1964, 4.4.45).
#[inline(always)]
fn around(a: f32) -> f32 {
    let b = if a < 0.0 { -a } else { a };
    let polynomial = 1.570_729 + b * (-0.212_114 + b * (0.074_261 - b * 0.018_729));
    let half = 0.5 - (1.0 - b).max(0.0).sqrt() * polynomial * std::f32::consts::FRAC_1_PI;
    if a < 0.0 { -half } else { half }
}

#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
fn sample(s: &Cord, x: &[f32], y: &[f32], out: &mut [f32]) {
    let (x, y) = (&x[..out.len()], &y[..out.len()]);
    for (i, v) in out.iter_mut().enumerate() {
        let (u, w) = (x[i] * s.frequency, y[i] * s.frequency);
        let waver = (value_noise(u * 0.13, w * 0.05, 0.5, s.seed) - 0.5) * s.uneven * 0.3;
        let (across, turn) = cell(w + waver);
        let a = 2.0 * across - 1.0;
        let round = (1.0 - a * a).max(0.0).sqrt();
        let slack = 1.0 + (unit(hash(turn, 1, 0, s.seed)) - 0.5) * s.uneven * 0.25;
        let phase = u * s.along * slack + around(a) * 0.5 * s.strands + unit(hash(turn, 2, 0, s.seed)) * s.strands;
        let (within, strand) = cell(phase);
        let b = 2.0 * within - 1.0;
        let crest = (1.0 - b * b).max(0.0).sqrt();
        *v = clamp(match s.output {
            1 => (1.0 - crest) * round,
            2 => unit(hash(strand, turn, 3, s.seed)),
            3 => unit(hash(turn, 4, 0, s.seed)),
            _ => round * (0.6 + 0.4 * crest),
        });
    }
}

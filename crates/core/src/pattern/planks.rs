//! Planks and bricks: rows of oblongs with gaps between them, each with a number of its own, and fasteners in their ends.
//!
//! *All of it* tells head, gap and face in one number, so that a finish reads along one ramp what each is made of ([`HEADS`], [`GAPS`], [`FACES`]).

use multiversion::multiversion;

use super::{Field, Pattern};
use crate::lattice::{Octave, cell, clamp, gradient_noise, hash, next, seed_spec, smooth, unit};
use crate::setting::{ParamSpec, Resolved};

/// The pattern.
pub static PATTERN: Pattern = Pattern {
    kind: "planks",
    label: "Planks",
    help: "Rows of planks, bricks or plates, with gaps between them and heads of nails or bolts in their ends.",
    axes: super::Axes::Two,
    specs,
    field: |s| Box::new(Planks::new(s)),
};

fn specs() -> Vec<ParamSpec> {
    vec![
        ParamSpec::choice(
            "output",
            "Gives",
            &[
                ("face", "their faces"),
                ("cell", "random per plank"),
                ("border", "distance to the border"),
                ("heads", "heads of fasteners"),
                ("whole", "all of it"),
            ],
            "Which number of a plank is taken.",
        ),
        ParamSpec::length("length", "Length", (1.0, 10_000.0), 240.0, "From one end to the next."),
        ParamSpec::length("size", "Width", (0.5, 5000.0), 60.0, "From one row to the next."),
        ParamSpec::length("gap", "Gap", (0.01, 500.0), 2.0, "Between two of them."),
        ParamSpec::share(
            "offset",
            "Offset",
            0.5,
            "How far each row is shifted against the one below, as a share of the length.",
        ),
        ParamSpec::share("uneven", "Uneven", 0.2, "How unlike each other their places are."),
        ParamSpec::length("round", "Rounding", (0.01, 500.0), 1.5, "Over which length the border slopes.")
            .only_with("output", &["face", "whole"]),
        ParamSpec::length("head", "Head", (0.1, 500.0), 8.0, "Width of a fastener's head.")
            .only_with("output", &["heads", "whole"]),
        ParamSpec::length("inset", "Inset", (0.1, 2000.0), 16.0, "From the ends and sides to a head's middle.")
            .only_with("output", &["heads", "whole"]),
        ParamSpec::length("grain", "Grain", (0.05, 200.0), 1.6, "Breadth of the streaks along a plank.")
            .only_with("output", &["whole"]),
        seed_spec(),
    ]
}

struct Planks {
    output: u8,
    length: f32,
    width: f32,
    gap: f32,
    offset: f32,
    uneven: f32,
    round: f32,
    head: f32,
    inset: f32,
    grain: [Octave; 2],
    seed: u32,
}

/// Of *all of it*: a head, from its middle to its border.
pub const HEADS: [f32; 2] = [0.0, 0.1];
/// The gap, at its deepest and where a plank begins.
pub const GAPS: [f32; 2] = [0.14, 0.2];
/// Faces, from the darkest streak of the darkest plank to the palest.
pub const FACES: [f32; 2] = [0.25, 1.0];
/// How much of the way between these is the plank's own; the rest is its grain's.
const OWN: f32 = 0.55;
/// Streaks are so much longer than broad.
const LONG: f32 = 24.0;
/// How far the wood around a head is darker, in widths of the head from its middle.
const STAIN: f32 = 1.3;

impl Planks {
    fn new(s: &Resolved) -> Self {
        let seed = s.integer("seed").wrapping_mul(0x27d4_eb2f);
        let streaks = |k: u32| Octave {
            frequency: 1.0 / (s.number("grain").max(0.01) * [1.0, 3.7][k as usize]),
            amplitude: 1.0,
            seed: next(seed ^ k),
            offset: [0.0; 3],
        };
        Self {
            output: match s.text("output") {
                "cell" => 1,
                "border" => 2,
                "heads" => 3,
                "whole" => 4,
                _ => 0,
            },
            length: s.number("length").max(1e-3),
            width: s.number("size").max(1e-3),
            gap: s.number("gap"),
            offset: s.number("offset"),
            uneven: s.number("uneven"),
            round: s.number("round").max(0.01),
            head: s.number("head"),
            inset: s.number("inset"),
            grain: [streaks(0), streaks(1)],
            seed,
        }
    }
}

impl Field for Planks {
    fn sample(&self, x: &[f32], y: &[f32], _: &[f32], out: &mut [f32]) {
        sample(self, x, y, out);
    }
}

#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
fn sample(s: &Planks, x: &[f32], y: &[f32], out: &mut [f32]) {
    let (x, y) = (&x[..out.len()], &y[..out.len()]);
    for (i, v) in out.iter_mut().enumerate() {
        let (fy, row) = cell(y[i] / s.width);
        // A row is shifted by its number, and a little by chance.
        let chance = (unit(hash(row, 11, 0, s.seed)) - 0.5) * s.uneven;
        let along = x[i] / s.length + row as i32 as f32 * s.offset + chance;
        let (fx, column) = cell(along);
        let own = hash(column, row, 1, s.seed);
        // Chance moves their ends as well, but neighbours share an end.
        let end = |c: u32| (unit(hash(c, row, 2, s.seed)) - 0.5) * s.uneven * 0.2 * s.length;
        let left = fx * s.length - end(column).max(0.0);
        let right = (1.0 - fx) * s.length + end(column.wrapping_add(1)).min(0.0);
        let (below, above) = (fy * s.width, (1.0 - fy) * s.width);
        let border = left.min(right).min(below.min(above)) - 0.5 * s.gap;
        let to_head = || {
            let (a, b) = (left.min(right) - s.inset, below.min(above) - s.inset.min(0.5 * s.width));
            (a * a + b * b).sqrt()
        };
        *v = match s.output {
            1 if border > 0.0 => unit(next(own)),
            1 => 0.0,
            2 => clamp(border / (0.5 * s.width)),
            3 => 1.0 - smooth((to_head() - 0.5 * s.head) / (0.08 * s.head) + 0.5),
            4 => whole(s, [x[i], y[i]], own, border, to_head()),
            _ => smooth(border / s.round),
        };
    }
}

/// Head, gap or face, of a plank whose number is `own`: `border` mm from its border and `to_head` mm from the middle of its nearest fastener.
#[inline(always)]
fn whole(s: &Planks, [x, y]: [f32; 2], own: u32, border: f32, to_head: f32) -> f32 {
    if to_head < 0.5 * s.head && border > 0.0 {
        return HEADS[0] + (HEADS[1] - HEADS[0]) * to_head / (0.5 * s.head);
    }
    if border <= 0.0 {
        return GAPS[0] + (GAPS[1] - GAPS[0]) * clamp(1.0 + border / (0.5 * s.gap).max(1e-3));
    }
    // Each plank is cut from another place of the wood.
    let slice = unit(next(own)) * 512.0;
    let streak = |o: &Octave, k: f32| gradient_noise(x / LONG, y, slice + k / o.frequency, o);
    let grain = clamp(0.5 + 0.42 * streak(&s.grain[0], 0.3) + 0.38 * streak(&s.grain[1], 0.7));
    let face = FACES[0] + (FACES[1] - FACES[0]) * (OWN * unit(next(next(own))) + (1.0 - OWN) * grain);
    // A head has darkened the wood around it, and towards its border a plank is rounded.
    let stained = FACES[0] + (face - FACES[0]) * smooth((to_head / s.head - 0.5) / (STAIN - 0.5));
    GAPS[1] + (stained - GAPS[1]) * smooth(border / s.round)
}

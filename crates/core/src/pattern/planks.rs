//! Planks and bricks: rows of oblongs with gaps between them, each with a number of its own, and fasteners in their ends.

use multiversion::multiversion;

use super::lattice::{cell, clamp, hash, next, seed_spec, smooth, unit};
use super::{Field, Pattern};
use crate::setting::{ParamSpec, Resolved};

/// The pattern.
pub static PATTERN: Pattern = Pattern {
    kind: "planks",
    label: "Planks",
    help: "Rows of planks, bricks or plates, with gaps between them and heads of nails or bolts in their ends.",
    flat: true,
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
            .only_with("output", &["face"]),
        ParamSpec::length("head", "Head", (0.1, 500.0), 8.0, "Width of a fastener's head.")
            .only_with("output", &["heads"]),
        ParamSpec::length("inset", "Inset", (0.1, 2000.0), 16.0, "From the ends and sides to a head's middle.")
            .only_with("output", &["heads"]),
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
    seed: u32,
}

impl Planks {
    fn new(s: &Resolved) -> Self {
        Self {
            output: match s.text("output") {
                "cell" => 1,
                "border" => 2,
                "heads" => 3,
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
            seed: s.integer("seed").wrapping_mul(0x27d4_eb2f),
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
        *v = match s.output {
            1 if border > 0.0 => unit(next(own)),
            1 => 0.0,
            2 => clamp(border / (0.5 * s.width)),
            3 => {
                let (a, b) = (left.min(right) - s.inset, below.min(above) - s.inset.min(0.5 * s.width));
                1.0 - smooth(((a * a + b * b).sqrt() - 0.5 * s.head) / (0.08 * s.head) + 0.5)
            }
            _ => smooth(border / s.round),
        };
    }
}

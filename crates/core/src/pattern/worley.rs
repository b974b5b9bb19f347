//! Worley noise (Worley 1996, "A cellular texture basis function"): distances to points strewn in space, and what follows from them.

use super::cells::{CHUNK, Cells, Want, find};
use super::{Field, Pattern};
use crate::lattice::{clamp, next, seed_spec, unit};
use crate::setting::{ParamSpec, Resolved};

/// The pattern.
pub static PATTERN: Pattern = Pattern {
    kind: "worley",
    label: "Cells",
    help: "Worley noise: cells around strewn points. Pits, pebbles, scales, or a value of its own for every cell.",
    axes: super::Axes::Three,
    specs,
    field: |s| Box::new(Worley::new(s)),
};

fn specs() -> Vec<ParamSpec> {
    vec![
        ParamSpec::choice(
            "output",
            "Gives",
            &[
                ("first", "distance to the point"),
                ("second", "distance to the second"),
                ("gap", "second less first"),
                ("border", "distance to the border"),
                ("cell", "random per cell"),
            ],
            "Which number of a cell is taken.",
        ),
        ParamSpec::length("size", "Size", (0.1, 5000.0), 20.0, "Length of a cell."),
        ParamSpec::share("jitter", "Disorder", 1.0, "0 sets the points in rank and file, 1 strews them."),
        seed_spec(),
    ]
}

#[derive(Clone, Copy, PartialEq)]
enum Output {
    First,
    Second,
    Gap,
    Border,
    Cell,
}

/// Worley noise with its settings worked out. Distances are shares of the cell's length: first has mean 0.48 and spread 0.15.
pub struct Worley {
    output: Output,
    frequency: f32,
    jitter: f32,
    seed: u32,
}

impl Worley {
    /// From settings of [`PATTERN`].
    pub fn new(s: &Resolved) -> Self {
        let output = match s.text("output") {
            "second" => Output::Second,
            "gap" => Output::Gap,
            "border" => Output::Border,
            "cell" => Output::Cell,
            _ => Output::First,
        };
        let frequency = 1.0 / s.number("size").max(1e-3);
        Self { output, frequency, jitter: s.number("jitter"), seed: s.integer("seed").wrapping_mul(0x51ed_270b) }
    }

    /// The distance to the nearest point alone; `size` in mm.
    pub fn first(size: f32, seed: u32) -> Self {
        Self { output: Output::First, frequency: 1.0 / size, jitter: 1.0, seed }
    }
}

impl Field for Worley {
    fn sample(&self, x: &[f32], y: &[f32], z: &[f32], out: &mut [f32]) {
        let want = match self.output {
            Output::First => Want::First,
            Output::Border => Want::Border,
            _ => Want::Distances,
        };
        let mut cells = Cells::default();
        for (c, out) in out.chunks_mut(CHUNK).enumerate() {
            let places = [x, y, z].map(|v| &v[c * CHUNK..c * CHUNK + out.len()]);
            find(places, self.frequency, self.jitter, self.seed, want, &mut cells);
            let known = cells.first.iter().zip(&cells.second).zip(&cells.border).zip(&cells.id);
            let put = out.iter_mut().zip(known);
            match self.output {
                Output::First => put.for_each(|(v, (((first, _), _), _))| *v = clamp(*first)),
                Output::Second => put.for_each(|(v, (((_, second), _), _))| *v = clamp(second * 0.75)),
                Output::Gap => put.for_each(|(v, (((first, second), _), _))| *v = clamp((second - first) * 1.4)),
                Output::Border => put.for_each(|(v, ((_, border), _))| *v = clamp(border * 2.2)),
                Output::Cell => put.for_each(|(v, (_, id))| *v = unit(next(id ^ 0x68e3_1da4))),
            }
        }
    }
}

//! Joins: how a source meets the mask so far. A table of one line each.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// How a source f meets the mask m.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Join {
    /// f
    Replace,
    /// m f
    #[default]
    Multiply,
    /// m + f, at most 1
    Add,
    /// m − f, at least 0
    Subtract,
    /// the greater
    Max,
    /// the lesser
    Min,
    /// 1 − (1 − m)(1 − f)
    Screen,
    /// multiply where m is low, screen where it is high (W3C Compositing and Blending Level 1)
    Overlay,
}

/// Key, label, the sign between tiles, the word in the sentence, and help.
pub static JOINS: [(Join, &str, &str, &str, &str, &str); 8] = [
    (Join::Replace, "replace", "Replace", "=", "then", "The source takes the mask's place."),
    (Join::Multiply, "multiply", "Multiply", "×", "times", "Only where both are."),
    (Join::Add, "add", "Add", "+", "plus", "Both, added up."),
    (Join::Subtract, "subtract", "Subtract", "−", "minus", "The source is taken away."),
    (Join::Max, "max", "Max", "∨", "or", "Wherever either is, the stronger."),
    (Join::Min, "min", "Min", "∧", "and", "Where both are, the weaker."),
    (Join::Screen, "screen", "Screen", "⊕", "screened with", "Both, softly added."),
    (Join::Overlay, "overlay", "Overlay", "◐", "overlaid with", "The source raises contrast around the middle."),
];

impl Join {
    /// Whether 1 ⊕ f = f for every f: the source comes in as it is where the mask is full.
    pub fn leaves_source_on_full(self) -> bool {
        let sources = [0.0, 0.25, 0.5, 0.75, 1.0];
        let mut full = [1.0; 5];
        self.apply(1.0, &mut full, &sources);
        full == sources
    }

    /// m ← mix(m, m ⊕ f, amount) over a run; the result is clamped to 0…1. Slices of one length.
    pub fn apply(self, amount: f32, m: &mut [f32], f: &[f32]) {
        self.run(std::iter::repeat(amount), m, f);
    }

    /// The same with an amount of its own for every value.
    pub fn apply_by(self, amounts: &[f32], m: &mut [f32], f: &[f32]) {
        self.run(amounts.iter().copied(), m, f);
    }

    #[inline(always)]
    fn run(self, amount: impl Iterator<Item = f32>, m: &mut [f32], f: &[f32]) {
        match self {
            Join::Replace => run(amount, m, f, |_, f| f),
            Join::Multiply => run(amount, m, f, |m, f| m * f),
            Join::Add => run(amount, m, f, |m, f| m + f),
            Join::Subtract => run(amount, m, f, |m, f| m - f),
            Join::Max => run(amount, m, f, |m, f| if m > f { m } else { f }),
            Join::Min => run(amount, m, f, |m, f| if m < f { m } else { f }),
            Join::Screen => run(amount, m, f, |m, f| 1.0 - (1.0 - m) * (1.0 - f)),
            Join::Overlay => {
                run(amount, m, f, |m, f| if m <= 0.5 { 2.0 * m * f } else { 1.0 - 2.0 * (1.0 - m) * (1.0 - f) });
            }
        }
    }
}

#[inline(always)]
fn run(amount: impl Iterator<Item = f32>, m: &mut [f32], f: &[f32], join: impl Fn(f32, f32) -> f32) {
    for ((m, f), amount) in m.iter_mut().zip(f).zip(amount) {
        *m = (*m + (join(*m, *f).clamp(0.0, 1.0) - *m) * amount).clamp(0.0, 1.0);
    }
}

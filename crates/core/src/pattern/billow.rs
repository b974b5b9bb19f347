//! Billow noise: octaves of |gradient noise|, which folds it into rounded puffs (Perlin 1985, "turbulence").

use super::Pattern;
use super::folded::{Fold, Folded};
use crate::lattice::{octave_specs, octaves_of};

/// The pattern.
pub static PATTERN: Pattern = Pattern {
    kind: "billow",
    label: "Billows",
    help: "Rounded puffs with narrow valleys between them, in several octaves: crusts, damp plaster, swollen paint.",
    axes: super::Axes::Three,
    specs: || octave_specs(40.0, 4.0),
    field: |s| Box::new(Folded { octaves: octaves_of(s, 1.15), fold: Fold::Valleys, mean: 0.22, middle: 0.4 }),
};

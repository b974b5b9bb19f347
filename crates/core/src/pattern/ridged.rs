//! Ridged noise: octaves of (1 − |gradient noise|)² (Musgrave 1994), sharp where the noise crosses 0.

use super::Pattern;
use super::folded::{Fold, Folded};
use crate::lattice::{octave_specs, octaves_of};

/// The pattern.
pub static PATTERN: Pattern = Pattern {
    kind: "ridged",
    label: "Ridges",
    help: "Sharp crests between soft hollows, in several octaves: wrinkled skins, frost, dried salt.",
    axes: super::Axes::Three,
    specs: || octave_specs(40.0, 4.0),
    field: |s| Box::new(Folded { octaves: octaves_of(s, 0.85), fold: Fold::Crests, mean: 0.63, middle: 0.5 }),
};

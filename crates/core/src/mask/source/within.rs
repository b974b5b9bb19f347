//! Use: a random value for every use of a recipe, so that a recipe laid twice differs from itself.

use super::{Origin, Source};
use crate::setting::ParamSpec;

pub static SOURCE: Source = Source {
    kind: "use",
    label: "Use",
    help: "A random value for every use of a recipe: laid twice, it differs from itself. Outside of recipes it is one value for the project.",
    specs: || vec![ParamSpec::integer("seed", "Seed", (0.0, 9999.0), 1.0, "Another number, other values.")],
    origin: Origin::Use(|s| s.integer("seed")),
};

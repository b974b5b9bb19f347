//! Part: 1 on one part of the piece, 0 elsewhere.

use super::{Origin, Source};
use crate::bake::Surface;
use crate::setting::{ParamSpec, Resolved};

pub static SOURCE: Source = Source {
    kind: "part",
    label: "Part",
    help: "One part of the piece: 1 on it, 0 everywhere else.",
    specs: || vec![ParamSpec::part("part", "Part", "Which part, by name; none is 0 everywhere.")],
    origin: Origin::Part(|s| s.text("part").to_owned(), fill),
};

fn fill(surface: &Surface, settings: &Resolved, start: usize, out: &mut [f32]) {
    let wanted = surface.piece.part_named(settings.text("part"));
    for (part, v) in surface.atlas.part[start..].iter().zip(out) {
        *v = if wanted == Some(*part) { 1.0 } else { 0.0 };
    }
}

//! Strokes: what was drawn on the piece by hand. What they are stands in the step itself, beside its settings.

use super::{Origin, Source};

pub static SOURCE: Source = Source {
    kind: "strokes",
    label: "Strokes",
    help: "What you draw on the piece by hand. With *replace* it is drawn over what the mask is before it; with another join it is a mask by itself, 0 where nothing was drawn.",
    specs: Vec::new,
    origin: Origin::Strokes,
};

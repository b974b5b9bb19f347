//! Pin: a picture laid at a spot of the piece. Where it lies stands in the step itself, beside its settings.

use super::{Origin, Source};
use crate::pin;

pub static SOURCE: Source = Source {
    kind: "pin",
    label: "Pin",
    help: "A picture laid at a spot: a stencil, a tag, a boot print. With *replace* it lies over what the mask is before it; with another join it is a mask by itself, 0 beside it.",
    specs: pin::specs,
    origin: Origin::Pin,
};

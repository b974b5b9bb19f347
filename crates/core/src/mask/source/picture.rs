//! Picture: a picture that was brought in for masks, laid on the piece like a pattern.

use super::{Origin, Source};
use crate::pattern::{Axes, picture, placement};

pub static SOURCE: Source = Source {
    kind: "picture",
    label: "Picture",
    help: "A picture that was brought in: grime scanned from a wall, a logo, a stencil. Laid on the piece like a pattern.",
    specs: || {
        let mut all = picture::specs();
        all.extend(placement::specs(Axes::Two));
        all
    },
    origin: Origin::Picture(|s| s.text("picture").to_owned()),
};

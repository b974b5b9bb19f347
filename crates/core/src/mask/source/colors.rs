//! Picture, as colours: a picture that was brought in, laid on the piece like a pattern.

use super::{Origin, Source};
use crate::pattern::{Axes, picture, placement};

pub static SOURCE: Source = Source {
    kind: "colors",
    label: "Picture",
    help: "The colours of a picture that was brought in: cloth, a sign, paint taken from a photograph. Laid on the piece like a pattern.",
    specs: || {
        let mut all: Vec<_> = picture::specs().into_iter().filter(|s| s.key != picture::CHANNEL).collect();
        all.extend(placement::specs(Axes::Two));
        all
    },
    origin: Origin::Colors(|s| s.text("picture").to_owned()),
};

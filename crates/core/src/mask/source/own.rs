//! Own mask: the mask of the layer itself, for the values of its finish.

use super::{Origin, Source};

pub static SOURCE: Source = Source {
    kind: "own",
    label: "Its own mask",
    help: "The mask of the layer itself: paler where it thins out, darker where it is full.",
    specs: Vec::new,
    origin: Origin::Own,
};

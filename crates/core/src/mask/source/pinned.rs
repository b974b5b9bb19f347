//! As pinned: what the finish of a layer takes of the pictures that the pins of its mask line lay, and of others that lie just so.

use super::{Origin, Source};
use crate::setting::ParamSpec;

pub static NUMBER: Source = Source {
    kind: "pinned",
    label: "As pinned",
    help: "A number of a picture that lies as the layer’s own pins lie: roughness or height of a tag.",
    specs: || {
        let channels = [("grey", "grey"), ("red", "red"), ("green", "green"), ("blue", "blue"), ("alpha", "alpha")];
        vec![picture(), ParamSpec::choice("channel", "Taken from", &channels, "Which number of it is taken.")]
    },
    origin: Origin::Pinned(|s| s.text("picture").to_owned()),
};

pub static COLORS: Source = Source {
    kind: "pinned_colors",
    label: "As pinned",
    help: "The colours of the picture that the layer’s own pins lay, or of another that lies just so.",
    specs: || vec![picture()],
    origin: Origin::PinnedColors(|s| s.text("picture").to_owned()),
};

fn picture() -> ParamSpec {
    ParamSpec::picture("picture", "Picture", "Which picture; none is that of the pin itself.")
}

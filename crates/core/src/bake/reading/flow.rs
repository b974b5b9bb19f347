//! Flow: what water does on its way down.

use super::{Origin, Reading};
use crate::bake::weather::age;
use crate::setting::{ParamSpec, Resolved};

pub static READING: Reading = Reading {
    kind: "flow",
    label: "Flow",
    help: "Where rain gathers and runs down: how much passes, where it stays, what it washes off and leaves behind.",
    specs: || {
        vec![ParamSpec::choice(
            "tells",
            "Tells",
            &[("passes", "what passes"), ("stays", "stays wet"), ("washed", "washed clean"), ("left", "left behind")],
            "How much water passes, where it stays, where it took dust along, or where it left what it carried.",
        )]
    },
    weather: &["years"],
    origin: Origin::Measured { of: "flow", plane, read },
};

fn plane(settings: &Resolved) -> usize {
    match settings.text("tells") {
        "stays" => 1,
        "washed" => 2,
        "left" => 3,
        _ => 0,
    }
}

/// What is washed off and left behind builds up; water runs the same from the first day on.
fn read(out: &mut [f32], settings: &Resolved) {
    if ["washed", "left"].contains(&settings.text("tells")) {
        age(out, settings);
    }
}

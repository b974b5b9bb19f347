//! The weather against occlusion, which casts 64 rays a texel: on the gate valve at 1024², in one run.

use dustcoat_core::bake::{Extent, MEASUREMENTS, MeasurementKey, measure};
use dustcoat_core::setting::Settings;
use dustcoat_core::task::{Cancel, silent};

use crate::{Line, fastest, occlusion, print};

/// Each measurement as often as the reference.
pub fn run() {
    let surface = occlusion::valve(1024);
    let seconds = |kind: &str| {
        let m = MEASUREMENTS.iter().find(|m| m.kind == kind).expect("it is there");
        let key = MeasurementKey::new(m, Extent::of(&surface.piece), &Settings::new());
        let take = || drop(measure(m, &surface, &key.settings, &Cancel::default(), &silent).expect("nobody stops it"));
        fastest(2, take)
    };
    let theirs = seconds("occlusion");
    for kind in ["rain", "flow", "sun", "dust", "touch", "frost"] {
        let bench = format!("weather: {kind}");
        print(&Line {
            bench: &bench,
            ours: seconds(kind),
            unit: "s",
            reference: "occlusion of 64 rays",
            theirs,
            rate: false,
        });
    }
}

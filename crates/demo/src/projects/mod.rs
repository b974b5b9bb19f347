//! Projects of the demo: its props, dressed.

mod afloat;
mod dressing;
mod props;
mod study;
mod valve;

use dustcoat_core::document::Document;
use dustcoat_core::mask::Join;

use dressing::{clouds, coat, invert, levels, look, numbered, relief, step, threshold};

pub use afloat::{buoy, dock_cleat};
pub use props::{harbour_lamp, louvre_shutter, mooring_post};
pub use valve::{dock_paint, gate_valve};

/// The swatch tile with nothing but a lick of limewash: something to start on.
pub fn swatch_tile() -> Document {
    let mut document = Document::new("Swatch tile");
    let mut layers = vec![
        coat("Cast iron", 1.0, look("#55524f", 1.0, 0.6), vec![]),
        coat(
            "Limewash",
            0.95,
            relief(0.2, "adds", look("#d8d2c4", 0.0, 0.9)),
            vec![
                step(Join::Replace, 1.0, "edges", &[]),
                levels(0.05, 0.6),
                clouds(Join::Add, 0.7, 45.0, 6.0, 5.0),
                threshold(0.55.into(), 0.06),
                invert(),
            ],
        ),
    ];
    numbered(&mut layers, &mut 0);
    document.layers = layers;
    document
}

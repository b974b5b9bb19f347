//! Projects of the demo: its props, dressed.

mod afloat;
mod dressing;
mod props;
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

#[cfg(test)]
mod tests {
    use crate::PIECES;

    /// The parts that the masks of a document name, wherever they stand in it.
    fn named(json: &serde_json::Value, out: &mut Vec<String>) {
        if json["kind"] == "part"
            && let Some(part) = json["settings"]["part"].as_str()
        {
            out.push(part.to_owned());
        }
        match json {
            serde_json::Value::Object(fields) => fields.values().for_each(|v| named(v, out)),
            serde_json::Value::Array(all) => all.iter().for_each(|v| named(v, out)),
            _ => {}
        }
    }

    #[test]
    fn demo_documents_are_valid_name_parts_that_are_there_and_have_dials_that_drive() {
        for demo in PIECES {
            if demo.dress.is_none() {
                continue;
            }
            let (piece, document) = (demo.imported(), demo.document(true));
            dustcoat_core::document::check(&document).unwrap_or_else(|e| panic!("{}: {e}", demo.key));
            for dial in &document.dials {
                let drives = dustcoat_core::document::driven(&document, &dial.id);
                assert!(!drives.is_empty(), "{}: {} does nothing", demo.key, dial.label);
            }
            let mut parts = vec![];
            named(&serde_json::to_value(&document).unwrap(), &mut parts);
            for part in parts {
                assert!(piece.part_named(&part).is_some(), "{} has no part {part}", demo.key);
            }
        }
    }
}

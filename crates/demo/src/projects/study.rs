//! The study of the gate valve: what was looked at before, what was seen in it, and what the valve is made of, row by row.

use dustcoat_core::document::{
    BoardItem, BoardKind, Document, Element, End, Lies, Palette, Study, Whereabouts, layers,
};

use crate::Photograph;

/// A picture of the board, its middle and width in points, how far it is turned, and what stands below it.
fn picture(id: &str, key: &str, at: [f64; 2], (width, turn): (f64, f64), text: &str) -> BoardItem {
    let Photograph { hash, file, size, .. } = Photograph::of(key).expect("the demo has pictures of its pieces");
    let lies = Lies { at, width, turn };
    let kind = BoardKind::Picture { lies, hash, file, size, crop: None, text: text.into(), palette: None };
    BoardItem { id: id.into(), kind }
}

fn note(id: &str, at: [f64; 2], width: f64, text: &str) -> BoardItem {
    BoardItem { id: id.into(), kind: BoardKind::Note { lies: Lies { at, width, turn: 0.0 }, text: text.into() } }
}

/// From a note to a spot of a picture.
fn arrow(id: &str, from: &str, to: &str, at: [f64; 2]) -> BoardItem {
    let end = |item: &str, at| End { item: Some(item.into()), at };
    BoardItem { id: id.into(), kind: BoardKind::Arrow { from: end(from, [0.5, 0.5]), to: end(to, at) } }
}

/// Name, material, colour, where, share in hundredths, and the layer.
type Row = (&'static str, &'static str, &'static str, Whereabouts, f64, &'static str);

const PLAN: [Row; 7] = [
    ("body", "dock paint", "#2b5d61", Whereabouts::AllOver, 45.0, "Dock paint"),
    ("chips", "red primer", "#7b3526", Whereabouts::Edges, 6.0, "Red primer"),
    ("recesses", "old rust", "#5b2c16", Whereabouts::Recesses, 8.0, "Recess rust"),
    ("runs", "rust stain", "#a2592a", Whereabouts::Patches, 4.0, "Rust runs"),
    ("tops", "salt", "#cfc8b6", Whereabouts::Above, 6.0, "Salt bloom"),
    ("handled", "bright steel", "#9a9892", Whereabouts::Part, 4.0, "Handled metal"),
    ("foot", "algae", "#39421f", Whereabouts::Below, 4.0, ""),
];

/// The study of a dressed valve.
pub fn of_valve(document: &Document, palettes: Vec<Palette>) -> Study {
    let all = layers(&document.layers);
    let element = |(i, (name, material, color, place, share, layer)): (usize, &Row)| Element {
        id: format!("e{}", i + 1),
        name: (*name).into(),
        material: (*material).into(),
        color: (*color).into(),
        place: *place,
        part: if *place == Whereabouts::Part { "handwheel".into() } else { String::new() },
        share: Some(share / 100.0),
        layer: all.iter().find(|l| l.name == *layer).map(|l| l.id.clone()),
        done: matches!(*name, "body" | "handled"),
        note: String::new(),
    };
    let frame = BoardKind::Frame {
        lies: Lies { at: [345.0, 500.0], width: 690.0, turn: 0.0 },
        height: 340.0,
        text: "the same weather on others of the station".into(),
    };
    Study {
        palettes,
        board: vec![
            BoardItem { id: "b1".into(), kind: frame },
            picture(
                "b2",
                "gate-valve",
                [170.0, 130.0],
                (330.0, -1.5),
                "flange, north side: runs begin under every bolt",
            ),
            picture("b3", "dock-cleat", [540.0, 105.0], (230.0, 0.0), "rust where water stands"),
            picture("b4", "mooring-post", [180.0, 505.0], (280.0, 0.0), "what lines do to paint"),
            picture("b5", "buoy", [520.0, 505.0], (280.0, 1.0), "algae up to where the water reaches"),
            note("b6", [590.0, 262.0], 170.0, "paint is thicker in the corners, chips are crisp"),
            note("b7", [432.0, 262.0], 130.0, "salt only on tops that dry quickly"),
            arrow("b8", "b6", "b3", [0.45, 0.6]),
            arrow("b9", "b7", "b2", [0.55, 0.1]),
        ],
        plan: PLAN.iter().enumerate().map(element).collect(),
    }
}

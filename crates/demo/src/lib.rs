//! The made-up world of the demo: the props of Tidegate 7, a small sluice station at Wrack Point, with their projects and recipes.
//!
//! Everything is built in code: [`kit`] makes shapes with bevelled edges and UVs without overlap, [`pieces`] puts props together from them,
//! [`projects`] dresses them, with [`recipes`] of the cabinet among other things.

pub mod finishes;
pub mod gallery;
pub mod kit;
pub mod pictures;
pub mod pieces;
pub mod projects;
pub mod recipes;
pub mod sheet;
pub mod studio;

use std::sync::Arc;

use dustcoat_core::document::Document;
use dustcoat_core::mesh::Piece;
use dustcoat_core::mesh::import::{MeshLimits, import};
use dustcoat_core::mesh::write::glb;

/// A demo piece by key.
pub struct DemoPiece {
    /// Key, also the stem of its files.
    pub key: &'static str,
    /// Name to show.
    pub name: &'static str,
    /// One sentence.
    pub note: &'static str,
    /// Builds it.
    pub build: fn() -> Piece,
    /// Its project in the demo, if it has one.
    pub dress: Option<Dressing>,
}

/// How a piece is dressed in the demo.
#[derive(Clone, Copy)]
pub struct Dressing {
    /// Its project.
    pub document: fn() -> Document,
    /// A picture of that for the front door, a PNG of [`pictures::SIZE`] pixels, so that it is there before anything was measured.
    pub picture: &'static [u8],
}

macro_rules! dressed {
    ($document:path, $key:literal) => {
        Some(Dressing { document: $document, picture: include_bytes!(concat!("pictures/", $key, ".png")) })
    };
}

/// All demo pieces, the one whose project opens first before all others.
pub static PIECES: &[DemoPiece] = &[
    DemoPiece {
        key: "gate-valve",
        name: "Gate valve",
        note: "Handwheel, flanges, bolts and a name plate: edges to wear and recesses to rust.",
        build: pieces::valve::build,
        dress: dressed!(projects::gate_valve, "gate-valve"),
    },
    DemoPiece {
        key: "mooring-post",
        name: "Mooring post",
        note: "A cast post that lines have worn, on a bolted plate, with an eye and some links of its chain.",
        build: pieces::post::build,
        dress: dressed!(projects::mooring_post, "mooring-post"),
    },
    DemoPiece {
        key: "harbour-lamp",
        name: "Harbour lamp",
        note: "Ribbed brass, a thick lens in its cage, a bail, a gland and its cable: seven materials on one thing.",
        build: pieces::lamp::build,
        dress: dressed!(projects::harbour_lamp, "harbour-lamp"),
    },
    DemoPiece {
        key: "louvre-shutter",
        name: "Louvre shutter",
        note: "A jointed frame of boards, slats of which one is broken, hinges and a latch.",
        build: pieces::shutter::build,
        dress: dressed!(projects::louvre_shutter, "louvre-shutter"),
    },
    DemoPiece {
        key: "swatch-tile",
        name: "Swatch tile",
        note: "A plain bevelled plate, 200 mm square: to judge a finish by itself.",
        build: pieces::tile::build,
        dress: dressed!(projects::swatch_tile, "swatch-tile"),
    },
    DemoPiece {
        key: "swatch-ball",
        name: "Swatch ball",
        note: "A ball on a turned foot, 150 mm across: every direction at once.",
        build: pieces::ball::build,
        dress: None,
    },
];

/// The demo piece of that key.
pub fn piece(key: &str) -> Option<&'static DemoPiece> {
    PIECES.iter().find(|p| p.key == key)
}

impl DemoPiece {
    /// The piece as the GLB file that everything reads it from.
    pub fn glb(&self) -> Vec<u8> {
        glb(&(self.build)(), None)
    }

    /// The piece after a round through its file, as a user's piece comes in.
    pub fn imported(&self) -> Arc<Piece> {
        let piece = import(&format!("{}.glb", self.key), &self.glb(), None, MeshLimits::default());
        Arc::new(piece.expect("the demo pieces are valid meshes"))
    }
}

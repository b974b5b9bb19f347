//! The piece: the thing being dressed, with its parts, shells and charts.
//!
//! [`import`] reads foreign files into a [`Soup`] of corners; [`Piece::build`] checks it, names what is wrong with it, and
//! makes the immutable value that everything else works on. [`write`](mod@write) makes a GLB of a piece, which is also how demo pieces
//! come in: through the same door as everybody's.

mod build;
mod connect;
pub mod curved;
mod edges;
pub mod import;
pub mod intake;
pub mod mend;
pub mod palette;
pub mod parts;
mod shape;
pub mod sheets;
mod soup;
pub mod split;
mod survey;
pub mod swap;
mod tangents;
mod unwrap;
pub mod write;

use std::collections::BTreeMap;
use std::sync::Arc;

use glam::Vec3;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

pub(crate) use edges::{Pair, meetings, pairs, places, sides};
pub use intake::{Intake, MeshSource};
use parts::{PartRule, StandIn};
use sheets::Sharing;

use crate::raster::pyramid::MaskPicture;
pub use shape::Shape;
pub use sheets::Sheet;
pub use soup::{Offers, Soup};

/// How long one unit of a mesh file is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, TS, Default, schemars::JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Unit {
    /// Millimetres.
    #[default]
    Mm,
    /// Centimetres.
    Cm,
    /// Metres.
    M,
    /// Inches.
    In,
}

impl Unit {
    /// Millimetres in one unit.
    pub fn millimetres(self) -> f32 {
        match self {
            Unit::Mm => 1.0,
            Unit::Cm => 10.0,
            Unit::M => 1000.0,
            Unit::In => 25.4,
        }
    }
}

/// A named region of the piece.
#[derive(Debug, Clone, PartialEq, Serialize, TS)]
pub struct Part {
    /// What the file, or its colour, calls it.
    pub key: String,
    /// Its name.
    pub name: String,
    /// The colour that it is shown in, sRGB hex.
    pub color: String,
    /// Number of triangles.
    pub triangles: u32,
    /// Surface area in mm².
    pub area: f64,
    /// What becomes of texels that several of its triangles share.
    pub shared: Sharing,
}

/// Something worth knowing about the mesh, what it means, and what to do.
#[derive(Debug, Clone, PartialEq, Serialize, TS)]
pub struct Finding {
    /// Whether work is possible but something will look wrong.
    pub serious: bool,
    /// What was found.
    pub what: String,
    /// What it means and what to do.
    pub remedy: String,
}

/// The piece, immutable once built. All lengths in millimetres, y up; UVs as in glTF (origin top left, v down).
#[derive(Debug, Clone, PartialEq)]
pub struct Piece {
    /// A name to show.
    pub name: String,
    /// Vertex positions.
    pub positions: Vec<[f32; 3]>,
    /// Unit vertex normals.
    pub normals: Vec<[f32; 3]>,
    /// MikkTSpace tangents; w is the sign of the bitangent, which points up the texture (glTF's convention).
    pub tangents: Vec<[f32; 4]>,
    /// Texture coordinates in the square of the triangle's sheet.
    pub uvs: Vec<[f32; 2]>,
    /// Vertex colours, sRGB; empty when the file has none.
    pub colors: Vec<[u8; 3]>,
    /// Vertex indices per triangle.
    pub triangles: Vec<[u32; 3]>,
    /// Index into `parts` per triangle.
    pub part_of: Vec<u16>,
    /// Shell per triangle.
    pub shell_of: Vec<u32>,
    /// UV chart per triangle.
    pub chart_of: Vec<u32>,
    /// Sheet per triangle.
    pub sheet_of: Vec<u16>,
    /// The sheets.
    pub sheets: Vec<Sheet>,
    /// The parts.
    pub parts: Vec<Part>,
    /// Whether measurements see its faces curved, as its normals say ([`curved`]).
    pub round: bool,
    /// How the part of a spot is found.
    pub rule: PartRule,
    /// Pictures that stand in for readings, and `normal`: by purpose, with a hash of what they are made of.
    pub stand_ins: BTreeMap<String, (String, Arc<StandIn>)>,
    /// Pictures for masks: by file name, their hash and their numbers, red, green, blue, alpha.
    pub pictures: BTreeMap<String, (String, Arc<MaskPicture>)>,
    /// Number of shells.
    pub shells: u32,
    /// Number of charts.
    pub charts: u32,
    /// Least corner of the bounding box.
    pub min: [f32; 3],
    /// Greatest corner of the bounding box.
    pub max: [f32; 3],
    /// What else of its file could have been taken.
    pub offers: Offers,
    /// What was found while building.
    pub findings: Vec<Finding>,
    /// blake3 of the buffers, hex: what is measured from.
    pub hash: String,
    /// blake3, hex, of what tells the parts of its spots apart; empty where that is what the mesh itself says.
    pub told: String,
    /// blake3, hex, of what it takes relief from, a finer mesh or a picture of normals; empty without either.
    pub relief: String,
}

impl Piece {
    /// Length of the bounding box's diagonal in mm.
    pub fn diagonal(&self) -> f32 {
        (Vec3::from(self.max) - Vec3::from(self.min)).length()
    }

    /// About how many bytes it takes in memory.
    pub fn bytes(&self) -> usize {
        let pictures: usize = self.pictures.values().map(|p| p.1.bytes()).sum();
        let stand_ins: usize = self.stand_ins.values().map(|s| s.1.bytes()).sum();
        self.positions.len() * 51 + self.triangles.len() * 24 + pictures + stand_ins
    }

    /// The three corners of a triangle, in mm.
    pub fn corners(&self, triangle: u32) -> [Vec3; 3] {
        self.triangles[triangle as usize].map(|v| Vec3::from(self.positions[v as usize]))
    }

    /// Unit normal of a triangle's own plane; up for one without area.
    pub fn face_normal(&self, triangle: u32) -> Vec3 {
        let [a, b, c] = self.corners(triangle);
        (b - a).cross(c - a).normalize_or(Vec3::Y)
    }

    /// The least and the greatest corner of each shell's bounding box, in mm.
    pub fn shell_boxes(&self) -> Vec<(Vec3, Vec3)> {
        let mut boxes = vec![(Vec3::MAX, Vec3::MIN); self.shells as usize];
        for (t, shell) in self.shell_of.iter().enumerate() {
            let (low, high) = &mut boxes[*shell as usize];
            for p in self.corners(t as u32) {
                (*low, *high) = (low.min(p), high.max(p));
            }
        }
        boxes
    }

    /// The index of the part called `name`.
    pub fn part_named(&self, name: &str) -> Option<u16> {
        self.parts.iter().position(|p| p.name == name).map(|i| i as u16)
    }
}

/// Why a mesh was refused. Each says what is wrong and what to do.
#[derive(Debug, thiserror::Error)]
pub enum MeshError {
    /// The bytes are no mesh we read.
    #[error(
        "“{name}” is not a mesh that Dust Coat reads: give a GLB, glTF, OBJ, PLY, STL or USD, or a ZIP with one of them inside."
    )]
    UnknownKind {
        /// File name.
        name: String,
    },
    /// The file breaks its own format.
    #[error("The mesh file can't be read: {why}. Export it again from the program that made it.")]
    Unreadable {
        /// The parser's words.
        why: String,
    },
    /// A sound file of a kind, or packed in a way, that isn't read.
    #[error("The mesh file can't be read: {what}. {remedy}")]
    Unsupported {
        /// What is in the way.
        what: String,
        /// What to do, as a sentence.
        remedy: String,
    },
    /// Past a limit.
    #[error("The mesh has {found} {what}; the most that can be taken is {limit}. Reduce it and import it again.")]
    TooLarge {
        /// What there is too much of.
        what: &'static str,
        /// How many.
        found: usize,
        /// The limit.
        limit: usize,
    },
    /// NaN or infinity.
    #[error("Vertex {index} has a {what} that is not a finite number. Clean the mesh and export it again.")]
    NotFinite {
        /// Which vertex, from 1.
        index: usize,
        /// Which attribute.
        what: &'static str,
    },
    /// Nothing to dress.
    #[error(
        "The mesh holds no triangle with an area. Check that the file holds the model itself, not only curves or points."
    )]
    Empty,
    /// Nothing was left by welding.
    #[error("Welding corners within {within} mm leaves no triangle with an area. Take a smaller distance.")]
    Welded {
        /// The distance, in mm.
        within: f32,
    },
    /// Buffers elsewhere.
    #[error(
        "The glTF keeps its buffers in another file (“{uri}”) that did not come with it. Give the folder, or a ZIP of the glTF and that file; or export a GLB."
    )]
    ExternalBuffer {
        /// The file it names.
        uri: String,
    },
    /// A folder or ZIP of other things.
    #[error("The folder or ZIP holds no mesh: give one with a GLB, glTF, OBJ, PLY, STL or USD inside.")]
    NoMesh,
}

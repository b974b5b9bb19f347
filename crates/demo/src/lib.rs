//! The made-up world of the demo: the props of Tidegate 7, a small sluice station at Wrack Point, with their projects and recipes.
//!
//! Everything is built in code: [`kit`] makes shapes with bevelled edges and UVs without overlap, [`pieces`] puts props together from them,
//! [`projects`] dresses them, with [`recipes`] among other things; [`cabinet`] holds those that the demo offers.

pub mod cabinet;
pub mod finishes;
pub mod gallery;
pub mod ids;
pub mod kit;
pub mod pictures;
pub mod pieces;
pub mod pins;
pub mod projects;
pub mod recipes;
pub mod sheet;
pub mod studio;

use std::collections::BTreeMap;
use std::sync::{Arc, Mutex, PoisonError};

use dustcoat_core::document::Document;
use dustcoat_core::mesh::import::{self, MeshLimits, import};
use dustcoat_core::mesh::intake::{PartLook, PartsBy, PictureUse, guess_purpose, guess_sheet};
use dustcoat_core::mesh::write::glb;
use dustcoat_core::mesh::{Intake, MeshSource, Piece};

use ids::Id;

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
    /// What an ID picture tells its parts by, where its mesh doesn't.
    pub ids: &'static [Id],
    /// Its project in the demo, if it has one.
    pub dress: Option<Dressing>,
}

/// How a piece is dressed in the demo.
#[derive(Clone, Copy)]
pub struct Dressing {
    /// Its project.
    pub document: fn() -> Document,
    /// Keys of the made-up pictures that its pins lay.
    pub pictures: &'static [&'static str],
    /// A picture of that for the front door, a PNG of [`pictures::SIZE`] pixels, so that it is there before anything was measured.
    pub picture: &'static [u8],
}

macro_rules! dressed {
    ($document:path, $key:literal $(, $made:literal)*) => {
        Some(Dressing {
            document: $document,
            pictures: &[$($made),*],
            picture: include_bytes!(concat!("pictures/", $key, ".png")),
        })
    };
}

/// All demo pieces, the one whose project opens first before all others.
pub static PIECES: &[DemoPiece] = &[
    DemoPiece {
        key: "gate-valve",
        name: "Gate valve",
        note: "Handwheel, flanges, bolts and a name plate: edges to wear and recesses to rust.",
        build: pieces::valve::build,
        ids: &[],
        dress: dressed!(projects::gate_valve, "gate-valve", "stencil-number", "inspection-tag"),
    },
    DemoPiece {
        key: "mooring-post",
        name: "Mooring post",
        note: "A cast post that lines have worn, on a bolted plate, with an eye and some links of its chain.",
        build: pieces::post::build,
        ids: &[],
        dress: dressed!(projects::mooring_post, "mooring-post"),
    },
    DemoPiece {
        key: "harbour-lamp",
        name: "Harbour lamp",
        note: "Ribbed brass, a thick lens in its cage, a bail, a gland and its cable: seven materials on one thing.",
        build: pieces::lamp::build,
        ids: &[],
        dress: dressed!(projects::harbour_lamp, "harbour-lamp"),
    },
    DemoPiece {
        key: "louvre-shutter",
        name: "Louvre shutter",
        note: "A jointed frame of boards, slats of which one is broken, hinges and a latch.",
        build: pieces::shutter::build,
        ids: &[],
        dress: dressed!(projects::louvre_shutter, "louvre-shutter"),
    },
    DemoPiece {
        key: "buoy",
        name: "Buoy",
        note: "A painted float in a harness of laid rope: two sheets, and an ID picture that tells its parts.",
        build: pieces::buoy::build,
        ids: pieces::buoy::IDS,
        dress: dressed!(projects::buoy, "buoy"),
    },
    DemoPiece {
        key: "dock-cleat",
        name: "Dock cleat",
        note: "A cast cleat on its plate, of few polygons and shaded smooth.",
        build: pieces::cleat::build,
        ids: &[],
        dress: dressed!(projects::dock_cleat, "dock-cleat"),
    },
    DemoPiece {
        key: "swatch-tile",
        name: "Swatch tile",
        note: "A plain bevelled plate, 200 mm square: to judge a finish by itself.",
        build: pieces::tile::build,
        ids: &[],
        dress: dressed!(projects::swatch_tile, "swatch-tile"),
    },
    DemoPiece {
        key: "swatch-ball",
        name: "Swatch ball",
        note: "A ball on a turned foot, 150 mm across: every direction at once.",
        build: pieces::ball::build,
        ids: &[],
        dress: None,
    },
];

/// A picture of a dressed piece, as somebody took it of the thing itself.
pub struct Photograph {
    /// blake3 of the file.
    pub hash: String,
    /// Its name.
    pub file: String,
    /// Pixels.
    pub size: [u32; 2],
    /// The file.
    pub bytes: &'static [u8],
}

impl Photograph {
    /// Of the piece of that key; none where it is not dressed.
    pub fn of(key: &str) -> Option<Photograph> {
        let bytes = piece(key)?.dress?.picture;
        let hash = blake3::hash(bytes).to_hex().to_string();
        Some(Photograph { hash, file: format!("{key}.png"), size: pictures::SIZE, bytes })
    }
}

/// The demo piece of that key.
pub fn piece(key: &str) -> Option<&'static DemoPiece> {
    PIECES.iter().find(|p| p.key == key)
}

impl DemoPiece {
    /// The file that everything reads it from, and its name: a GLB, or a ZIP of one with its ID pictures.
    pub fn file(&self) -> (String, Vec<u8>) {
        let piece = (self.build)();
        let mesh = format!("{}.glb", self.key);
        if self.ids.is_empty() {
            return (mesh, glb(&piece, None));
        }
        let told = ids::bundle((&mesh, &glb(&ids::untold(piece.clone()), None)), &piece, self.ids);
        (format!("{}.zip", self.key), told)
    }

    /// A document on it that nothing is laid in, or its project. Its parts have names already; the mesh is the reader's to put in.
    pub fn document(&self, dressed: bool) -> Document {
        let dress = self.dress.filter(|_| dressed);
        let mut document = dress.map_or_else(|| Document::new(self.name), |d| (d.document)());
        let named = |id: &Id| (id.called.to_owned(), PartLook { name: Some(id.part.into()), ..PartLook::default() });
        document.intake.parts = self.ids.iter().map(named).collect();
        if dressed {
            self.made().for_each(|(picture, _)| document.intake.add_picture(picture));
        }
        document
    }

    /// The made-up pictures that its project's pins lay, as an intake names them, and their bytes.
    pub fn made(&self) -> impl Iterator<Item = (PictureUse, Arc<[u8]>)> {
        let keys = self.dress.map_or(&[][..], |d| d.pictures);
        keys.iter().filter_map(|key| pins::find(key)).map(|made| {
            let bytes = made.png();
            let hash = blake3::hash(&bytes).to_hex().to_string();
            let picture = PictureUse {
                hash,
                file: made.file(),
                size: made.pixel_size(),
                purpose: "mask".into(),
                ..PictureUse::default()
            };
            (picture, bytes)
        })
    }

    /// All files that its project names, beside that of the mesh: by hash.
    pub fn files(&self) -> BTreeMap<String, Vec<u8>> {
        let mut files: BTreeMap<_, _> = self.made().map(|(picture, bytes)| (picture.hash, bytes.to_vec())).collect();
        let document = self.document(true);
        for photograph in PIECES.iter().filter_map(|p| Photograph::of(p.key)) {
            if document.study.files().any(|(hash, _)| hash == photograph.hash) {
                files.insert(photograph.hash, photograph.bytes.to_vec());
            }
        }
        files
    }

    /// What its file amounts to: what a project on it is made of, and the bytes of mesh and pictures by hash.
    ///
    /// # Panics
    /// Never: the demo's files can be read.
    pub fn intake(&self) -> (Intake, BTreeMap<String, Vec<u8>>) {
        let (file, bytes) = self.file();
        let piece = import(&file, &bytes, None, MeshLimits::default()).expect("the demo pieces are valid meshes");
        let mut intake = Intake { parts: self.document(false).intake.parts, ..Intake::default() };
        intake.mesh = MeshSource { hash: blake3::hash(&bytes).to_hex().to_string(), file: file.clone(), unit: None };
        let mut files = BTreeMap::new();
        for found in import::pictures(&file, &bytes, MeshLimits::default()).expect("they are as the mesh is") {
            intake.parts_by = PartsBy::Picture;
            let hash = blake3::hash(&found.bytes).to_hex().to_string();
            intake.add_picture(PictureUse {
                hash: hash.clone(),
                size: [ids::SIDE as u32; 2],
                purpose: guess_purpose(&found.name).into(),
                sheet: guess_sheet(&found.name, &piece.sheets),
                mesh: intake.mesh.hash.clone(),
                file: found.name,
                ..PictureUse::default()
            });
            files.insert(hash, found.bytes);
        }
        self.made().for_each(|(picture, _)| intake.add_picture(picture));
        files.extend(self.files());
        files.insert(intake.mesh.hash.clone(), bytes);
        (intake, files)
    }

    /// The piece after a round through its file, as a user's piece comes in. It is read once and held.
    pub fn imported(&self) -> Arc<Piece> {
        static HELD: Mutex<BTreeMap<&str, Arc<Piece>>> = Mutex::new(BTreeMap::new());
        if let Some(piece) = HELD.lock().unwrap_or_else(PoisonError::into_inner).get(self.key) {
            return piece.clone();
        }
        let (intake, files) = self.intake();
        let mesh = import(&intake.mesh.file, &files[&intake.mesh.hash], None, MeshLimits::default());
        let mesh = mesh.expect("the demo pieces are valid meshes");
        let told = || mesh.take_in(&intake, &|used| files.get(&used.hash).cloned());
        let piece = Arc::new(if intake.pictures.is_empty() { mesh } else { told() });
        HELD.lock().unwrap_or_else(PoisonError::into_inner).insert(self.key, piece.clone());
        piece
    }
}

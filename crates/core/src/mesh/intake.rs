//! The intake: what was brought in to make the piece of. It is part of the document, so that taking in another mesh, or another picture, is
//! an edit like any other and can be undone.

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

use super::mend::{Mending, Taking};
use super::sheets::Sharing;
use super::soup::Slots;
use super::{Piece, Sheet, Unit, mend};
use crate::names::free;
use crate::raster::picture::PictureChannel;
use crate::setting::Settings;

/// How a mesh came in, so that it can be read again.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, JsonSchema, TS)]
pub struct MeshSource {
    /// File name it came with.
    pub file: String,
    /// blake3 of its bytes.
    pub hash: String,
    /// Unit it was read with; none is the format's own.
    #[serde(default)]
    pub unit: Option<Unit>,
}

/// What tells the parts apart.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum PartsBy {
    /// The material slots of the mesh file.
    #[default]
    Materials,
    /// Its groups.
    Groups,
    /// Its objects.
    Objects,
    /// The colours of its vertices.
    Colors,
    /// The colours of an ID picture.
    Picture,
}

impl PartsBy {
    /// All of them as they are chosen among: what is kept, what it is called, and what it means.
    pub const WAYS: [(PartsBy, &str, &str, &str); 5] = [
        (PartsBy::Materials, "materials", "material slots", "By the materials that faces have in the file."),
        (PartsBy::Objects, "objects", "objects", "By the objects, nodes or solids of the file."),
        (PartsBy::Groups, "groups", "groups", "By the groups of faces of the file, or its meshes."),
        (PartsBy::Colors, "colors", "vertex colours", "By the colours of its vertices."),
        (PartsBy::Picture, "picture", "ID picture", "By the colours of a picture that was brought in for it."),
    ];

    /// What of the mesh file tells its parts.
    pub fn slots(self) -> Slots {
        match self {
            PartsBy::Groups => Slots::Groups,
            PartsBy::Objects => Slots::Objects,
            PartsBy::Materials | PartsBy::Colors | PartsBy::Picture => Slots::Materials,
        }
    }

    /// Whether they are parts of the file, each with faces of its own.
    pub fn of_file(self) -> bool {
        !matches!(self, PartsBy::Colors | PartsBy::Picture)
    }
}

/// How a part is named and shown, where that was changed.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, JsonSchema, TS)]
pub struct PartLook {
    /// Another name.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub name: Option<String>,
    /// Another colour to show it in, sRGB hex.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub color: Option<String>,
    /// Whether its UVs are laid out anew.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[ts(as = "Option<bool>", optional)]
    pub unwrap: bool,
    /// What becomes of texels that several of its triangles share, where that is not the first.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub shared: Option<Sharing>,
}

/// A picture that was brought in for the piece.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, JsonSchema, TS)]
pub struct PictureUse {
    /// blake3 of the file.
    pub hash: String,
    /// File name it came with.
    pub file: String,
    /// Width and height in texels.
    #[serde(default)]
    pub size: [u32; 2],
    /// What it is for: the kind of the reading that it stands in for, `curvature` (for edges and recesses alike, ½ on flats), `normal` (tangent-space
    /// normals), `parts` (an ID picture), `mask` (for steps of masks, by its file name), or empty.
    #[serde(default)]
    pub purpose: String,
    /// Name of the sheet that it belongs to; empty is all of them.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[ts(as = "Option<String>", optional)]
    pub sheet: String,
    /// Which number of it is taken, where one is.
    #[serde(default)]
    pub channel: PictureChannel,
    /// Whether 0 and 1 change places.
    #[serde(default)]
    pub invert: bool,
    /// Whether its numbers are sRGB-encoded and are to be decoded.
    #[serde(default)]
    pub encoded: bool,
    /// Of normals: whether green points down the texture.
    #[serde(default)]
    pub green_down: bool,
    /// blake3 of the mesh file that it was brought in for.
    #[serde(default)]
    pub mesh: String,
}

/// What the piece is made of.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
pub struct Intake {
    /// The mesh.
    #[serde(default)]
    pub mesh: MeshSource,
    /// Settings of what is mended of it.
    #[serde(default, skip_serializing_if = "Settings::is_empty")]
    #[ts(as = "Option<Settings>", optional)]
    pub mending: Settings,
    /// What tells its parts apart.
    #[serde(default)]
    pub parts_by: PartsBy,
    /// How far apart two colours may lie and still be one part, as a share of the way from black to white.
    #[serde(default = "tolerance")]
    pub tolerance: f32,
    /// Parts that are named or shown otherwise than the file says, by the file's name.
    #[serde(default)]
    pub parts: BTreeMap<String, PartLook>,
    /// Pictures that were brought in.
    #[serde(default)]
    pub pictures: Vec<PictureUse>,
    /// A finer mesh whose relief the piece takes on.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub finer: Option<Finer>,
    /// What became of the parts in the last swap, until the artist has seen to it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub swapped: Option<Swapped>,
}

/// A finer mesh of the same thing.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, JsonSchema, TS)]
pub struct Finer {
    /// The mesh.
    pub mesh: MeshSource,
    /// How far from the piece it is looked for, in mm; none is a fiftieth of the piece's diagonal.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub cage: Option<f32>,
}

impl Finer {
    /// The cage distance on a piece, in mm.
    pub fn cage_on(&self, piece: &super::Piece) -> f32 {
        self.cage.unwrap_or(piece.diagonal() * 0.02)
    }
}

fn tolerance() -> f32 {
    0.12
}

impl Default for Intake {
    fn default() -> Self {
        Self {
            mesh: MeshSource::default(),
            mending: Settings::new(),
            parts_by: PartsBy::default(),
            tolerance: tolerance(),
            parts: BTreeMap::new(),
            pictures: vec![],
            finer: None,
            swapped: None,
        }
    }
}

/// What a picture is probably for, by the words in its file name: a purpose, or nothing.
pub fn guess_purpose(file: &str) -> &'static str {
    let stem = file.rsplit_once('.').map_or(file, |(s, _)| s).to_lowercase();
    let words: Vec<&str> = stem.split(|c: char| !c.is_alphanumeric()).collect();
    let has = |any: &[&str]| words.iter().any(|w| any.contains(w));
    if has(&["normal", "normals", "nrm", "nor"]) {
        "normal"
    } else if has(&["ao", "occlusion", "ambientocclusion"]) {
        "occlusion"
    } else if has(&["id", "ids", "parts", "matid"]) {
        "parts"
    } else if has(&["thickness"]) {
        "thickness"
    } else if has(&["curvature", "curv"]) {
        "curvature"
    } else {
        ""
    }
}

/// The sheet that a picture belongs to, by the sheet's name, UDIM number or part in its file name: empty where there is one sheet only, or none is named.
pub fn guess_sheet(file: &str, sheets: &[Sheet]) -> String {
    let stem = file.rsplit_once('.').map_or(file, |(s, _)| s);
    let numbers: Vec<&str> = stem.split(|c: char| !c.is_ascii_digit()).collect();
    let alone = |s: &&Sheet| sheets.iter().filter(|o| o.udim == s.udim).count() == 1;
    let by_name = sheets.iter().find(|s| s.name != s.udim.to_string() && stem.contains(&s.name));
    let by_part = || sheets.iter().find(|s| s.name.rsplit_once('.').is_some_and(|(part, _)| stem.starts_with(part)));
    let by_number = || sheets.iter().filter(alone).find(|s| numbers.contains(&s.udim.to_string().as_str()));
    match sheets.len() {
        0 | 1 => String::new(),
        _ => by_name.or_else(by_number).or_else(by_part).map(|s| s.name.clone()).unwrap_or_default(),
    }
}

/// What became of the parts when the mesh was last swapped.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, JsonSchema, TS)]
pub struct Swapped {
    /// File name of the mesh before.
    pub from: String,
    /// Parts of the mesh before that nothing in this one answers to.
    #[serde(default)]
    pub lost: Vec<String>,
    /// Parts that were matched by where they lie: the name they go by, and what the file calls them now.
    #[serde(default)]
    pub placed: Vec<(String, String)>,
    /// Parts of this mesh that the one before did not have.
    #[serde(default)]
    pub fresh: Vec<String>,
}

impl Swapped {
    /// Whether every part was matched by name.
    pub fn is_plain(&self) -> bool {
        self.lost.is_empty() && self.placed.is_empty() && self.fresh.is_empty()
    }
}

impl Intake {
    /// By what the parts of a piece can be told.
    pub fn ways(&self, piece: &Piece) -> Vec<PartsBy> {
        let picture = self.pictures.iter().any(|p| p.purpose == "parts");
        let ways = [
            (PartsBy::Materials, true),
            (PartsBy::Objects, piece.offers.objects),
            (PartsBy::Groups, piece.offers.groups),
            (PartsBy::Colors, !piece.colors.is_empty()),
            (PartsBy::Picture, picture),
        ];
        ways.into_iter().filter(|(way, there)| *there || *way == self.parts_by).map(|(way, _)| way).collect()
    }

    /// Whether what is marked of single parts counts: they are parts of the file, and not all is laid out anew.
    pub fn marks(&self) -> bool {
        self.parts_by.of_file() && !self.taking().mending.unwrap
    }

    /// The settings of mending that make a difference to a piece, and those that are set.
    pub fn mendable(&self, piece: &Piece) -> Vec<&'static str> {
        let kept = !self.taking().mending.unwrap;
        let matters = |key: &str| match key {
            "uv_set" => kept && piece.offers.uv_sets > 1,
            "tiles" => kept && piece.offers.tiled,
            _ => true,
        };
        let all = mend::specs().into_iter().map(|s| s.key);
        all.filter(|key| matters(key) || self.mending.contains_key(*key)).collect()
    }

    /// How its mesh is taken.
    pub fn taking(&self) -> Taking {
        let marked = self.parts.iter().filter(|(_, look)| look.unwrap).map(|(key, _)| key.clone()).collect();
        let sharing = self.parts.iter().filter_map(|(key, look)| Some((key.clone(), look.shared?))).collect();
        Taking {
            unit: self.mesh.unit,
            mending: Mending::new(&self.mending, marked).sharing(sharing),
            slots: self.parts_by.slots(),
        }
    }

    /// How its finer mesh is taken: as large, and with the same axis up.
    pub fn taking_finer(&self, finer: &Finer) -> Taking {
        Taking { unit: finer.mesh.unit, mending: self.taking().mending.of_shape(), ..Taking::default() }
    }

    /// Of a mesh alone.
    pub fn of_mesh(mesh: MeshSource) -> Self {
        Self { mesh, ..Self::default() }
    }

    /// The picture that serves a purpose on a sheet: the last one that was given it, and one for that sheet rather than one for all.
    pub fn picture_for(&self, purpose: &str, sheet: &str) -> Option<&PictureUse> {
        let serves = |of: &'_ str| self.pictures.iter().rev().find(|p| p.purpose == purpose && p.sheet == of);
        serves(sheet).or_else(|| serves(""))
    }

    /// Takes in a picture, in place of the same one. Masks know pictures by their file names: a newcomer whose name another picture has gets a number.
    pub fn add_picture(&mut self, mut picture: PictureUse) {
        self.pictures.retain(|p| p.hash != picture.hash);
        let (stem, extension) = picture.file.rsplit_once('.').map_or((picture.file.as_str(), ""), |(s, e)| (s, e));
        let numbered = |n: u32| match (n, extension) {
            (1, _) => picture.file.clone(),
            (n, "") => format!("{stem} {n}"),
            (n, extension) => format!("{stem} {n}.{extension}"),
        };
        picture.file = free(numbered, |name| self.pictures.iter().any(|p| p.file == name));
        self.pictures.push(picture);
    }

    /// The files it needs: blake3 and name, each once.
    pub fn files(&self) -> Vec<(&str, &str)> {
        let mut out = vec![];
        let meshes = std::iter::once(&self.mesh).chain(self.finer.iter().map(|f| &f.mesh));
        let all = meshes.map(|m| (&m.hash, &m.file)).chain(self.pictures.iter().map(|p| (&p.hash, &p.file)));
        for (hash, file) in all {
            if !hash.is_empty() && !out.iter().any(|(h, _)| h == hash) {
                out.push((hash.as_str(), file.as_str()));
            }
        }
        out
    }
}

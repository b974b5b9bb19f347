//! What a hand-off writes: which files, and what lies in each channel of them. Plain data; what the words in it mean is known to [`crate::handoff`].

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

use super::error::limits;
use crate::names::free;

/// What kind of file.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "lowercase")]
pub enum FileKind {
    /// Picture, 8 or 16 bits a channel.
    Png,
    /// Picture, 8 or 16 bits a channel.
    Tiff,
    /// Picture in floats of 16 or 32 bits, not cut to a range.
    Exr,
    /// The dressed piece with all that it needs inside.
    Glb,
    /// The same with its files beside it.
    Gltf,
    /// The material over the pictures.
    MaterialX,
    /// The piece with its material, over the pictures.
    Usd,
}

impl FileKind {
    /// All of them, in the order in which they are offered.
    pub const ALL: [FileKind; 7] = [
        FileKind::Png,
        FileKind::Tiff,
        FileKind::Exr,
        FileKind::Glb,
        FileKind::Gltf,
        FileKind::MaterialX,
        FileKind::Usd,
    ];

    /// What the artist reads.
    pub fn label(self) -> &'static str {
        match self {
            FileKind::Png => "PNG",
            FileKind::Tiff => "TIFF",
            FileKind::Exr => "EXR",
            FileKind::Glb => "GLB",
            FileKind::Gltf => "glTF",
            FileKind::MaterialX => "MaterialX",
            FileKind::Usd => "USD",
        }
    }

    /// The most channels that a file may have.
    pub fn most(self) -> usize {
        match self {
            FileKind::Exr => limits::SLOTS,
            FileKind::Png | FileKind::Tiff => 4,
            FileKind::Glb | FileKind::Gltf | FileKind::MaterialX | FileKind::Usd => 0,
        }
    }

    /// Whether its numbers are floats, which are never cut to a range nor encoded.
    pub fn is_float(self) -> bool {
        self == FileKind::Exr
    }

    /// Whether it is a picture.
    pub fn is_picture(self) -> bool {
        !self.depths().is_empty()
    }

    /// The bits a channel that it may have, the usual ones first; none where it is no picture.
    pub fn depths(self) -> &'static [u32] {
        match self {
            FileKind::Png | FileKind::Tiff => &[8, 16],
            FileKind::Exr => &[16, 32],
            FileKind::Glb | FileKind::Gltf | FileKind::MaterialX | FileKind::Usd => &[],
        }
    }
}

/// What lies in one channel of a picture.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
pub struct FileChannel {
    /// Where the number comes from: `roughness`, `base_color.g`, `normal.x`, `mask:Rust`, `published:chips`, `reading:edges`, or a number itself.
    pub from: String,
    /// Whether the least and the greatest change places.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[ts(as = "Option<bool>", optional)]
    pub invert: bool,
    /// The numbers that become 0 and 1, where they aren't the usual ones. In files of floats numbers stay as they are unless this is said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub range: Option<[f32; 2]>,
}

impl FileChannel {
    /// What comes from there, as it is.
    pub fn of(from: &str) -> FileChannel {
        FileChannel { from: from.into(), invert: false, range: None }
    }
}

/// One file for each sheet, or one for the piece.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
pub struct FileRow {
    /// What `{map}` becomes in its name.
    pub map: String,
    /// Its kind.
    pub kind: FileKind,
    /// Bits a channel; 0 where it is no picture.
    pub bits: u32,
    /// Whether its colours are sRGB-encoded; alpha never is, nor are floats.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[ts(as = "Option<bool>", optional)]
    pub srgb: bool,
    /// What lies in R, G, B and A; one alone is grey. An EXR may have more. None where it is no picture.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub slots: Vec<FileChannel>,
    /// Whether it is written.
    pub on: bool,
}

/// Which files are written of a piece, how they are named, and what lies in them.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
pub struct Layout {
    /// What the layout is called.
    pub name: String,
    /// Texture size in texels.
    pub size: u32,
    /// File name without extension: `{piece}`, `{sheet}`, `{map}`, `{size}` and `{variant}` are filled in.
    pub pattern: String,
    /// Height in mm that is white where heights are cut to a range; its negative counterpart is black.
    pub height_range: f32,
    /// The files.
    pub files: Vec<FileRow>,
}

impl Layout {
    /// A further file, to begin with: roughness, under a name that no other file has.
    pub fn fresh_file(&self) -> FileRow {
        let name = |n| if n == 1 { "picture".into() } else { format!("picture_{n}") };
        FileRow {
            map: free(name, |name| self.files.iter().any(|f| f.map == name)),
            kind: FileKind::Png,
            bits: 8,
            srgb: false,
            slots: vec![FileChannel::of("roughness")],
            on: true,
        }
    }

    /// The same in files of those kinds: pictures in each kind of picture that is among them, and the other files that are, whether or not they were ticked. Where no kind of picture
    /// is, those pictures are written that the other files want.
    pub fn in_kinds(&self, kinds: &[FileKind]) -> Layout {
        let mut files = vec![];
        for row in self.files.iter().filter(|r| r.kind.is_picture()) {
            for kind in kinds.iter().copied().filter(|k| k.is_picture()) {
                let fits = kind.depths().contains(&row.bits);
                let bits = if fits { row.bits } else { kind.depths()[0] };
                files.push(FileRow { kind, bits, srgb: row.srgb && kind != FileKind::Exr, ..row.clone() });
            }
        }
        for kind in kinds.iter().copied().filter(|k| !k.is_picture()) {
            let named = self.files.iter().find(|r| r.kind == kind).map(|r| r.map.clone());
            let usual = if kind == FileKind::MaterialX { "material" } else { "dressed" };
            let map = named.unwrap_or_else(|| usual.into());
            files.push(FileRow { map, kind, bits: 0, srgb: false, slots: vec![], on: true });
        }
        Layout { files, ..self.clone() }
    }
}

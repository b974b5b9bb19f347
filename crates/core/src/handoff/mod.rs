//! Hand-off: what the renderer or engine gets. PNG maps and a GLB with the material in it, named by a pattern.

mod bands;
pub mod exr;
pub mod png;

use serde::{Deserialize, Serialize};
use ts_rs::TS;

use crate::bake::Surface;
use crate::document::Document;
use crate::evaluate::texture::{self, GreenAxis};
use crate::evaluate::{Context, EvaluateError, Evaluation, LayerCoverage, evaluate};
use crate::mesh::write::{Dressing, glb};
use crate::mesh::{Piece, Sheet};
use crate::raster::{LARGEST_WHOLE, is_texture_size};

/// What is written, and how it is named.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct Layout {
    /// Texture size in texels.
    pub size: u32,
    /// File name without extension: `{piece}`, `{sheet}`, `{map}` and `{size}` are filled in.
    pub pattern: String,
    /// Which maps: `base_color`, `orm`, `normal`, `normal_y_down`, `height`, `glb`.
    pub maps: Vec<String>,
    /// Height in mm that is black in the height map; its negative counterpart is below neutral grey.
    pub height_range: f32,
}

impl Default for Layout {
    fn default() -> Self {
        Self {
            size: 1024,
            pattern: "{piece}_{sheet}_{map}".into(),
            maps: MAPS.iter().map(|m| m.0.to_owned()).collect(),
            height_range: 5.0,
        }
    }
}

/// Key, label, what its channels hold, bits, extension.
pub static MAPS: [(&str, &str, &str, u32, &str); 6] = [
    ("base_color", "Base color", "RGB · sRGB", 8, "png"),
    ("orm", "Occlusion, roughness, metallic", "R occlusion · G roughness · B metallic · linear", 8, "png"),
    ("normal", "Normal, Y+", "RGB · tangent space, green up (glTF)", 8, "png"),
    ("normal_y_down", "Normal, Y−", "RGB · tangent space, green down", 8, "png"),
    ("height", "Height", "grey · linear, mid-grey is the mesh's own surface", 16, "png"),
    ("glb", "Dressed piece", "mesh with base color, ORM and normal inside", 8, "glb"),
];

/// Why nothing could be written.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum HandoffError {
    /// A map that isn't.
    #[error("There is no map “{0}”; there are base_color, orm, normal, normal_y_down, height and glb.")]
    UnknownMap(String),
    /// A size that isn't.
    #[error("{0} is not a texture size; take a power of two from 64 to 8192.")]
    Size(u32),
    /// More texels than can be counted.
    #[error("{0} sheets of {1} × {1} texels are too many for one hand-off. Take a smaller size.")]
    TooMany(usize, u32),
    /// Two files of one name.
    #[error("The name pattern gives “{0}” to two files. Put {{map}} and {{sheet}} into the pattern.")]
    SameName(String),
    /// No maps at all.
    #[error("Nothing is chosen to be written. Tick at least one map.")]
    Nothing,
    /// A range that isn't.
    #[error("The height range must be from 0.01 to 100 mm.")]
    Range,
}

/// A file to be written.
#[derive(Debug, Clone, PartialEq, Serialize, TS)]
pub struct PlannedFile {
    /// Name of the sheet; of a file for the whole piece, of the first.
    pub sheet: String,
    /// Key of the map.
    pub map: String,
    /// What the artist reads.
    pub label: String,
    /// What its channels hold.
    pub channels: String,
    /// Side in texels.
    pub size: u32,
    /// Bits per channel.
    pub bits: u32,
    /// File name.
    pub name: String,
}

impl Layout {
    /// The files that will be written for a piece and its sheets.
    ///
    /// # Errors
    /// [`HandoffError`] with what to change.
    pub fn plan(&self, piece: &str, sheets: &[Sheet]) -> Result<Vec<PlannedFile>, HandoffError> {
        if !is_map_size(self.size) {
            return Err(HandoffError::Size(self.size));
        }
        if sheets.len() as u64 * u64::from(self.size).pow(2) > u64::from(u32::MAX) {
            return Err(HandoffError::TooMany(sheets.len(), self.size));
        }
        if !(0.01..=100.0).contains(&self.height_range) {
            return Err(HandoffError::Range);
        }
        let mut out: Vec<PlannedFile> = vec![];
        for wanted in &self.maps {
            let found = MAPS.iter().find(|m| m.0 == wanted);
            let (map, label, channels, bits, ext) = found.ok_or_else(|| HandoffError::UnknownMap(wanted.clone()))?;
            // The dressed piece is one file, whatever the number of its sheets.
            let (file, sheets) =
                if *map == "glb" { ("dressed", &sheets[..sheets.len().min(1)]) } else { (*map, sheets) };
            for sheet in sheets {
                let name = format!("{}.{ext}", self.name(piece, &sheet.name, file));
                if out.iter().any(|f| f.name == name) {
                    return Err(HandoffError::SameName(name));
                }
                out.push(PlannedFile {
                    sheet: sheet.name.clone(),
                    map: (*map).into(),
                    label: (*label).into(),
                    channels: (*channels).into(),
                    size: self.size,
                    bits: *bits,
                    name,
                });
            }
        }
        if out.is_empty() { Err(HandoffError::Nothing) } else { Ok(out) }
    }

    /// Fills the pattern in and makes it safe as a file name on every system.
    fn name(&self, piece: &str, sheet: &str, map: &str) -> String {
        let filled = self.pattern.chars().take(120).collect::<String>();
        let filled = filled.replace("{map}", map).replace("{sheet}", sheet);
        let filled = filled.replace("{size}", &self.size.to_string()).replace("{piece}", piece);
        let safe = |c: char| if c.is_alphanumeric() || "-_.+".contains(c) { c } else { '_' };
        let name: String = filled.chars().map(safe).take(150).collect();
        let name = name.trim_matches('.').to_owned();
        if name.is_empty() { map.to_owned() } else { name }
    }
}

/// Whether maps can be written at that many texels along a side: a power of two from 64 to 8192.
pub fn is_map_size(size: u32) -> bool {
    is_texture_size(size) || size == 2 * LARGEST_WHOLE
}

/// What is handed off: a document worked out on a surface.
pub struct Handoff<'a> {
    /// The document.
    pub document: &'a Document,
    /// What it is evaluated with; its surface has the layout's size, or [`LARGEST_WHOLE`] if that is larger: then files are written in bands.
    pub context: &'a Context<'a>,
    /// How.
    pub layout: &'a Layout,
    /// The files, as planned.
    pub files: &'a [PlannedFile],
    /// Occlusion of each covered texel; without it the packed map says that all is open.
    pub occlusion: Option<&'a [f32]>,
    /// Bytes that a band may take, where there are bands; [`BUDGET`](crate::evaluate::bands::BUDGET) is a good one.
    pub budget: usize,
}

impl Handoff<'_> {
    /// Writes the files: each is given to `each` when it is ready, sheet by sheet. Returns the coverage of the layers.
    ///
    /// # Errors
    /// [`EvaluateError`], and what `each` refuses.
    pub fn write<E: From<EvaluateError>>(
        &self,
        each: &mut dyn FnMut(&PlannedFile, Vec<u8>) -> Result<(), E>,
    ) -> Result<Vec<LayerCoverage>, E> {
        if self.layout.size > self.context.surface.atlas.size {
            return bands::write(self, each);
        }
        let e = evaluate(self.document, self.context)?;
        for file in self.files {
            self.context.cancel.check().map_err(EvaluateError::from)?;
            each(file, write(file, self.layout, self.context.surface, &e, self.occlusion))?;
        }
        Ok(e.coverage)
    }
}

/// The pictures that maps are made of, as bytes over all rows that a surface holds: RGBA8, but for the height, which is little-endian grey of 16 bits.
fn rows(map: &str, layout: &Layout, surface: &Surface, e: &Evaluation, occlusion: Option<&[f32]>) -> Vec<u8> {
    match map {
        "base_color" => texture::base_color(surface, e),
        "orm" => texture::orm(surface, e, occlusion),
        "normal" => texture::normal(surface, e, GreenAxis::Up),
        "normal_y_down" => texture::normal(surface, e, GreenAxis::Down),
        _ => {
            let scaled: Vec<f32> = e.channels["height"].iter().map(|h| 0.5 + h / (2.0 * layout.height_range)).collect();
            texture::grey16(surface, &scaled, 0.5)
        }
    }
}

/// How a map's values are to be read.
fn space(map: &str) -> png::Space {
    if map == "base_color" { png::Space::Srgb } else { png::Space::Linear }
}

/// The maps inside a dressed piece.
const DRESSING: [&str; 3] = ["base_color", "orm", "normal"];

/// The bytes of one planned file. `surface` is laid out at the layout's size.
pub fn write(
    file: &PlannedFile,
    layout: &Layout,
    surface: &Surface,
    e: &Evaluation,
    occlusion: Option<&[f32]>,
) -> Vec<u8> {
    let size = surface.atlas.size;
    let all = &surface.piece.sheets;
    let sheet = all.iter().position(|s| s.name == file.sheet).unwrap_or(0);
    let bytes = |map: &str| rows(map, layout, surface, e, occlusion);
    match file.map.as_str() {
        "height" => png::grey16(of_sheet(&bytes("height"), sheet, size, 2), size),
        "glb" => {
            let maps = DRESSING.map(bytes);
            let picture = |k: usize, s| png::rgb8(of_sheet(&maps[k], s, size, 4), size, space(DRESSING[k]));
            let pictures: Vec<[Vec<u8>; 3]> = (0..all.len()).map(|s| [0, 1, 2].map(|k| picture(k, s))).collect();
            dressed(&surface.piece, &pictures)
        }
        map => png::rgb8(of_sheet(&bytes(map), sheet, size, 4), size, space(map)),
    }
}

/// A piece with its pictures in it, sheet by sheet.
fn dressed(piece: &Piece, pictures: &[[Vec<u8>; 3]]) -> Vec<u8> {
    let dressings: Vec<Dressing> =
        pictures.iter().map(|[b, o, n]| Dressing { base_color: b, orm: o, normal: n }).collect();
    glb(piece, &dressings)
}

/// The bytes of one sheet out of those of all.
pub fn of_sheet(bytes: &[u8], sheet: usize, size: u32, texel: usize) -> &[u8] {
    let one = (size * size) as usize * texel;
    &bytes[sheet * one..(sheet + 1) * one]
}

//! Hand-off: what the renderer or engine gets. PNG maps and a GLB with the material in it, named by a pattern.

mod bands;
pub mod exr;
pub mod png;
pub mod sheet;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

use crate::bake::Surface;
use crate::document::Document;
use crate::evaluate::packing::{self, PACKED};
use crate::evaluate::texture::{self, GreenAxis};
use crate::evaluate::{Context, EvaluateError, Evaluation, Highest, LayerCoverage, evaluate_finely};
use crate::mesh::write::{Dressing, glb};
use crate::mesh::{Piece, Sheet};
use crate::raster::{LARGEST_WHOLE, is_texture_size};

/// What is written, and how it is named.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
pub struct Layout {
    /// Texture size in texels.
    pub size: u32,
    /// File name without extension: `{piece}`, `{sheet}`, `{map}` and `{size}` are filled in.
    pub pattern: String,
    /// Which maps, by their keys.
    pub maps: Vec<String>,
    /// Height in mm that is black in the height map; its negative counterpart is below neutral grey.
    pub height_range: f32,
}

impl Default for Layout {
    fn default() -> Self {
        Self {
            size: 1024,
            pattern: "{piece}_{sheet}_{map}".into(),
            maps: maps().map(|m| m.key.to_owned()).collect(),
            height_range: 5.0,
        }
    }
}

/// A kind of file that can be written.
#[derive(Debug, Clone, Copy)]
pub struct Map {
    /// Key.
    pub key: &'static str,
    /// What the artist reads.
    pub label: &'static str,
    /// What its channels hold.
    pub holds: &'static str,
    bits: u32,
    extension: &'static str,
}

static FIRST: [Map; 5] = [
    Map {
        key: "base_color",
        label: "Base color",
        holds: "RGB · sRGB, opacity in A if a coat lays it",
        bits: 8,
        extension: "png",
    },
    Map {
        key: "orm",
        label: "Occlusion, roughness, metallic",
        holds: "R occlusion · G roughness · B metallic · linear",
        bits: 8,
        extension: "png",
    },
    Map {
        key: "normal",
        label: "Normal, Y+",
        holds: "RGB · tangent space, green up (glTF)",
        bits: 8,
        extension: "png",
    },
    Map {
        key: "normal_y_down",
        label: "Normal, Y−",
        holds: "RGB · tangent space, green down",
        bits: 8,
        extension: "png",
    },
    Map {
        key: "height",
        label: "Height",
        holds: "grey · linear, mid-grey is the mesh's own surface",
        bits: 16,
        extension: "png",
    },
];
static LAST: Map = Map {
    key: "glb",
    label: "Dressed piece",
    holds: "mesh with its material and maps inside",
    bits: 8,
    extension: "glb",
};

/// All kinds of files, in the order they are offered. Those that pack further channels are only written if a coat lays one of these.
pub fn maps() -> impl Iterator<Item = Map> {
    let packed = PACKED.iter().map(|p| Map { key: p.key, label: p.label, holds: p.holds, bits: 8, extension: "png" });
    FIRST.iter().copied().chain(packed).chain([LAST])
}

/// Keys of the maps that pack channels which no coat lays: they can't be written.
pub fn unlaid(channels: &Highest) -> Vec<&'static str> {
    PACKED.iter().filter(|p| !p.is_among(|kind| channels.contains_key(kind))).map(|p| p.key).collect()
}

fn keys() -> String {
    maps().map(|m| m.key).collect::<Vec<_>>().join(", ")
}

/// Why nothing could be written.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum HandoffError {
    /// A map that isn't.
    #[error("There is no map “{0}”; there are: {keys}.", keys = keys())]
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
    /// The files that will be written for a piece and its sheets, if it has those channels.
    ///
    /// # Errors
    /// [`HandoffError`] with what to change.
    pub fn plan(&self, piece: &str, sheets: &[Sheet], channels: &Highest) -> Result<Vec<PlannedFile>, HandoffError> {
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
            let found = maps().find(|m| m.key == wanted);
            let map = found.ok_or_else(|| HandoffError::UnknownMap(wanted.clone()))?;
            if unlaid(channels).contains(&map.key) {
                continue;
            }
            // The dressed piece is one file, whatever the number of its sheets.
            let (file, sheets) =
                if map.key == "glb" { ("dressed", &sheets[..sheets.len().min(1)]) } else { (map.key, sheets) };
            for sheet in sheets {
                let name = format!("{}.{}", self.name(piece, &sheet.name, file), map.extension);
                if out.iter().any(|f| f.name == name) {
                    return Err(HandoffError::SameName(name));
                }
                out.push(PlannedFile {
                    sheet: sheet.name.clone(),
                    map: map.key.into(),
                    label: map.label.into(),
                    channels: map.holds.into(),
                    size: self.size,
                    bits: map.bits,
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
        let name = file_name(&filled);
        if name.is_empty() { map.to_owned() } else { name }
    }
}

/// A text as a file or folder may be called on every system; empty if nothing of it can stay.
pub fn file_name(text: &str) -> String {
    let safe = |c: char| if c.is_alphanumeric() || "-_.+".contains(c) { c } else { '_' };
    let name: String = text.chars().map(safe).take(150).collect();
    name.trim_matches('.').to_owned()
}

/// Whether maps can be written at that many texels along a side: a power of two from 64 to 8192.
pub fn is_map_size(size: u32) -> bool {
    is_texture_size(size) || size == 2 * LARGEST_WHOLE
}

/// The height that is to be white so that none from the least to the greatest, in mm, is cut off: rounded up to two places.
pub fn height_that_fits([low, high]: [f32; 2]) -> f32 {
    let reach = low.abs().max(high.abs()).clamp(0.01, 100.0);
    let place = libm::powf(10.0, libm::floorf(libm::log10f(reach)) - 1.0);
    // A number that is as short as it reads.
    let short = libm::ceilf(reach / place - 1e-3) * place;
    ((short * 1e4).round() / 1e4).clamp(0.01, 100.0)
}

/// Takes a file when it is ready.
pub type Each<'a, E> = &'a mut dyn FnMut(&PlannedFile, Vec<u8>) -> Result<(), E>;

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
    pub fn write<E: From<EvaluateError>>(&self, each: Each<E>) -> Result<Vec<LayerCoverage>, E> {
        if self.layout.size > self.context.surface.atlas.size {
            return bands::write(self, each);
        }
        let e = evaluate_finely(self.document, self.context)?;
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
        _ => match packing::find(map) {
            Some(packed) => packed.bytes(surface, e),
            None => {
                let scaled = e.channels["height"].iter().map(|h| 0.5 + h / (2.0 * layout.height_range));
                texture::grey16(surface, &scaled.collect::<Vec<f32>>(), 0.5)
            }
        },
    }
}

/// How the bytes of a map become a PNG; `see_through` says that the piece has an opacity.
fn form(map: &str, see_through: bool) -> png::Form {
    match packing::find(map) {
        _ if map == "height" => png::Form::Grey16,
        _ if map == "base_color" => png::Form::Color { srgb: true, alpha: see_through },
        Some(packed) => png::Form::Color { srgb: packed.srgb, alpha: packed.alpha },
        None => png::Form::Color { srgb: false, alpha: false },
    }
}

/// The maps inside a dressed piece.
fn dressing(highest: &Highest) -> Vec<&'static str> {
    let more = PACKED.iter().filter(|p| p.is_among(|kind| highest.contains_key(kind))).map(|p| p.key);
    ["base_color", "orm", "normal"].into_iter().chain(more).collect()
}

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
    let has = |kind: &str| e.channels.contains_key(kind);
    let picture = |map: &str, bytes: &[u8], sheet| {
        let form = form(map, has("opacity"));
        png::whole(of_sheet(bytes, sheet, size, form.bytes()), size, form)
    };
    let bytes = |map: &str| rows(map, layout, surface, e, occlusion);
    if file.map == "glb" {
        let inside = dressing(&e.highest);
        let all_bytes: Vec<Vec<u8>> = inside.iter().map(|map| bytes(map)).collect();
        let of = |s| inside.iter().zip(&all_bytes).map(|(map, bytes)| picture(map, bytes, s)).collect();
        let pictures: Vec<Vec<Vec<u8>>> = (0..all.len()).map(of).collect();
        return dressed(&surface.piece, &inside, &pictures, &e.highest);
    }
    picture(&file.map, &bytes(&file.map), all.iter().position(|s| s.name == file.sheet).unwrap_or(0))
}

/// A piece with its pictures in it, sheet by sheet.
fn dressed(piece: &Piece, maps: &[&'static str], pictures: &[Vec<Vec<u8>>], highest: &Highest) -> Vec<u8> {
    let factor = |map: &str| packing::find(map).map_or(1.0, |p| p.factor(highest));
    let dressing = Dressing {
        maps: maps.iter().map(|map| (*map, factor(map))).collect(),
        pictures,
        see_through: highest.contains_key("opacity"),
        body: highest.contains_key("thickness"),
        tint: highest.tint.map(|t| (t.color, t.distance)),
    };
    glb(piece, Some(&dressing))
}

/// The bytes of one sheet out of those of all.
pub fn of_sheet(bytes: &[u8], sheet: usize, size: u32, texel: usize) -> &[u8] {
    let one = (size * size) as usize * texel;
    &bytes[sheet * one..(sheet + 1) * one]
}

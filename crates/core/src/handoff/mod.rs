//! Hand-off: what the renderer or engine gets. PNG maps and a GLB with the material in it, named by a pattern.

pub mod exr;
pub mod png;

use serde::{Deserialize, Serialize};
use ts_rs::TS;

use crate::bake::Surface;
use crate::evaluate::Evaluation;
use crate::evaluate::texture::{self, GreenAxis};
use crate::mesh::Sheet;
use crate::mesh::write::{Dressing, glb};
use crate::raster::is_texture_size;

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
    #[error("{0} is not a texture size; take a power of two from 64 to 4096.")]
    Size(u32),
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
        if !is_texture_size(self.size) {
            return Err(HandoffError::Size(self.size));
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
    let rgb = |bytes: &[u8], sheet, space| png::rgb8(of_sheet(bytes, sheet, size, 4), size, space);
    let base_color = || texture::base_color(surface, e);
    let orm = || texture::orm(surface, e, occlusion);
    let normal = |green| texture::normal(surface, e, green);
    match file.map.as_str() {
        "base_color" => rgb(&base_color(), sheet, png::Space::Srgb),
        "orm" => rgb(&orm(), sheet, png::Space::Linear),
        "normal" => rgb(&normal(GreenAxis::Up), sheet, png::Space::Linear),
        "normal_y_down" => rgb(&normal(GreenAxis::Down), sheet, png::Space::Linear),
        "height" => {
            let scaled: Vec<f32> = e.channels["height"].iter().map(|h| 0.5 + h / (2.0 * layout.height_range)).collect();
            png::grey16(of_sheet(&texture::grey16(surface, &scaled, 0.5), sheet, size, 2), size)
        }
        _ => {
            let (base_color, orm, normal) = (base_color(), orm(), normal(GreenAxis::Up));
            let pictures: Vec<[Vec<u8>; 3]> = (0..all.len())
                .map(|s| {
                    let linear = |bytes| rgb(bytes, s, png::Space::Linear);
                    [rgb(&base_color, s, png::Space::Srgb), linear(&orm), linear(&normal)]
                })
                .collect();
            let dressings: Vec<Dressing> =
                pictures.iter().map(|[b, o, n]| Dressing { base_color: b, orm: o, normal: n }).collect();
            glb(&surface.piece, &dressings)
        }
    }
}

/// The bytes of one sheet out of those of all.
pub fn of_sheet(bytes: &[u8], sheet: usize, size: u32, texel: usize) -> &[u8] {
    let one = (size * size) as usize * texel;
    &bytes[sheet * one..(sheet + 1) * one]
}

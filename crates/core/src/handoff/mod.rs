//! Hand-off: what the renderer or engine gets. PNG maps and a GLB with the material in it, named by a pattern.

pub mod png;

use serde::{Deserialize, Serialize};
use ts_rs::TS;

use crate::bake::Surface;
use crate::evaluate::Evaluation;
use crate::evaluate::texture::{self, GreenAxis};
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

/// The number of the one UV square that there is so far.
pub const SHEET: u32 = 1001;

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
    #[error("The name pattern gives “{0}” to two files. Put {{map}} into the pattern.")]
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
    /// Sheet number.
    pub sheet: u32,
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
    /// The files that will be written for a piece.
    ///
    /// # Errors
    /// [`HandoffError`] with what to change.
    pub fn plan(&self, piece: &str) -> Result<Vec<PlannedFile>, HandoffError> {
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
            let name = format!("{}.{ext}", self.name(piece, if *map == "glb" { "dressed" } else { map }));
            if out.iter().any(|f| f.name == name) {
                return Err(HandoffError::SameName(name));
            }
            let (map, label, channels) = ((*map).into(), (*label).into(), (*channels).into());
            out.push(PlannedFile { sheet: SHEET, map, label, channels, size: self.size, bits: *bits, name });
        }
        if out.is_empty() { Err(HandoffError::Nothing) } else { Ok(out) }
    }

    /// Fills the pattern in and makes it safe as a file name on every system.
    fn name(&self, piece: &str, map: &str) -> String {
        let filled = self.pattern.chars().take(120).collect::<String>();
        let filled = filled.replace("{map}", map).replace("{sheet}", &SHEET.to_string());
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
    match file.map.as_str() {
        "base_color" => png::rgb8(&texture::base_color(surface, e), size, png::Space::Srgb),
        "orm" => png::rgb8(&texture::orm(surface, e, occlusion), size, png::Space::Linear),
        "normal" => png::rgb8(&texture::normal(surface, e, GreenAxis::Up), size, png::Space::Linear),
        "normal_y_down" => png::rgb8(&texture::normal(surface, e, GreenAxis::Down), size, png::Space::Linear),
        "height" => {
            let scaled: Vec<f32> = e.channels["height"].iter().map(|h| 0.5 + h / (2.0 * layout.height_range)).collect();
            png::grey16(&texture::grey16(surface, &scaled, 0.5), size)
        }
        _ => {
            let base_color = png::rgb8(&texture::base_color(surface, e), size, png::Space::Srgb);
            let orm = png::rgb8(&texture::orm(surface, e, occlusion), size, png::Space::Linear);
            let normal = png::rgb8(&texture::normal(surface, e, GreenAxis::Up), size, png::Space::Linear);
            glb(&surface.piece, Some(&Dressing { base_color: &base_color, orm: &orm, normal: &normal }))
        }
    }
}

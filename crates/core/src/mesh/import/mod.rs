//! Foreign mesh files into pieces. One file per format; the kind is told by content first, by name second.

mod gltf;
mod obj;

use super::{MeshError, Piece, Soup, Unit};

/// The most that is taken, checked before anything is allocated for it.
#[derive(Debug, Clone, Copy)]
pub struct MeshLimits {
    /// Bytes of the file.
    pub bytes: usize,
    /// Triangles.
    pub triangles: usize,
}

impl Default for MeshLimits {
    fn default() -> Self {
        Self { bytes: 512 << 20, triangles: 4_000_000 }
    }
}

/// Reads a mesh file. `unit` says how long one unit of the file is; `None` takes the format's own (glTF: metres, OBJ: millimetres).
///
/// # Errors
/// [`MeshError`] with what is wrong and what to do; never a panic, whatever the bytes.
pub fn import(name: &str, bytes: &[u8], unit: Option<Unit>, limits: MeshLimits) -> Result<Piece, MeshError> {
    if bytes.len() > limits.bytes {
        return Err(MeshError::TooLarge { what: "bytes", found: bytes.len(), limit: limits.bytes });
    }
    let mut soup = read(name, bytes, unit, limits)?;
    let stem = name.rsplit(['/', '\\']).next().unwrap_or(name);
    soup.name = stem.rsplit_once('.').map_or(stem, |(s, _)| s).to_owned();
    Piece::build(soup)
}

fn read(name: &str, bytes: &[u8], unit: Option<Unit>, limits: MeshLimits) -> Result<Soup, MeshError> {
    let lower = name.to_ascii_lowercase();
    let looks_json = bytes.iter().find(|b| !b.is_ascii_whitespace()) == Some(&b'{');
    if bytes.starts_with(b"glTF") || (looks_json && !lower.ends_with(".obj")) {
        return gltf::read(bytes, unit.unwrap_or(Unit::M).millimetres(), limits);
    }
    if lower.ends_with(".obj") {
        return obj::read(bytes, unit.unwrap_or(Unit::Mm).millimetres(), limits);
    }
    Err(MeshError::UnknownKind { name: name.to_owned() })
}

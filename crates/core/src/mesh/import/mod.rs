//! Foreign mesh files into pieces. One file per format; the kind is told by content first, by name second.

mod folder;
mod gltf;
mod gltf_json;
mod obj;
mod ply;
mod size;
mod stl;
mod text;

pub use folder::{Folder, within};
pub use size::{SizeInUnit, sizes};

use folder::extension;

use super::mend::Taking;
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

/// A picture that came with a mesh file.
#[derive(Debug, Clone, PartialEq)]
pub struct FoundPicture {
    /// Its file name, or the name of its material and use.
    pub name: String,
    /// What the mesh file uses it for: `normal`, `occlusion`, or nothing said.
    pub purpose: Option<&'static str>,
    /// The file.
    pub bytes: Vec<u8>,
}

/// Reads a mesh file, or a ZIP of a mesh and what belongs to it. `taking` says how long one unit of the file is, where none is the format's own
/// (glTF: metres, others: millimetres), and what is mended of it.
///
/// # Errors
/// [`MeshError`] with what is wrong and what to do; never a panic, whatever the bytes.
pub fn import(name: &str, bytes: &[u8], taking: impl Into<Taking>, limits: MeshLimits) -> Result<Piece, MeshError> {
    let Taking { unit, mending } = taking.into();
    let soup = open(name, bytes, limits, |name, bytes, folder| read(name, bytes, folder, unit, limits))?;
    Piece::build_mended(named(soup, name), &mending)
}

/// Reads the mesh at a path of a folder, with what it names beside it.
///
/// # Errors
/// As [`import`].
pub fn import_in(
    folder: &Folder,
    path: &str,
    taking: impl Into<Taking>,
    limits: MeshLimits,
) -> Result<Piece, MeshError> {
    let Taking { unit, mending } = taking.into();
    let bytes = folder.file(path).ok_or(MeshError::NoMesh)?;
    Piece::build_mended(named(read(path, bytes, folder, unit, limits)?, path), &mending)
}

fn named(soup: Soup, file: &str) -> Soup {
    let stem = file.rsplit(['/', '\\']).next().unwrap_or(file);
    Soup { name: stem.rsplit_once('.').map_or(stem, |(s, _)| s).to_owned(), ..soup }
}

/// Reads a mesh file for its shape alone: corners with normals, no UVs made, nothing told of it.
///
/// # Errors
/// As [`import`].
pub fn bare(name: &str, bytes: &[u8], taking: impl Into<Taking>, limits: MeshLimits) -> Result<Soup, MeshError> {
    let Taking { unit, mending } = taking.into();
    open(name, bytes, limits, |name, bytes, folder| read(name, bytes, folder, unit, limits))?.cleaned(&mending)
}

/// The pictures that come with a mesh file: those of the ZIP, or those inside a glTF.
///
/// # Errors
/// As [`import`].
pub fn pictures(name: &str, bytes: &[u8], limits: MeshLimits) -> Result<Vec<FoundPicture>, MeshError> {
    open(name, bytes, limits, |name, bytes, folder| {
        let mut found = if is_gltf(name, bytes) { gltf::pictures(name, bytes, folder)? } else { vec![] };
        let file = |path: &str| path.rsplit('/').next().unwrap_or(path).to_owned();
        for (path, bytes) in folder.pictures() {
            if !found.iter().any(|f| f.bytes == bytes) {
                found.push(FoundPicture { name: file(path), purpose: None, bytes: bytes.to_vec() });
            }
        }
        Ok(found)
    })
}

/// Opens a file or a ZIP and hands on the mesh in it, with what lies beside it.
fn open<T>(
    name: &str,
    bytes: &[u8],
    limits: MeshLimits,
    then: impl FnOnce(&str, &[u8], &Folder) -> Result<T, MeshError>,
) -> Result<T, MeshError> {
    if bytes.len() > limits.bytes {
        return Err(MeshError::TooLarge { what: "bytes", found: bytes.len(), limit: limits.bytes });
    }
    if !bytes.starts_with(b"PK\x03\x04") {
        return then(name, bytes, &Folder::default());
    }
    let folder = Folder::unzip(bytes, limits)?;
    let (path, mesh) = folder.mesh()?;
    then(path, mesh, &folder)
}

fn unreadable(why: impl ToString) -> MeshError {
    MeshError::Unreadable { why: why.to_string() }
}

/// The files beside it that a mesh file names, as it names them: buffers and pictures of a glTF, the libraries of an OBJ. A ZIP has them in it, and names none.
pub fn names_beside(name: &str, bytes: &[u8]) -> Vec<String> {
    match extension(name).as_str() {
        "obj" => obj::names_beside(bytes),
        _ if is_gltf(name, bytes) => gltf::names_beside(bytes),
        _ => vec![],
    }
}

fn is_gltf(name: &str, bytes: &[u8]) -> bool {
    let looks_json = bytes.iter().find(|b| !b.is_ascii_whitespace()) == Some(&b'{');
    bytes.starts_with(b"glTF") || (looks_json && !name.to_ascii_lowercase().ends_with(".obj"))
}

fn read(name: &str, bytes: &[u8], folder: &Folder, unit: Option<Unit>, limits: MeshLimits) -> Result<Soup, MeshError> {
    if is_gltf(name, bytes) {
        return gltf::read(name, bytes, folder, unit.unwrap_or(Unit::M).millimetres(), limits);
    }
    let scale = unit.unwrap_or(Unit::Mm).millimetres();
    match extension(name).as_str() {
        "obj" => obj::read(name, bytes, folder, scale, limits),
        "ply" => ply::read(bytes, scale, limits),
        "stl" => stl::read(bytes, scale, limits),
        _ if bytes.starts_with(b"ply") => ply::read(bytes, scale, limits),
        _ => Err(MeshError::UnknownKind { name: name.to_owned() }),
    }
}

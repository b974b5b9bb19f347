//! Foreign mesh files into pieces. One file per format; the kind is told by content first, by name second.

mod folder;
mod gltf;
mod gltf_json;
mod obj;
mod packed;
mod ply;
mod polygon;
mod size;
mod stl;
mod text;
mod usd;

pub use folder::{Folder, within};
pub use size::{SizeInUnit, sizes};

use folder::extension;

use super::build::check_finite;
use super::mend::Taking;
pub use super::soup::Slots;
use super::{Finding, MeshError, Piece, Soup, Unit};
use crate::task::{OnProgress, silent};

/// Endings of files that are layers of USD.
const EXTENSIONS_USD: [&str; 3] = ["usd", "usda", "usdc"];

/// The most that is taken, checked before anything is allocated for it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
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

/// How a file is read.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Reading {
    /// Millimetres in one unit, where the file doesn't say it itself.
    scale: f32,
    /// The set of UVs that is taken, from 0 on, where there are as many.
    uv_set: u32,
    slots: Slots,
    limits: MeshLimits,
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
    import_watched(name, bytes, taking, limits, &silent)
}

/// Share of the work that reading a file is; the rest is building the piece of it.
const READING: f32 = 0.06;

/// As [`import`], told of as it goes on: what is done, and the share of the whole.
///
/// # Errors
/// As [`import`].
pub fn import_watched(
    name: &str,
    bytes: &[u8],
    taking: impl Into<Taking>,
    limits: MeshLimits,
    on: OnProgress,
) -> Result<Piece, MeshError> {
    let taking = taking.into();
    on("Reading", 0.0);
    let soup = open(name, bytes, limits, |name, bytes, folder| read(name, bytes, folder, &taking, limits))?;
    let building = |what: &str, share: f32| on(what, READING + (1.0 - READING) * share);
    Piece::build_watched(named(soup, name), &taking.mending, &building)
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
    let taking = taking.into();
    let bytes = folder.file(path).ok_or(MeshError::NoMesh)?;
    Piece::build_mended(named(read(path, bytes, folder, &taking, limits)?, path), &taking.mending)
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
    let taking = taking.into();
    open(name, bytes, limits, |name, bytes, folder| read(name, bytes, folder, &taking, limits))?
        .cleaned(&taking.mending)
}

/// The corners of a mesh file as they are written, only looked through.
///
/// # Errors
/// As [`import`].
fn corners(name: &str, bytes: &[u8], unit: Option<Unit>, limits: MeshLimits) -> Result<Soup, MeshError> {
    let taking = Taking::from(unit);
    let soup = open(name, bytes, limits, |name, bytes, folder| read(name, bytes, folder, &taking, limits))?;
    check_finite(&soup)?;
    if soup.is_empty() { Err(MeshError::Empty) } else { Ok(soup) }
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
    let folder = Folder::unzip(bytes, limits)?.rooted(extension(name) == "usdz");
    let (path, mesh) = folder.mesh()?;
    then(path, mesh, &folder)
}

fn unreadable(why: impl ToString) -> MeshError {
    MeshError::Unreadable { why: why.to_string() }
}

/// Runs a crate that takes numbers in a file by their word, so that some damaged files make it panic. Nothing of ours is changed half-way: a reader only makes new values.
fn guarded<T>(work: impl FnOnce() -> Result<T, MeshError>) -> Result<T, MeshError> {
    let result = std::panic::catch_unwind(std::panic::AssertUnwindSafe(work));
    result.unwrap_or_else(|_| Err(unreadable("it refers to something that it doesn't hold")))
}

/// The files beside it that a mesh file names, as it names them: buffers and pictures of a glTF, the libraries of an OBJ, what a layer of USD names. A ZIP has them in it, and names none.
pub fn names_beside(name: &str, bytes: &[u8]) -> Vec<String> {
    match extension(name).as_str() {
        "obj" => obj::names_beside(bytes),
        _ if usd::is_layer(name, bytes) => usd::names_beside(bytes),
        _ if is_gltf(name, bytes) => gltf::names_beside(bytes),
        _ => vec![],
    }
}

/// Whether a file that is no glTF says how long its unit is.
fn says_its_unit(name: &str, bytes: &[u8]) -> bool {
    usd::is_layer(name, bytes) || extension(name) == "usdz"
}

fn is_gltf(name: &str, bytes: &[u8]) -> bool {
    let looks_json = bytes.iter().find(|b| !b.is_ascii_whitespace()) == Some(&b'{');
    bytes.starts_with(b"glTF") || (looks_json && !name.to_ascii_lowercase().ends_with(".obj"))
}

fn read(name: &str, bytes: &[u8], folder: &Folder, taking: &Taking, limits: MeshLimits) -> Result<Soup, MeshError> {
    let reading = |usual: Unit| {
        let scale = taking.unit.unwrap_or(usual).millimetres();
        Reading { scale, uv_set: taking.mending.uv_set, slots: taking.slots, limits }
    };
    let mut soup = if is_gltf(name, bytes) {
        gltf::read(name, bytes, folder, &reading(Unit::M))
    } else if usd::is_layer(name, bytes) {
        usd::read(name, bytes, folder, &reading(Unit::Cm), taking.unit)
    } else {
        let reading = reading(Unit::Mm);
        match extension(name).as_str() {
            "obj" => obj::read(name, bytes, folder, &reading),
            "ply" => ply::read(bytes, &reading),
            "stl" => stl::read(bytes, &reading),
            _ if bytes.starts_with(b"ply") => ply::read(bytes, &reading),
            _ => Err(MeshError::UnknownKind { name: name.to_owned() }),
        }
    }?;
    let sets = soup.offers.uv_sets;
    if sets > 1 {
        soup.findings.push(Finding {
            serious: false,
            what: format!("The file has {sets} sets of UVs; set {} is taken.", taking.mending.uv_set.min(sets - 1)),
            remedy: "Choose another under Mending if that is not the one.".into(),
        });
    }
    if !taking.slots.are_in(soup.offers) {
        let what = if taking.slots == Slots::Groups { "groups" } else { "objects" };
        soup.findings.push(Finding {
            serious: false,
            what: format!("Parts are to be told by {what}, but the file doesn’t tell several apart."),
            remedy: "They are told by its materials instead.".into(),
        });
    }
    Ok(soup)
}

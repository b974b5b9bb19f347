//! Packages: `.dustcoat` projects and `.coatrecipe` recipes as ZIP files.
//!
//! `document.json` or `recipe.json`, `assets/<blake3>.<ext>` and `preview.png`. Documented in `docs/formats.md`.

use std::collections::BTreeMap;
use std::io::{Cursor, Read, Write};

use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};
use zip::write::SimpleFileOptions;
use zip::{ZipArchive, ZipWriter};

use super::Recipe;
use crate::document::{self, Document, EditError, HoldsStrokes};
use crate::mesh::MeshSource;
use crate::names::free;

/// The most a package may hold, checked before anything is unpacked.
#[derive(Debug, Clone, Copy)]
pub struct PackageLimits {
    /// Bytes of the document or recipe.
    pub json: u64,
    /// Bytes of the mesh and of each picture.
    pub mesh: u64,
    /// Entries.
    pub entries: usize,
}

impl Default for PackageLimits {
    fn default() -> Self {
        Self { json: 16 << 20, mesh: 512 << 20, entries: 4096 }
    }
}

/// Why a package was refused.
#[derive(Debug, thiserror::Error)]
pub enum PackageError {
    /// Not a ZIP, or a broken one.
    #[error("The file is not a {wanted} package, or it was cut off: {why}. Copy or export it again.")]
    NotAPackage {
        /// `.dustcoat` or `.coatrecipe`.
        wanted: &'static str,
        /// The reader's words.
        why: String,
    },
    /// A file that should be inside is not.
    #[error("The package holds no “{name}”. Export it again from Dust Coat.")]
    Missing {
        /// Its path.
        name: String,
    },
    /// Past a limit.
    #[error("“{name}” in the package is larger than {limit} bytes, the most that is taken.")]
    TooLarge {
        /// Its path.
        name: String,
        /// The limit.
        limit: u64,
    },
    /// JSON that is none, or of another shape.
    #[error("“{name}” in the package can't be read: {why}. It may be of another version, or edited by hand.")]
    Json {
        /// Its path.
        name: &'static str,
        /// The parser's words.
        why: String,
    },
    /// A valid shape with invalid content.
    #[error("{0}")]
    Invalid(#[from] EditError),
    /// A file is not what the package says.
    #[error(
        "A mesh or picture in the package is not the one it was packed with; the file is damaged. Copy or export it again."
    )]
    Damaged,
}

/// A project as its `document.json` holds it; packages of `dustcoat/1` name the mesh beside the document.
#[derive(Serialize, Deserialize)]
struct ProjectFile {
    #[serde(flatten)]
    document: Document,
    #[serde(default, skip_serializing)]
    mesh: Option<MeshSource>,
}

/// A project as a file holds it.
#[derive(Debug, Clone, PartialEq)]
pub struct Project {
    /// The document.
    pub document: Document,
    /// The files that its intake names, by blake3.
    pub files: BTreeMap<String, Vec<u8>>,
}

fn broken(wanted: &'static str) -> impl Fn(zip::result::ZipError) -> PackageError {
    move |e| PackageError::NotAPackage { wanted, why: e.to_string() }
}

fn open<'a>(
    bytes: &'a [u8],
    wanted: &'static str,
    limits: PackageLimits,
) -> Result<ZipArchive<Cursor<&'a [u8]>>, PackageError> {
    let archive = ZipArchive::new(Cursor::new(bytes)).map_err(broken(wanted))?;
    if archive.len() > limits.entries {
        return Err(PackageError::NotAPackage { wanted, why: format!("it holds {} files", archive.len()) });
    }
    Ok(archive)
}

fn entry(archive: &mut ZipArchive<Cursor<&[u8]>>, name: &str, limit: u64) -> Result<Vec<u8>, PackageError> {
    let file = archive.by_name(name).map_err(|_| PackageError::Missing { name: name.into() })?;
    let too_large = || PackageError::TooLarge { name: name.into(), limit };
    if file.size() > limit {
        return Err(too_large());
    }
    let mut out = Vec::new();
    // The size in the directory may lie; the reader is stopped one byte past the limit.
    let read = file.take(limit + 1).read_to_end(&mut out);
    read.map_err(|e| PackageError::NotAPackage { wanted: "Dust Coat", why: e.to_string() })?;
    if out.len() as u64 > limit { Err(too_large()) } else { Ok(out) }
}

fn parse<T: DeserializeOwned>(name: &'static str, bytes: &[u8]) -> Result<T, PackageError> {
    serde_json::from_slice(bytes).map_err(|e| PackageError::Json { name, why: e.to_string() })
}

fn pack(files: &[(String, &[u8])]) -> Vec<u8> {
    let mut out = ZipWriter::new(Cursor::new(Vec::new()));
    // No time stamps: the same content gives the same bytes.
    let options = SimpleFileOptions::default().last_modified_time(zip::DateTime::default());
    for (name, bytes) in files {
        out.start_file(name, options).expect("writing to memory does not fail");
        out.write_all(bytes).expect("writing to memory does not fail");
    }
    out.finish().expect("writing to memory does not fail").into_inner()
}

fn json(value: &impl Serialize) -> Vec<u8> {
    serde_json::to_vec_pretty(value).expect("documents hold nothing that JSON can't")
}

/// Writes a `.coatrecipe`.
pub fn write_recipe(recipe: &Recipe, preview: Option<&[u8]>) -> Vec<u8> {
    let text = json(recipe);
    let drawn = document::points_files(recipe);
    let mut files = vec![("recipe.json".to_owned(), text.as_slice())];
    files.extend(drawn.iter().map(|(hash, bytes)| (asset_path(hash, POINTS_FILE), bytes.as_slice())));
    files.extend(preview.map(|p| ("preview.png".to_owned(), p)));
    pack(&files)
}

/// Reads a `.coatrecipe`.
///
/// # Errors
/// [`PackageError`] with what is wrong.
pub fn read_recipe(bytes: &[u8], limits: PackageLimits) -> Result<Recipe, PackageError> {
    let mut archive = open(bytes, ".coatrecipe", limits)?;
    let mut recipe: Recipe = parse("recipe.json", &entry(&mut archive, "recipe.json", limits.json)?)?;
    recipe.check()?;
    hold_packed(&mut recipe, &mut archive, limits)?;
    Ok(recipe.with_slots())
}

/// Writes several recipes as one ZIP of `.coatrecipe` files.
pub fn write_recipes(recipes: &[Recipe]) -> Vec<u8> {
    let mut files: BTreeMap<String, Vec<u8>> = BTreeMap::new();
    for recipe in recipes {
        let name = crate::handoff::file_name(&recipe.name);
        let numbered = |i| if i == 1 { format!("{name}.coatrecipe") } else { format!("{name} {i}.coatrecipe") };
        files.insert(free(numbered, |n| files.contains_key(n)), write_recipe(recipe, None));
    }
    let files: Vec<(String, &[u8])> = files.iter().map(|(name, bytes)| (name.clone(), bytes.as_slice())).collect();
    pack(&files)
}

/// Reads a `.coatrecipe`, or a ZIP of several.
///
/// # Errors
/// [`PackageError`] with what is wrong with the first one that can't be read.
pub fn read_recipes(bytes: &[u8], limits: PackageLimits) -> Result<Vec<Recipe>, PackageError> {
    let mut archive = open(bytes, ".coatrecipe", limits)?;
    let names = archive.file_names().filter_map(|n| Some(n.ok()?.into_owned()));
    let inside: Vec<String> = names.filter(|n| n.to_lowercase().ends_with(".coatrecipe")).collect();
    if inside.is_empty() {
        return Ok(vec![read_recipe(bytes, limits)?]);
    }
    inside.iter().map(|name| read_recipe(&entry(&mut archive, name, limits.json)?, limits)).collect()
}

/// Writes a `.dustcoat`. Files that the intake names and the project doesn't hold are left out.
pub fn write_project(project: &Project, preview: Option<&[u8]>) -> Vec<u8> {
    let text = json(&ProjectFile { document: project.document.clone(), mesh: None });
    let mut files = vec![("document.json".to_owned(), text.as_slice())];
    for (hash, file) in project.document.files() {
        files.extend(project.files.get(hash).map(|bytes| (asset_path(hash, file), bytes.as_slice())));
    }
    let drawn = document::points_files(&project.document);
    files.extend(drawn.iter().map(|(hash, bytes)| (asset_path(hash, POINTS_FILE), bytes.as_slice())));
    files.extend(preview.map(|p| ("preview.png".to_owned(), p)));
    pack(&files)
}

/// What a file of a stroke's points is called.
const POINTS_FILE: &str = "points.stroke";

fn asset_path(hash: &str, file: &str) -> String {
    let ext = file.rsplit_once('.').map_or("bin", |(_, e)| e);
    let safe: String = ext.chars().filter(char::is_ascii_alphanumeric).take(8).collect();
    format!("assets/{hash}.{}", safe.to_ascii_lowercase())
}

/// Reads a `.dustcoat`, also of `dustcoat/1`.
///
/// # Errors
/// [`PackageError`] with what is wrong.
pub fn read_project(bytes: &[u8], limits: PackageLimits) -> Result<Project, PackageError> {
    let mut archive = open(bytes, ".dustcoat", limits)?;
    let file: ProjectFile = parse("document.json", &entry(&mut archive, "document.json", limits.json)?)?;
    let mut document = file.document;
    if let Some(mesh) = file.mesh {
        document.intake.mesh = mesh;
    }
    document::upgrade(&mut document);
    document::check(&document)?;
    let mut files = BTreeMap::new();
    for (hash, name) in document.files() {
        let content = entry(&mut archive, &asset_path(hash, name), limits.mesh)?;
        if blake3::hash(&content).to_hex().as_str() != hash {
            return Err(PackageError::Damaged);
        }
        files.insert(hash.to_owned(), content);
    }
    if !files.contains_key(&document.intake.mesh.hash) {
        return Err(PackageError::Missing { name: "assets/<mesh>".into() });
    }
    hold_packed(&mut document, &mut archive, limits)?;
    Ok(Project { document, files })
}

/// Takes in the points of strokes that are packed with a document or a recipe. Those that were gone when it was written draw nothing, here as there.
fn hold_packed(
    of: &mut impl HoldsStrokes,
    archive: &mut ZipArchive<Cursor<&[u8]>>,
    limits: PackageLimits,
) -> Result<(), PackageError> {
    let mut damaged = false;
    document::hold_points(of, &mut |hash| {
        let content = entry(archive, &asset_path(hash, POINTS_FILE), limits.json).ok()?;
        damaged |= blake3::hash(&content).to_hex().as_str() != hash;
        Some(content)
    });
    if damaged { Err(PackageError::Damaged) } else { Ok(()) }
}

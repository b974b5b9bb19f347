//! A mesh with the files that belong to it: material libraries, buffers, pictures. It comes as a ZIP, also when a folder was dropped.

use std::collections::BTreeMap;
use std::io::{Cursor, Read};

use super::{EXTENSIONS_USD, MeshError, MeshLimits, unreadable, usd};

/// Files beside a mesh, by their path in the ZIP, `/` between folders.
#[derive(Debug, Default, Clone)]
pub struct Folder {
    files: BTreeMap<String, Vec<u8>>,
    /// The file that all others belong to, where that is known.
    root: Option<String>,
}

const MESHES: [&str; 8] = ["glb", "gltf", "obj", "ply", "stl", "usd", "usda", "usdc"];
const PICTURES: [&str; 8] = ["png", "jpg", "jpeg", "webp", "tif", "tiff", "exr", "hdr"];
const MAX_FILES: usize = 4096;

pub(super) fn extension(path: &str) -> String {
    path.rsplit_once('.').map_or(String::new(), |(_, e)| e.to_ascii_lowercase())
}

impl Folder {
    /// Files that are at hand already, by their paths.
    pub fn of(files: BTreeMap<String, Vec<u8>>) -> Folder {
        Folder { files, root: None }
    }

    /// One of its files.
    pub fn file(&self, path: &str) -> Option<&[u8]> {
        self.files.get(path).map(Vec::as_slice)
    }

    /// All of them.
    pub(super) fn all(&self) -> &BTreeMap<String, Vec<u8>> {
        &self.files
    }

    /// Unpacks a ZIP.
    ///
    /// # Errors
    /// [`MeshError`] when it is none, is damaged, or holds more than the limits allow once unpacked.
    pub fn unzip(bytes: &[u8], limits: MeshLimits) -> Result<Folder, MeshError> {
        let mut archive = zip::ZipArchive::new(Cursor::new(bytes)).map_err(unreadable)?;
        if archive.len() > MAX_FILES {
            return Err(MeshError::TooLarge { what: "files", found: archive.len(), limit: MAX_FILES });
        }
        let (mut files, mut total, mut root) = (BTreeMap::new(), 0, None);
        for i in 0..archive.len() {
            let file = archive.by_index(i).map_err(unreadable)?;
            // Hidden files and those that other systems leave behind say nothing of the mesh.
            let path = file.name().map_err(unreadable)?.replace('\\', "/");
            if file.is_dir() || path.split('/').any(|p| p.starts_with('.') || p == "__MACOSX") {
                continue;
            }
            let mut content = Vec::new();
            let left = (limits.bytes - total) as u64;
            file.take(left + 1).read_to_end(&mut content).map_err(unreadable)?;
            total += content.len();
            if total > limits.bytes {
                return Err(MeshError::TooLarge { what: "bytes, unpacked,", found: total, limit: limits.bytes });
            }
            if files.is_empty() {
                root = Some(path.clone());
            }
            files.insert(path, content);
        }
        Ok(Folder { files, root })
    }

    /// With its first file as the one that all others belong to, or with none: so it is in a `.usdz`.
    pub(super) fn rooted(self, first: bool) -> Folder {
        let root = self.root.filter(|r| first && EXTENSIONS_USD.contains(&extension(r).as_str()));
        Folder { root, ..self }
    }

    /// The mesh in it: of several, the one with the most bytes that no layer of USD names.
    ///
    /// # Errors
    /// [`MeshError::NoMesh`] when there is none.
    pub fn mesh(&self) -> Result<(&str, &[u8]), MeshError> {
        if let Some(root) = &self.root {
            return Ok((root, &self.files[root]));
        }
        let named: Vec<String> = self
            .files
            .iter()
            .flat_map(|(at, b)| usd::names_beside(b).into_iter().filter_map(|n| within(at, &n)))
            .collect();
        let is_mesh = |path: &&String| MESHES.contains(&extension(path).as_str()) && !named.contains(path);
        let largest = self.files.keys().filter(is_mesh).max_by_key(|p| (self.files[*p].len(), std::cmp::Reverse(*p)));
        let path = largest.ok_or(MeshError::NoMesh)?;
        Ok((path, &self.files[path]))
    }

    /// The pictures in it, by path.
    pub fn pictures(&self) -> impl Iterator<Item = (&str, &[u8])> {
        let pictures = self.files.iter().filter(|(path, _)| PICTURES.contains(&extension(path).as_str()));
        pictures.map(|(path, bytes)| (path.as_str(), bytes.as_slice()))
    }

    /// The file that `beside` (a path in the folder) names as `uri`, relative to its own place. None when there is none, or when it points out of
    /// the folder.
    pub fn beside(&self, beside: &str, uri: &str) -> Option<&[u8]> {
        self.file(&within(beside, uri)?)
    }
}

/// The path in a folder that a file at `beside` names as `uri`, relative to its own place. None when it points out of the folder.
pub fn within(beside: &str, uri: &str) -> Option<String> {
    let uri = percent_encoding::percent_decode_str(uri).decode_utf8().ok()?.replace('\\', "/");
    if uri.starts_with('/') || uri.contains(':') {
        return None;
    }
    let mut parts: Vec<&str> = beside.split('/').collect();
    parts.pop();
    for part in uri.split('/') {
        match part {
            "" | "." => {}
            ".." => _ = parts.pop()?,
            name => parts.push(name),
        }
    }
    Some(parts.join("/"))
}

//! Mesh files on the command line: a file with what it names beside it, a folder, or a ZIP.

use std::collections::BTreeMap;
use std::path::Path;

use clap::Args;
use dustcoat_core::mesh::import::{Folder, MeshLimits, Slots, import, import_in, names_beside, within};
use dustcoat_core::mesh::mend::{self, Mending, Sharing, Taking};
use dustcoat_core::mesh::{MeshError, Piece, Unit};
use dustcoat_core::setting::Settings;

use super::given::{app, assignment, file_name, setting};
use super::{CliError, io, read, unit};

/// How a mesh is taken.
#[derive(Args)]
pub struct TakingArgs {
    /// Unit of the mesh file; OBJ is millimetres and glTF metres if not given.
    #[arg(long, value_parser = unit)]
    unit: Option<Unit>,
    /// What is mended of the mesh, such as up=z, scale=2, weld=0.1, winding=one, unwrap=all or faces=flat.
    #[arg(long = "mend", value_name = "SETTING=VALUE")]
    mending: Vec<String>,
    /// A part whose UVs are laid out anew, on a sheet of its own with others that are.
    #[arg(long = "unwrap", value_name = "PART")]
    unwrap: Vec<String>,
    /// What of the file tells the parts: materials, objects or groups.
    #[arg(long = "parts", value_name = "BY", value_parser = slots, default_value = "materials")]
    slots: Slots,
    /// What becomes of texels that several triangles of a part share: first, mean (of what is measured), or own (each gets texels on a sheet of its own).
    #[arg(long = "share", value_name = "PART=WHAT", value_parser = sharing)]
    sharing: Vec<(String, Sharing)>,
}

fn slots(text: &str) -> Result<Slots, String> {
    match text {
        "materials" => Ok(Slots::Materials),
        "objects" => Ok(Slots::Objects),
        "groups" => Ok(Slots::Groups),
        _ => Err("parts are told by materials, objects or groups".into()),
    }
}

fn sharing(text: &str) -> Result<(String, Sharing), String> {
    let (part, what) = text.rsplit_once('=').ok_or("give it as part=first, part=mean or part=own")?;
    let what = match what {
        "first" => Sharing::First,
        "mean" => Sharing::Mean,
        "own" => Sharing::Own,
        _ => return Err("shared texels are first, mean or own".into()),
    };
    Ok((part.into(), what))
}

impl TakingArgs {
    /// What they come to.
    ///
    /// # Errors
    /// [`CliError`] for a setting that there is not, or a value that it doesn't take.
    pub fn taking(&self) -> Result<Taking, CliError> {
        let specs = mend::specs();
        let mut settings = Settings::new();
        for text in &self.mending {
            let (key, value) = assignment(text)?;
            settings.insert(key.into(), setting("--mend", &specs, key, value)?);
        }
        let mending = Mending::new(&settings, self.unwrap.iter().cloned().collect());
        let mending = mending.sharing(self.sharing.iter().cloned().collect());
        Ok(Taking { unit: self.unit, mending, slots: self.slots })
    }
}

/// Reads the mesh at a path. Of the files that it names those are read that lie in its folder, or below it; nothing else is looked at.
pub(super) fn load(path: &Path, taking: Taking) -> Result<Piece, CliError> {
    let limits = MeshLimits::default();
    if path.is_dir() {
        let folder = Folder::of(files_in(path, limits)?);
        let mesh = folder.mesh().map_err(app)?.0.to_owned();
        return first(taking, |taking| import_in(&folder, &mesh, taking, limits));
    }
    let (name, bytes) = (file_name(path), read(path)?);
    let named = names_beside(&name, &bytes);
    if named.is_empty() {
        return first(taking, |taking| import(&name, &bytes, taking, limits));
    }
    let parent = path.parent().unwrap_or(Path::new(""));
    let mut files = BTreeMap::from([(name.clone(), bytes)]);
    for inside in named.iter().filter_map(|uri| within(&name, uri)) {
        let at = parent.join(&inside);
        // A link may lead out of the folder; what isn't there is spoken of by the reader.
        if at.is_file() && leads_inside(parent, &at) {
            files.insert(inside, read(&at)?);
        }
    }
    let folder = Folder::of(files);
    first(taking, |taking| import_in(&folder, &name, taking, limits))
}

/// A mesh as the page would take it in: with the settings that it asks for by itself.
fn first(taking: Taking, read: impl Fn(Taking) -> Result<Piece, MeshError>) -> Result<Piece, CliError> {
    let (piece, _) = taking.first(|taking| read(taking).map(Box::new)).map_err(app)?;
    Ok(*piece)
}

fn leads_inside(folder: &Path, file: &Path) -> bool {
    let folder = if folder.as_os_str().is_empty() { Path::new(".") } else { folder };
    matches!((folder.canonicalize(), file.canonicalize()), (Ok(folder), Ok(file)) if file.starts_with(&folder))
}

/// All files of a folder and of those in it, by their paths there; hidden ones and links are left out.
fn files_in(folder: &Path, limits: MeshLimits) -> Result<BTreeMap<String, Vec<u8>>, CliError> {
    let (mut files, mut total) = (BTreeMap::new(), 0);
    let mut todo = vec![(folder.to_owned(), String::new())];
    while let Some((folder, prefix)) = todo.pop() {
        let unreadable = io(&folder);
        for entry in std::fs::read_dir(&folder).map_err(&unreadable)? {
            let entry = entry.map_err(&unreadable)?;
            let (kind, name) =
                (entry.file_type().map_err(&unreadable)?, entry.file_name().to_string_lossy().into_owned());
            if name.starts_with('.') || kind.is_symlink() {
                continue;
            }
            let path = format!("{prefix}{name}");
            if kind.is_dir() {
                todo.push((entry.path(), format!("{path}/")));
                continue;
            }
            total += entry.metadata().map_err(&unreadable)?.len() as usize;
            if total > limits.bytes {
                return Err(app(MeshError::TooLarge {
                    what: "bytes in its folder",
                    found: total,
                    limit: limits.bytes,
                }));
            }
            files.insert(path, read(&entry.path())?);
        }
    }
    Ok(files)
}

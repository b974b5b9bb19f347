//! Work for a farm: `tasks` turns a list of pieces into independent lines, `task` does one of them, `gather` says which are missing. No queue: whatever runs arrays of
//! commands runs these (`docs/farm.md`).
//!
//! A task is known by a hash of all that its files depend on. When its files are whole, a `task.json` beside them says so; what has one of the same hash, with files that are as it
//! says, is done. So a task can be stopped at any moment and run again, and a list can be turned into lines as often as one likes.

use std::path::{Path, PathBuf};

use clap::Args;
use dustcoat_core::document::FileKind;
use dustcoat_core::handoff;
use dustcoat_core::recipe::package::{PackageLimits, Project, read_project};
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::given::{app, usage};
use super::texture::{self, ExportArgs, WriteArgs};
use super::{CliError, io, read, write};

/// What a folder of a task that is done holds.
const DONE: &str = "task.json";

#[derive(Args)]
pub struct TasksArgs {
    /// A list of pieces, as JSON. Paths in it count from its folder.
    list: PathBuf,
    /// The file to write, one line for each task that isn't done; in the folder of the list.
    #[arg(long)]
    out: PathBuf,
}

#[derive(Args)]
pub struct TaskArgs {
    /// Lines that `tasks` wrote.
    tasks: PathBuf,
    /// Which line, from 0.
    #[arg(long)]
    index: usize,
}

#[derive(Args)]
pub struct GatherArgs {
    /// The list, or the lines that `tasks` wrote of it.
    tasks: PathBuf,
}

/// A list of pieces to be written.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct TaskList {
    /// The pieces.
    pub pieces: Vec<PieceTasks>,
}

/// What is to be written of a piece: each of its variants at each size.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct PieceTasks {
    /// A .dustcoat file.
    pub project: String,
    /// Variants by name; `["all"]` are all that it has, none is the project as it stands.
    #[serde(default)]
    pub variants: Vec<String>,
    /// Texture sizes; none is that of the layout.
    #[serde(default)]
    pub sizes: Vec<u32>,
    /// The name of a ready layout, or a file that holds one; none is the project's own.
    #[serde(default)]
    pub layout: Option<String>,
    /// Kinds of files; none is what the layout says.
    #[serde(default)]
    pub formats: Vec<FileKind>,
    /// Dials that are turned, as `dial=value`.
    #[serde(default)]
    pub set: Vec<String>,
    /// The number that all seeds are turned to.
    #[serde(default)]
    pub seed: Option<u32>,
    /// The folder; each task has one of its own in it: `piece/variant/size`.
    pub out: String,
}

/// A task, as it stands on a line.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct Task {
    project: String,
    #[serde(default)]
    variant: Option<String>,
    #[serde(default)]
    size: Option<u32>,
    #[serde(default)]
    layout: Option<String>,
    #[serde(default)]
    formats: Vec<FileKind>,
    #[serde(default)]
    set: Vec<String>,
    #[serde(default)]
    seed: Option<u32>,
    out: String,
    /// blake3 of all that its files depend on.
    hash: String,
}

/// Says that a task is done.
#[derive(Debug, Serialize, Deserialize)]
struct Done {
    task: String,
    files: Vec<DoneFile>,
}

#[derive(Debug, Serialize, Deserialize)]
struct DoneFile {
    name: String,
    bytes: u64,
    blake3: String,
}

/// The folder that paths count from.
fn folder_of(path: &Path) -> PathBuf {
    path.parent().map_or_else(PathBuf::new, Path::to_owned)
}

fn sized(size: Option<u32>) -> String {
    size.map_or_else(|| "as-it-is".into(), |s| s.to_string())
}

impl PieceTasks {
    /// Its tasks.
    fn tasks(&self, folder: &Path) -> Result<Vec<Task>, CliError> {
        let path = folder.join(&self.project);
        let bytes = read(&path)?;
        let project = read_project(&bytes, PackageLimits::default()).map_err(app)?;
        // A layout that lies in a file is part of what comes of it.
        let layout = self.layout.as_ref().map(|name| folder.join(name)).filter(|path| path.is_file());
        let layout = layout.map(|path| read(&path)).transpose()?.unwrap_or_default();
        let sizes = if self.sizes.is_empty() { vec![None] } else { self.sizes.iter().copied().map(Some).collect() };
        let mut out = vec![];
        for variant in self.variants_of(&project)? {
            for size in &sizes {
                let named = |text: &str| handoff::file_name(text);
                let parts = [
                    named(&project.document.name),
                    variant.as_deref().map_or_else(|| "as-it-stands".into(), named),
                    sized(*size),
                ];
                let mut task = Task {
                    project: self.project.clone(),
                    variant: variant.clone(),
                    size: *size,
                    layout: self.layout.clone(),
                    formats: self.formats.clone(),
                    set: self.set.clone(),
                    seed: self.seed,
                    out: parts.iter().fold(self.out.clone(), |out, part| format!("{out}/{part}")),
                    hash: String::new(),
                };
                let mut hash = blake3::Hasher::new();
                hash.update(b"task/1|").update(env!("CARGO_PKG_VERSION").as_bytes());
                let text = serde_json::to_vec(&task).expect("a task is plain data");
                for part in [&text, &bytes, &layout] {
                    hash.update(&(part.len() as u64).to_le_bytes()).update(part);
                }
                task.hash = hash.finalize().to_hex().to_string();
                out.push(task);
            }
        }
        Ok(out)
    }

    fn variants_of(&self, project: &Project) -> Result<Vec<Option<String>>, CliError> {
        let there: Vec<&str> = project.document.variants.iter().map(|v| v.name.as_str()).collect();
        if self.variants.is_empty() {
            return Ok(vec![None]);
        }
        if self.variants == ["all"] {
            return Ok(there.iter().map(|v| Some((*v).to_owned())).collect());
        }
        if let Some(lost) = self.variants.iter().find(|v| !there.contains(&v.as_str())) {
            let all = if there.is_empty() { "none".into() } else { there.join(", ") };
            return Err(usage(format!("{}: there is no variant “{lost}”; there are: {all}", self.project)));
        }
        Ok(self.variants.iter().cloned().map(Some).collect())
    }
}

/// All tasks of a list, each with a folder of its own.
fn listed(path: &Path) -> Result<Vec<Task>, CliError> {
    let list: TaskList = serde_json::from_slice(&read(path)?).map_err(|e| usage(format!("{}: {e}", path.display())))?;
    let mut all: Vec<Task> = vec![];
    for piece in &list.pieces {
        for task in piece.tasks(&folder_of(path))? {
            if let Some(other) = all.iter().find(|t| t.out == task.out) {
                if *other == task {
                    continue;
                }
                let (a, b) = (&other.project, &task.project);
                return Err(usage(format!(
                    "{a} and {b} would both be written to {}. Give one of them another “out”.",
                    task.out
                )));
            }
            all.push(task);
        }
    }
    Ok(all)
}

/// The lines that were written.
fn lines(path: &Path) -> Result<Vec<Task>, CliError> {
    let text = String::from_utf8_lossy(&read(path)?).into_owned();
    let task = |(i, line): (usize, &str)| {
        serde_json::from_str(line).map_err(|e| usage(format!("{}, line {}: {e}", path.display(), i + 1)))
    };
    text.lines().enumerate().filter(|(_, line)| !line.trim().is_empty()).map(task).collect()
}

impl Task {
    /// Whether its files are there, whole, and of what it is now.
    fn is_done(&self, folder: &Path) -> bool {
        let out = folder.join(&self.out);
        let done = std::fs::read(out.join(DONE)).ok().and_then(|text| serde_json::from_slice::<Done>(&text).ok());
        let whole = |f: &DoneFile| {
            let held = std::fs::read(out.join(&f.name));
            held.is_ok_and(|b| b.len() as u64 == f.bytes && blake3::hash(&b).to_hex().as_str() == f.blake3)
        };
        done.is_some_and(|d| d.task == self.hash && d.files.iter().all(whole))
    }
}

pub fn tasks(args: &TasksArgs, json: bool) -> Result<(), CliError> {
    let folder = folder_of(&args.list);
    let absolute = |p: &Path| std::path::absolute(if p.as_os_str().is_empty() { Path::new(".") } else { p }).ok();
    if absolute(&folder) != absolute(&folder_of(&args.out)) {
        return Err(usage("--out: put the lines into the folder of the list; paths in both count from there"));
    }
    let all = listed(&args.list)?;
    let left: Vec<&Task> = all.iter().filter(|t| !t.is_done(&folder)).collect();
    let text: String =
        left.iter().map(|t| format!("{}\n", serde_json::to_string(t).expect("a task is plain data"))).collect();
    write(&args.out, text.as_bytes())?;
    if json {
        println!("{}", json!({"tasks": left.len(), "done": all.len() - left.len()}));
    } else {
        println!("{} tasks to do, {} done already", left.len(), all.len() - left.len());
    }
    Ok(())
}

pub fn task(args: &TaskArgs, json: bool) -> Result<(), CliError> {
    let folder = folder_of(&args.tasks);
    let all = lines(&args.tasks)?;
    let Some(task) = all.get(args.index) else {
        return Err(usage(format!("--index {}: there are {} tasks, counted from 0", args.index, all.len())));
    };
    let out = folder.join(&task.out);
    let said = |did: bool| {
        if json {
            println!("{}", json!({"task": task.hash, "out": task.out, "written": did}));
        } else {
            println!("{} {}", if did { "written:" } else { "done already:" }, task.out);
        }
    };
    if task.is_done(&folder) {
        said(false);
        return Ok(());
    }
    // What was made of something else says nothing of what is written now.
    match std::fs::remove_file(out.join(DONE)) {
        Err(e) if e.kind() != std::io::ErrorKind::NotFound => return Err(io(&out)(e)),
        _ => {}
    }
    let layout = task.layout.as_ref().map(|name| {
        let file = folder.join(name);
        if file.is_file() { file.display().to_string() } else { name.clone() }
    });
    let export = ExportArgs {
        project: folder.join(&task.project),
        variant: task.variant.clone(),
        preset: None,
        seed: task.seed,
        common: WriteArgs {
            out: out.clone(),
            size: task.size,
            layout,
            formats: task.formats.clone(),
            settings: task.set.clone(),
        },
    };
    let mut files = vec![];
    for written in texture::exported(&export, json)? {
        let file = |f: &handoff::manifest::Written| DoneFile {
            name: f.name.clone(),
            bytes: f.bytes,
            blake3: f.blake3.clone(),
        };
        files.extend(written.manifest.files.iter().map(file));
    }
    let done = Done { task: task.hash.clone(), files };
    write(&out.join(DONE), &serde_json::to_vec_pretty(&done).expect("it is plain data"))?;
    sweep(&out);
    said(true);
    Ok(())
}

/// Takes away what runs that were killed have left half done.
fn sweep(out: &Path) {
    for entry in std::fs::read_dir(out).into_iter().flatten().flatten() {
        if entry.path().extension().is_some_and(|e| e == "part") {
            _ = std::fs::remove_file(entry.path());
        }
    }
}

pub fn gather(args: &GatherArgs, json: bool) -> Result<(), CliError> {
    let folder = folder_of(&args.tasks);
    let all = match serde_json::from_slice::<TaskList>(&read(&args.tasks)?) {
        Ok(_) => listed(&args.tasks)?,
        Err(_) => lines(&args.tasks)?,
    };
    let missing: Vec<(usize, &Task)> = all.iter().enumerate().filter(|(_, t)| !t.is_done(&folder)).collect();
    if json {
        let lost: Vec<_> = missing.iter().map(|(i, t)| json!({"index": i, "out": t.out})).collect();
        println!("{}", json!({"tasks": all.len(), "missing": lost}));
    } else {
        missing.iter().for_each(|(i, t)| println!("missing: {i} {}", t.out));
        println!("{} of {} done", all.len() - missing.len(), all.len());
    }
    if missing.is_empty() { Ok(()) } else { Err(CliError::Missing(missing.len())) }
}

//! The commands, for people and for pipelines. Exit code 0, 2 for bad usage, 1 with one line that says what is wrong and what to do.

mod bake;
mod files;
mod given;
mod inspect;
mod ladder;
mod meshes;
mod serve;
mod still;
mod strokes;
mod tasks;
mod texture;
mod ticker;

use std::process::ExitCode;

use clap::{Parser, Subcommand};
use dustcoat_core::mesh::Unit;

use crate::app::AppError;

#[derive(Parser)]
#[command(name = "dustcoat", version, about = "Procedural, mask-driven layered materials for props")]
struct Cli {
    #[command(subcommand)]
    command: Command,
    /// One JSON object on standard output, nothing else.
    #[arg(long, global = true)]
    json: bool,
}

#[derive(Subcommand)]
enum Command {
    /// Fresh demo data and the app; prints the URL.
    Demo(serve::DemoArgs),
    /// The app on existing data.
    Serve(serve::ServeArgs),
    /// Says what undo and all else can't lead back to any more, and frees it.
    Tidy(serve::TidyArgs),
    /// Writes the demo meshes (OBJ, GLB), projects and recipes as files.
    DemoFiles(files::DemoFilesArgs),
    /// Measures readings of a mesh and writes them as pictures.
    Bake(bake::BakeArgs),
    /// Writes the texture files of a project.
    Export(texture::ExportArgs),
    /// Lays a recipe on a mesh and writes its texture files.
    Apply(texture::ApplyArgs),
    /// Takes a still of a project, or the pictures of a turntable, with light that is traced.
    Still(still::StillArgs),
    /// Steps one or two dials of a project over a range, and draws what comes of it on one sheet.
    Ladder(ladder::LadderArgs),
    /// Brings a mask that was painted elsewhere into a project, as a step of a mask line.
    Strokes(strokes::StrokesArgs),
    /// Turns a list of pieces into independent lines for a farm; what is done is left out.
    Tasks(tasks::TasksArgs),
    /// Does one of those lines; it may be stopped and run again.
    Task(tasks::TaskArgs),
    /// Checks what is done of a list, and lists what is missing.
    Gather(tasks::GatherArgs),
    /// Says what a mesh, project or recipe holds.
    Inspect(inspect::InspectArgs),
}

/// Why a command failed.
#[derive(Debug, thiserror::Error)]
enum CliError {
    /// From the application.
    #[error("{0}")]
    App(#[from] AppError),
    /// A file that can't be read or written.
    #[error("{path}: {error}. Check the path and that you may use it.")]
    Io {
        /// Which.
        path: String,
        /// What the system said.
        error: std::io::Error,
    },
    /// Tasks that are not done.
    #[error("{0} are missing. Run them again: what is done is left as it is.")]
    Missing(usize),
    /// Wrong words on the command line.
    #[error("{0}")]
    Usage(String),
}

fn io(path: &std::path::Path) -> impl Fn(std::io::Error) -> CliError {
    move |error| CliError::Io { path: path.display().to_string(), error }
}

fn read(path: &std::path::Path) -> Result<Vec<u8>, CliError> {
    let size = std::fs::metadata(path).map_err(io(path))?.len();
    if size > crate::http::UPLOAD_LIMIT as u64 {
        let error = std::io::Error::other("the file is larger than 512 MB, the most that is taken");
        return Err(io(path)(error));
    }
    std::fs::read(path).map_err(io(path))
}

fn write(path: &std::path::Path, bytes: &[u8]) -> Result<(), CliError> {
    if let Some(parent) = path.parent() {
        std::fs::create_dir_all(parent).map_err(io(parent))?;
    }
    // Under another name until it is whole, of this process alone: nobody finds half a file, whatever stops this.
    let part = path.with_extension(match path.extension() {
        Some(e) => format!("{}.{}.part", e.to_string_lossy(), std::process::id()),
        None => format!("{}.part", std::process::id()),
    });
    let written = std::fs::write(&part, bytes).and_then(|()| std::fs::rename(&part, path));
    if written.is_err() {
        _ = std::fs::remove_file(&part);
    }
    written.map_err(io(path))
}

fn unit(text: &str) -> Result<Unit, String> {
    serde_json::from_value(text.into()).map_err(|_| "one of mm, cm, m, in".into())
}

/// Runs the command line.
pub fn main() -> ExitCode {
    let cli = Cli::parse();
    let done = match cli.command {
        Command::Demo(args) => serve::demo(&args, cli.json),
        Command::Serve(args) => serve::serve(&args, cli.json),
        Command::Tidy(args) => serve::tidy(&args, cli.json),
        Command::DemoFiles(args) => files::demo_files(&args, cli.json),
        Command::Bake(args) => bake::bake(&args, cli.json),
        Command::Export(args) => texture::export(&args, cli.json),
        Command::Apply(args) => texture::apply(&args, cli.json),
        Command::Still(args) => still::still(&args, cli.json),
        Command::Ladder(args) => ladder::ladder(&args, cli.json),
        Command::Strokes(args) => strokes::strokes(&args, cli.json),
        Command::Tasks(args) => tasks::tasks(&args, cli.json),
        Command::Task(args) => tasks::task(&args, cli.json),
        Command::Gather(args) => tasks::gather(&args, cli.json),
        Command::Inspect(args) => inspect::inspect(&args, cli.json),
    };
    match done {
        Ok(()) => ExitCode::SUCCESS,
        Err(e) => {
            eprintln!("dustcoat: {e}");
            ExitCode::from(if matches!(e, CliError::Usage(_)) { 2 } else { 1 })
        }
    }
}

impl From<dustcoat_core::evaluate::EvaluateError> for CliError {
    fn from(e: dustcoat_core::evaluate::EvaluateError) -> Self {
        Self::App(e.into())
    }
}

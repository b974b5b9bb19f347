//! `export` and `apply`: texture files from the command line, by the same core as in the browser.

use std::collections::BTreeSet;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::time::Instant;

use clap::Args;
use dustcoat_core::bake::{Finer, Surface};
use dustcoat_core::document::{self, Dial, DialOption, Document, LayerKind};
use dustcoat_core::evaluate::bands::BUDGET;
use dustcoat_core::evaluate::{self, Cache, Context, Measured, wanted};
use dustcoat_core::handoff::{self, Handoff, Layout, is_map_size};
use dustcoat_core::mesh::import::{MeshLimits, import};
use dustcoat_core::mesh::{Piece, Unit};
use dustcoat_core::raster::{LARGEST_WHOLE, is_texture_size};
use dustcoat_core::recipe::package::{PackageLimits, Project, read_project, read_recipe};
use dustcoat_core::setting::{DialKind, Value};
use dustcoat_core::task::Cancel;
use serde_json::json;

use super::ticker::Ticker;
use super::{CliError, read, unit, write};
use crate::app::AppError;

#[derive(Args)]
pub struct ExportArgs {
    /// A .dustcoat file.
    project: PathBuf,
    /// The variant to write, or `all` for each into a folder of its name.
    #[arg(long)]
    variant: Option<String>,
    #[command(flatten)]
    common: WriteArgs,
}

#[derive(Args)]
pub struct ApplyArgs {
    /// A .coatrecipe file.
    recipe: PathBuf,
    /// GLB, glTF, OBJ, PLY or STL, or a ZIP with one inside.
    #[arg(long)]
    mesh: PathBuf,
    /// Unit of the mesh file; OBJ is millimetres and glTF metres if not given.
    #[arg(long, value_parser = unit)]
    unit: Option<Unit>,
    #[command(flatten)]
    common: WriteArgs,
}

#[derive(Args)]
struct WriteArgs {
    /// Folder to write to.
    #[arg(long)]
    out: PathBuf,
    /// Texture size: a power of two from 64 to 8192. Above 4096, files are written in bands.
    #[arg(long, default_value_t = 1024)]
    size: u32,
    /// Turns a dial, by its id or label.
    #[arg(long = "set", value_name = "DIAL=VALUE")]
    settings: Vec<String>,
}

pub(super) fn usage(text: impl Into<String>) -> CliError {
    CliError::Usage(text.into())
}

pub(super) fn app(e: impl Into<AppError>) -> CliError {
    CliError::App(e.into())
}

fn check_size(size: u32) -> Result<(), CliError> {
    if is_texture_size(size) {
        return Ok(());
    }
    Err(usage(format!("--size {size} is not a texture size; take a power of two from 64 to 4096")))
}

/// The piece laid out to write maps of a size from: those that are too large are written in bands.
fn surface_for(piece: Arc<Piece>, size: u32) -> Result<Surface, CliError> {
    if !is_map_size(size) {
        return Err(app(handoff::HandoffError::Size(size)));
    }
    surface(piece, size.min(LARGEST_WHOLE))
}

pub(super) fn assignment(text: &str) -> Result<(&str, &str), CliError> {
    text.split_once('=').ok_or_else(|| usage(format!("--set {text}: write it as name=value")))
}

pub(super) fn load(path: &PathBuf, unit: Option<Unit>) -> Result<Arc<Piece>, CliError> {
    Ok(Arc::new(import(&file_name(path), &read(path)?, unit, MeshLimits::default()).map_err(app)?))
}

pub(super) fn surface(piece: Arc<Piece>, size: u32) -> Result<Surface, CliError> {
    check_size(size)?;
    let surface = Surface::new(piece, size);
    if surface.atlas.is_empty() { Err(app(evaluate::EvaluateError::NoTexels)) } else { Ok(surface) }
}

pub(super) fn file_name(path: &Path) -> String {
    path.file_name().unwrap_or_default().to_string_lossy().into_owned()
}

/// The piece of a packed project.
pub fn piece_of(project: &Project) -> Result<Piece, CliError> {
    let intake = &project.document.intake;
    let bytes = project.files.get(&intake.mesh.hash).map(Vec::as_slice).unwrap_or_default();
    let mesh = import(&intake.mesh.file, bytes, intake.mesh.unit, MeshLimits::default()).map_err(app)?;
    Ok(mesh.take_in(intake, &|used| project.files.get(&used.hash).cloned()))
}

pub(super) fn report(json: bool, value: serde_json::Value) {
    if json {
        println!("{value}");
        return;
    }
    for file in value["files"].as_array().into_iter().flatten() {
        println!("{}", file["path"].as_str().unwrap_or_default());
    }
    println!("{:.1} s", value["seconds"].as_f64().unwrap_or_default());
}

/// A packed project's document with some dials turned, and its piece laid out at a size.
pub(super) fn opened(path: &PathBuf, dials: &[String], size: u32) -> Result<(Document, Surface), CliError> {
    let project = read_project(&read(path)?, PackageLimits::default()).map_err(app)?;
    let piece = Arc::new(piece_of(&project)?);
    let finer = match &project.document.intake.finer {
        Some(f) => {
            let bytes = project.files.get(&f.mesh.hash).map(Vec::as_slice).unwrap_or_default();
            Some((Arc::new(Finer::read(&f.mesh, bytes).map_err(app)?), f.cage_on(&piece)))
        }
        None => None,
    };
    let surface = surface_for(piece, size)?.with_finer(finer);
    Ok((turned(project.document, None, dials)?, surface))
}

/// A document with dials of it, or of a layer that uses a recipe, turned as `dial=value` says.
fn turned(mut document: Document, layer: Option<&str>, to: &[String]) -> Result<Document, CliError> {
    for text in to {
        let used = layer.and_then(|id| document::find_layer(&document.layers, id)).map(|l| &l.kind);
        let there = if let Some(LayerKind::Use { recipe, .. }) = used { &recipe.dials } else { &document.dials };
        let (dial, value) = dial_value(text, there)?;
        let turn = document::Edit::TurnDial { layer: layer.map(str::to_owned), dial, value };
        document = document::apply(&document, &turn).map_err(app)?;
    }
    Ok(document)
}

pub fn export(args: &ExportArgs, json: bool) -> Result<(), CliError> {
    let (document, surface) = opened(&args.project, &[], args.common.size)?;
    let to = |document, out: &Path| {
        let document = turned(document, None, &args.common.settings)?;
        write_textures(&document, &surface, &args.common, out, json)
    };
    let Some(variant) = &args.variant else { return to(document, &args.common.out) };
    let there: Vec<&str> = document.variants.iter().map(|v| v.name.as_str()).collect();
    let wanted: Vec<&str> = there.iter().copied().filter(|name| variant == "all" || name == variant).collect();
    if wanted.is_empty() {
        let all = if there.is_empty() { "none".into() } else { there.join(", ") };
        return Err(usage(format!("there is no variant “{variant}”; there are: {all}")));
    }
    let mut folders = BTreeSet::new();
    for name in &wanted {
        let mut folder = handoff::file_name(name);
        while variant == "all" && !folders.insert(folder.clone()) {
            folder.push('_');
        }
        let take = document::Edit::TakeVariant { name: (*name).to_owned() };
        let taken = document::apply(&document, &take).map_err(app)?;
        let out = &args.common.out;
        to(taken, &if variant == "all" { out.join(folder) } else { out.clone() })?;
    }
    Ok(())
}

pub fn apply(args: &ApplyArgs, json: bool) -> Result<(), CliError> {
    let recipe = read_recipe(&read(&args.recipe)?, PackageLimits::default()).map_err(app)?;
    let piece = load(&args.mesh, args.unit)?;
    let mut layer = recipe.to_use();
    "l1".clone_into(&mut layer.id);
    let mut document = Document::new(&piece.name);
    document.layers.push(layer);
    document::check(&document).map_err(app)?;
    let document = turned(document, Some("l1"), &args.common.settings)?;
    write_textures(&document, &surface_for(piece, args.common.size)?, &args.common, &args.common.out, json)
}

fn dial_value(text: &str, dials: &[Dial]) -> Result<(String, Value), CliError> {
    let (name, value) = assignment(text)?;
    let all = || dials.iter().map(|d| d.label.as_str()).collect::<Vec<_>>().join(", ");
    let dial = dials.iter().find(|d| d.id == name || d.label.eq_ignore_ascii_case(name));
    let dial = dial.ok_or_else(|| usage(format!("there is no dial “{name}”; there are: {}", all())))?;
    let takes = |what: &str| usage(format!("--set {text}: {} takes {what}", dial.label));
    let value = match dial.kind() {
        DialKind::Number | DialKind::Seed => Value::Number(value.parse().map_err(|_| takes("a number"))?),
        DialKind::Switch => match value.to_ascii_lowercase().as_str() {
            "on" | "true" | "yes" | "1" => Value::Bool(true),
            "off" | "false" | "no" | "0" => Value::Bool(false),
            _ => return Err(takes("on or off")),
        },
        DialKind::Choice => {
            let named = |o: &&DialOption| o.key == value || o.label.eq_ignore_ascii_case(value);
            let all = || dial.options.iter().map(|o| o.label.as_str()).collect::<Vec<_>>().join(", ");
            let found = dial.options.iter().find(named).ok_or_else(|| takes(&format!("one of: {}", all())))?;
            Value::Text(found.key.clone())
        }
        DialKind::Color | DialKind::Part | DialKind::Picture => Value::Text(value.into()),
    };
    Ok((dial.id.clone(), value))
}

/// Writes the textures of a document into a folder.
fn write_textures(
    document: &Document,
    surface: &Surface,
    args: &WriteArgs,
    out: &Path,
    json: bool,
) -> Result<(), CliError> {
    let clock = Instant::now();
    let layout = Layout { size: args.size, ..Layout::default() };
    let channels = evaluate::channels(document, &surface.piece);
    let files = layout.plan(&document.name, &surface.piece.sheets, &channels).map_err(app)?;
    let (ticker, cancel) = (Ticker::new(json), Cancel::default());
    let tick = |label: &str, share: f32| ticker.tick(label, share);
    let measured = Measured::take(&wanted(document, &surface.piece), surface, &cancel, &tick).map_err(app)?;
    let occlusion = measured.occlusion(document, surface).map(|o| o.1);
    let cache = Cache::new(1 << 30);
    let context = Context { surface, measured: &measured, cache: &cache, cancel: &cancel, progress: &tick };
    let job = Handoff {
        document,
        context: &context,
        layout: &layout,
        files: &files,
        occlusion: occlusion.as_ref().map(|o| o.as_slice()),
        budget: BUDGET,
    };
    let mut written = vec![];
    let coverage = job.write::<CliError>(&mut |file, bytes| {
        let path: &Path = &out.join(&file.name);
        write(path, &bytes)?;
        written.push(json!({"sheet": file.sheet, "map": file.map, "path": path.display().to_string()}));
        Ok(())
    })?;
    let coverage: Vec<_> =
        coverage.iter().map(|c| json!({"layer": c.name, "mask": c.mask, "visible": c.visible})).collect();
    report(json, json!({"files": written, "coverage": coverage, "seconds": clock.elapsed().as_secs_f64()}));
    Ok(())
}

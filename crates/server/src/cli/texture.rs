//! `bake`, `export` and `apply`: texture files from the command line, by the same core as in the browser.

use std::collections::hash_map::Entry;
use std::collections::{BTreeMap, HashMap};
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::time::Instant;

use clap::{Args, ValueEnum};
use dustcoat_core::bake::{READINGS, Reading, ReadingKey, Surface, measure, reading};
use dustcoat_core::document::{self, Dial, Document, LayerKind};
use dustcoat_core::evaluate::{self, Cache, Context, needs, texture};
use dustcoat_core::handoff::{self, Layout, SHEET, png};
use dustcoat_core::mesh::import::{MeshLimits, import};
use dustcoat_core::mesh::{Piece, Unit};
use dustcoat_core::raster::{Plane, is_texture_size};
use dustcoat_core::recipe::package::{PackageLimits, read_project, read_recipe};
use dustcoat_core::setting::{DialStates, Param, ParamType, Settings, Value, resolve};
use dustcoat_core::task::Cancel;
use serde_json::json;

use super::ticker::Ticker;
use super::{CliError, read, unit, write};
use crate::app::AppError;

#[derive(Clone, Copy, PartialEq, Eq, ValueEnum)]
enum Format {
    Png,
}

#[derive(Args)]
pub struct BakeArgs {
    /// OBJ, GLB or glTF.
    mesh: PathBuf,
    /// Folder to write to.
    #[arg(long)]
    out: PathBuf,
    /// Texture size: a power of two from 64 to 4096.
    #[arg(long, default_value_t = 1024)]
    size: u32,
    /// Readings to measure, with commas; all if not given.
    #[arg(long, value_delimiter = ',')]
    readings: Vec<String>,
    /// A setting, such as occlusion.rays=256.
    #[arg(long = "set", value_name = "READING.SETTING=VALUE")]
    settings: Vec<String>,
    /// Unit of the mesh file; OBJ is millimetres and glTF metres if not given.
    #[arg(long, value_parser = unit)]
    unit: Option<Unit>,
    /// File format.
    #[arg(long, value_enum, default_value = "png")]
    format: Format,
}

#[derive(Args)]
pub struct ExportArgs {
    /// A .dustcoat file.
    project: PathBuf,
    #[command(flatten)]
    common: WriteArgs,
}

#[derive(Args)]
pub struct ApplyArgs {
    /// A .coatrecipe file.
    recipe: PathBuf,
    /// OBJ, GLB or glTF.
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
    /// Texture size: a power of two from 64 to 4096.
    #[arg(long, default_value_t = 1024)]
    size: u32,
    /// Turns a dial, by its id or label.
    #[arg(long = "set", value_name = "DIAL=VALUE")]
    settings: Vec<String>,
}

fn usage(text: impl Into<String>) -> CliError {
    CliError::Usage(text.into())
}

fn app(e: impl Into<AppError>) -> CliError {
    CliError::App(e.into())
}

fn check_size(size: u32) -> Result<(), CliError> {
    if is_texture_size(size) {
        return Ok(());
    }
    Err(usage(format!("--size {size} is not a texture size; take a power of two from 64 to 4096")))
}

fn assignment(text: &str) -> Result<(&str, &str), CliError> {
    text.split_once('=').ok_or_else(|| usage(format!("--set {text}: write it as name=value")))
}

fn find_reading(kind: &str) -> Result<&'static Reading, CliError> {
    let all = || READINGS.iter().map(|r| r.kind).collect::<Vec<_>>().join(", ");
    reading::find(kind).ok_or_else(|| usage(format!("there is no reading “{kind}”; there are: {}", all())))
}

/// Settings of readings from `reading.setting=value`, checked against their descriptions.
fn reading_settings(list: &[String]) -> Result<BTreeMap<String, Settings>, CliError> {
    let mut out: BTreeMap<String, Settings> = BTreeMap::new();
    for text in list {
        let (name, value) = assignment(text)?;
        let (kind, key) =
            name.split_once('.').ok_or_else(|| usage(format!("--set {text}: write it as reading.setting=value")))?;
        let specs = (find_reading(kind)?.specs)();
        let keys = || specs.iter().map(|s| s.key).collect::<Vec<_>>().join(", ");
        let spec = specs.iter().find(|s| s.key == key);
        let spec = spec.ok_or_else(|| usage(format!("{kind} has no setting “{key}”; it has: {}", keys())))?;
        let value = match spec.kind {
            ParamType::Number | ParamType::Integer => Value::Number(value.parse().unwrap_or(f64::NAN)),
            _ => Value::Text(value.into()),
        };
        spec.check(&value).map_err(|e| usage(format!("--set {text}: {e}")))?;
        out.entry(kind.into()).or_default().insert(key.into(), Param::Const(value));
    }
    Ok(out)
}

fn load(path: &PathBuf, unit: Option<Unit>) -> Result<Arc<Piece>, CliError> {
    let name = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
    Ok(Arc::new(import(&name, &read(path)?, unit, MeshLimits::default()).map_err(app)?))
}

fn surface(piece: Arc<Piece>, size: u32) -> Result<Surface, CliError> {
    check_size(size)?;
    let surface = Surface::new(piece, size);
    if surface.atlas.is_empty() { Err(app(evaluate::EvaluateError::NoTexels)) } else { Ok(surface) }
}

fn key(reading: &'static Reading, settings: &BTreeMap<String, Settings>) -> ReadingKey {
    let own = settings.get(reading.kind).cloned().unwrap_or_default();
    ReadingKey { kind: reading.kind, settings: resolve(&(reading.specs)(), &own, &DialStates::new()) }
}

pub fn bake(args: &BakeArgs, json: bool) -> Result<(), CliError> {
    let clock = Instant::now();
    let settings = reading_settings(&args.settings)?;
    let wanted: Vec<&'static Reading> = match args.readings.as_slice() {
        [] => READINGS.to_vec(),
        list => list.iter().map(|k| find_reading(k)).collect::<Result<_, _>>()?,
    };
    let surface = surface(load(&args.mesh, args.unit)?, args.size)?;
    let ticker = Ticker::new(json);
    let Format::Png = args.format;
    let mut files = vec![];
    for r in wanted {
        let values = measure(r, &surface, &key(r, &settings).settings, &Cancel::default(), &|l, s| ticker.tick(l, s));
        let picture = png::grey16(&texture::grey16(&surface, &values.map_err(app)?, 0.0), args.size);
        let path = args.out.join(format!("{}_{SHEET}_{}.png", safe_name(&surface.piece.name), r.kind));
        write(&path, &picture)?;
        files.push(json!({"sheet": SHEET, "reading": r.kind, "path": path.display().to_string()}));
    }
    report(json, json!({"files": files, "seconds": clock.elapsed().as_secs_f64()}));
    Ok(())
}

fn safe_name(name: &str) -> String {
    name.chars().map(|c| if c.is_alphanumeric() || "-_.".contains(c) { c } else { '_' }).collect()
}

fn report(json: bool, value: serde_json::Value) {
    if json {
        println!("{value}");
        return;
    }
    for file in value["files"].as_array().into_iter().flatten() {
        println!("{}", file["path"].as_str().unwrap_or_default());
    }
    println!("{:.1} s", value["seconds"].as_f64().unwrap_or_default());
}

pub fn export(args: &ExportArgs, json: bool) -> Result<(), CliError> {
    let project = read_project(&read(&args.project)?, PackageLimits::default()).map_err(app)?;
    let piece = import(&project.source.file, &project.mesh, project.source.unit, MeshLimits::default()).map_err(app)?;
    let mut document = project.document;
    for text in &args.common.settings {
        let (dial, value) = dial_value(text, &document.dials)?;
        let turn = document::Edit::TurnDial { layer: None, dial, value };
        document = document::apply(&document, &turn).map_err(app)?;
    }
    write_textures(&document, Arc::new(piece), &args.common, json)
}

pub fn apply(args: &ApplyArgs, json: bool) -> Result<(), CliError> {
    let recipe = read_recipe(&read(&args.recipe)?, PackageLimits::default()).map_err(app)?;
    let piece = load(&args.mesh, args.unit)?;
    let mut layer = recipe.to_use();
    "l1".clone_into(&mut layer.id);
    if let LayerKind::Use { values, .. } = &mut layer.kind {
        for text in &args.common.settings {
            let (dial, value) = dial_value(text, &recipe.dials)?;
            values.insert(dial, value);
        }
    }
    let mut document = Document::new(&piece.name);
    document.layers.push(layer);
    document::check(&document).map_err(app)?;
    write_textures(&document, piece, &args.common, json)
}

fn dial_value(text: &str, dials: &[Dial]) -> Result<(String, Value), CliError> {
    let (name, value) = assignment(text)?;
    let all = || dials.iter().map(|d| d.label.as_str()).collect::<Vec<_>>().join(", ");
    let dial = dials.iter().find(|d| d.id == name || d.label.eq_ignore_ascii_case(name));
    let dial = dial.ok_or_else(|| usage(format!("there is no dial “{name}”; there are: {}", all())))?;
    let value = match dial.value {
        Value::Number(_) => {
            Value::Number(value.parse().map_err(|_| usage(format!("--set {text}: {} takes a number", dial.label)))?)
        }
        _ => Value::Text(value.into()),
    };
    Ok((dial.id.clone(), value))
}

fn write_textures(document: &Document, piece: Arc<Piece>, args: &WriteArgs, json: bool) -> Result<(), CliError> {
    let clock = Instant::now();
    let surface = surface(piece, args.size)?;
    let layout = Layout { size: args.size, ..Layout::default() };
    let files = layout.plan(&document.name).map_err(app)?;
    let (ticker, cancel) = (Ticker::new(json), Cancel::default());
    let tick = |label: &str, share: f32| ticker.tick(label, share);
    let occlusion = key(find_reading("occlusion")?, &document.readings);
    let mut held: HashMap<String, Arc<Plane>> = HashMap::new();
    let hash = |k: &ReadingKey| k.hash(&surface.piece.hash, args.size);
    for k in needs(document).into_iter().chain([occlusion.clone()]) {
        if let Entry::Vacant(free) = held.entry(hash(&k)) {
            let plane = measure(find_reading(k.kind)?, &surface, &k.settings, &cancel, &tick).map_err(app)?;
            free.insert(Arc::new(plane));
        }
    }
    let readings = |h: &str| held.get(h).cloned();
    let cache = Cache::new(1 << 30);
    let context = Context { surface: &surface, readings: &readings, cache: &cache, cancel: &cancel, progress: &tick };
    let e = evaluate::evaluate(document, &context).map_err(app)?;
    let mut written = vec![];
    for file in &files {
        let bytes =
            handoff::write(file, &layout, &surface, &e, readings(&hash(&occlusion)).as_ref().map(|o| o.as_slice()));
        let path: &Path = &args.out.join(&file.name);
        write(path, &bytes)?;
        written.push(json!({"sheet": file.sheet, "map": file.map, "path": path.display().to_string()}));
    }
    let coverage: Vec<_> =
        e.coverage.iter().map(|c| json!({"layer": c.name, "mask": c.mask, "visible": c.visible})).collect();
    report(json, json!({"files": written, "coverage": coverage, "seconds": clock.elapsed().as_secs_f64()}));
    Ok(())
}

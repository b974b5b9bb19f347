//! `export` and `apply`: texture files from the command line, by the same core as in the browser.

use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::time::Instant;

use clap::Args;
use dustcoat_core::bake::{Finer, MeasurementKey, Surface};
use dustcoat_core::document::{
    self, Dial, DialOption, Document, Edit, FileKind, Layer, LayerKind, Layout, Palette, Recipe,
};
use dustcoat_core::evaluate::bands::BUDGET;
use dustcoat_core::evaluate::{self, Cache, Context, Measured};
use dustcoat_core::handoff::manifest::Manifest;
use dustcoat_core::handoff::{self, Handoff, Naming, Plan, is_map_size, ready};
use dustcoat_core::mesh::Piece;
use dustcoat_core::mesh::import::{MeshLimits, import};
use dustcoat_core::raster::is_texture_size;
use dustcoat_core::recipe::package::{PackageLimits, Project, read_project, read_recipe};
use dustcoat_core::setting::{DialKind, Value, write_palette};
use dustcoat_core::task::Cancel;
use serde_json::json;

use super::given::{app, assignment, file_name, usage};
use super::meshes::{TakingArgs, load};
use super::ticker::Ticker;
use super::{CliError, read, write};
use crate::app::picture_use;

#[derive(Args)]
pub struct ExportArgs {
    /// A .dustcoat file.
    pub(super) project: PathBuf,
    /// The variant to write, or `all` for each into a folder of its name.
    #[arg(long)]
    pub(super) variant: Option<String>,
    /// Takes a preset for all layers whose recipe has one of that name.
    #[arg(long)]
    pub(super) preset: Option<String>,
    /// Turns all dials that are seeds to this number.
    #[arg(long)]
    pub(super) seed: Option<u32>,
    #[command(flatten)]
    pub(super) common: WriteArgs,
}

#[derive(Args)]
pub struct ApplyArgs {
    /// A .coatrecipe file.
    recipe: PathBuf,
    /// GLB, glTF, OBJ, PLY, STL or USD, or a ZIP with one inside.
    #[arg(long)]
    mesh: PathBuf,
    #[command(flatten)]
    taking: TakingArgs,
    /// The preset that its dials begin with.
    #[arg(long)]
    preset: Option<String>,
    /// Says which part of the mesh fills a slot, by its id or label.
    #[arg(long = "part", value_name = "SLOT=PART")]
    parts: Vec<String>,
    /// Says which picture file fills a slot, by its id or label.
    #[arg(long = "picture", value_name = "SLOT=FILE")]
    pictures: Vec<String>,
    /// Turns all dials that are seeds to this number.
    #[arg(long)]
    seed: Option<u32>,
    #[command(flatten)]
    common: WriteArgs,
}

#[derive(Args)]
pub(super) struct WriteArgs {
    /// Folder to write to.
    #[arg(long)]
    pub(super) out: PathBuf,
    /// Texture size: a power of two from 64 to 8192; that of the layout if not given. Above 4096, files are written in bands.
    #[arg(long)]
    pub(super) size: Option<u32>,
    /// What is written, and what lies in each channel: the name of a ready layout (gltf, separate, packed, reflectance, masks, readings, floats), or a file that holds one. The
    /// project's own if not given.
    #[arg(long, value_name = "NAME|FILE")]
    pub(super) layout: Option<String>,
    /// Kinds of files, with commas: png, tiff, exr, glb, gltf, materialx, usd. Pictures are written in each of the kinds that are given; where none is, only those that the other
    /// files want. What the layout says if not given.
    #[arg(long = "format", value_name = "KIND", value_delimiter = ',', value_parser = file_kind)]
    pub(super) formats: Vec<FileKind>,
    /// Turns a dial, by its id or label.
    #[arg(long = "set", value_name = "DIAL=VALUE")]
    pub(super) settings: Vec<String>,
}

fn check_size(size: u32) -> Result<(), CliError> {
    if is_texture_size(size) {
        return Ok(());
    }
    Err(usage(format!("--size {size} is not a texture size; take a power of two from 64 to 4096")))
}

fn file_kind(text: &str) -> Result<FileKind, String> {
    serde_json::from_value(text.into()).map_err(|_| "one of png, tiff, exr, glb, gltf, materialx, usd".into())
}

/// The layout of what is written of a document.
fn layout_for(document: &Document, piece: &Piece, args: &WriteArgs) -> Result<Layout, CliError> {
    let sheets = piece.sheets.len();
    let mut layout = match &args.layout {
        None => document.layout.clone().unwrap_or_else(|| ready::usual(document, sheets)),
        Some(name) => match ready::find(name) {
            Some(ready) => ready.layout(document, &evaluate::channels(document, piece), sheets),
            None => read_layout(name)?,
        },
    };
    layout.size = args.size.unwrap_or(layout.size);
    if !args.formats.is_empty() {
        layout = layout.in_kinds(&args.formats);
    }
    Ok(layout)
}

fn read_layout(name: &str) -> Result<Layout, CliError> {
    let path = Path::new(name);
    let all = || ready::READY.iter().map(|r| r.key).collect::<Vec<_>>().join(", ");
    if !path.is_file() {
        return Err(usage(format!(
            "--layout {name}: there is no such file, nor a ready layout of that name; there are: {}",
            all()
        )));
    }
    serde_json::from_slice(&read(path)?).map_err(|e| usage(format!("{name} is no layout: {e}")))
}

/// The piece laid out to write maps of a size from.
fn surface_for(piece: Arc<Piece>, size: u32) -> Result<Surface, CliError> {
    if !is_map_size(size) {
        return Err(app(handoff::HandoffError::Size(size)));
    }
    let size = handoff::surface_size(size, piece.sheets.len());
    surface(piece, size)
}

pub(super) fn surface(piece: Arc<Piece>, size: u32) -> Result<Surface, CliError> {
    check_size(size)?;
    let surface = Surface::new(piece, size);
    if surface.atlas.is_empty() { Err(app(evaluate::EvaluateError::NoTexels)) } else { Ok(surface) }
}

/// The piece of a packed project.
pub fn piece_of(project: &Project) -> Result<Piece, CliError> {
    let intake = &project.document.intake;
    let bytes = project.files.get(&intake.mesh.hash).map(Vec::as_slice).unwrap_or_default();
    let mesh = import(&intake.mesh.file, bytes, intake.taking(), MeshLimits::default()).map_err(app)?;
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
pub(super) fn opened(path: &Path, dials: &[String], size: u32) -> Result<(Document, Surface), CliError> {
    let project = project_of(path)?;
    let surface = surface(Arc::new(piece_of(&project)?), size)?;
    laid_out(project, surface, dials)
}

fn project_of(path: &Path) -> Result<Project, CliError> {
    read_project(&read(path)?, PackageLimits::default()).map_err(app)
}

fn laid_out(project: Project, surface: Surface, dials: &[String]) -> Result<(Document, Surface), CliError> {
    let finer = match &project.document.intake.finer {
        Some(f) => {
            let bytes = project.files.get(&f.mesh.hash).map(Vec::as_slice).unwrap_or_default();
            Some((
                Arc::new(Finer::read(&f.mesh.file, bytes, project.document.intake.taking_finer(f)).map_err(app)?),
                f.cage_on(&surface.piece),
            ))
        }
        None => None,
    };
    Ok((turned(project.document, None, dials)?, surface.with_finer(finer)))
}

/// The dials of a document, or of the recipe that a layer uses.
pub(super) fn dials_of<'a>(document: &'a Document, layer: Option<&str>) -> &'a [Dial] {
    let used = layer.and_then(|id| document::find_layer(&document.layers, id)).map(|l| &l.kind);
    if let Some(LayerKind::Use { recipe, .. }) = used { &recipe.dials } else { &document.dials }
}

/// A document with dials of it, or of a layer that uses a recipe, turned as `dial=value` says.
fn turned(mut document: Document, layer: Option<&str>, to: &[String]) -> Result<Document, CliError> {
    for text in to {
        let (dial, value) = dial_value(text, dials_of(&document, layer), &document.study.palettes)?;
        let turn = Edit::TurnDial { layer: layer.map(str::to_owned), dial, value };
        document = document::apply(&document, &turn).map_err(app)?;
    }
    Ok(document)
}

pub fn export(args: &ExportArgs, json: bool) -> Result<(), CliError> {
    exported(args, json)?.into_iter().for_each(|written| report(json, written.told));
    Ok(())
}

/// Writes what is asked for; for all variants, one after the other.
pub(super) fn exported(args: &ExportArgs, json: bool) -> Result<Vec<Written>, CliError> {
    let project = project_of(&args.project)?;
    let piece = Arc::new(piece_of(&project)?);
    let size = layout_for(&project.document, &piece, &args.common)?.size;
    let (document, surface) = laid_out(project, surface_for(piece, size)?, &[])?;
    let to = |document, out: &Path, variant: &str| {
        let document = with_preset(document, args.preset.as_deref())?;
        let document = turned(seeded(document, None, args.seed)?, None, &args.common.settings)?;
        write_textures(&document, &surface, &args.common, out, variant, json)
    };
    let Some(variant) = &args.variant else { return Ok(vec![to(document, &args.common.out, "")?]) };
    let there: Vec<&str> = document.variants.iter().map(|v| v.name.as_str()).collect();
    let wanted: Vec<&str> = there.iter().copied().filter(|name| variant == "all" || name == variant).collect();
    if wanted.is_empty() {
        let all = if there.is_empty() { "none".into() } else { there.join(", ") };
        return Err(usage(format!("there is no variant “{variant}”; there are: {all}")));
    }
    let (mut folders, mut written) = (BTreeSet::new(), vec![]);
    for name in &wanted {
        let mut folder = handoff::file_name(name);
        while variant == "all" && !folders.insert(folder.clone()) {
            folder.push('_');
        }
        let take = Edit::TakeVariant { name: (*name).to_owned() };
        let taken = document::apply(&document, &take).map_err(app)?;
        let out = &args.common.out;
        written.push(to(taken, &if variant == "all" { out.join(folder) } else { out.clone() }, name)?);
    }
    Ok(written)
}

/// A document whose layers have taken a preset of that name, as far as their recipes have one.
fn with_preset(mut document: Document, name: Option<&str>) -> Result<Document, CliError> {
    let Some(name) = name else { return Ok(document) };
    let mut there = BTreeSet::new();
    let mut takes = vec![];
    for layer in document::layers(&document.layers) {
        let LayerKind::Use { recipe, .. } = &layer.kind else { continue };
        there.extend(recipe.presets.iter().map(|p| p.name.clone()));
        if recipe.presets.iter().any(|p| p.name == name) {
            takes.push(Edit::TakePreset { layer: layer.id.clone(), name: name.into() });
        }
    }
    if takes.is_empty() {
        let all: Vec<String> = there.into_iter().collect();
        return Err(usage(format!("there is no preset “{name}”; there are: {}", listed(&all))));
    }
    for take in &takes {
        document = document::apply(&document, take).map_err(app)?;
    }
    Ok(document)
}

/// A document whose seeds, or those of the recipe that a layer uses, stand at one number.
fn seeded(mut document: Document, layer: Option<&str>, seed: Option<u32>) -> Result<Document, CliError> {
    let Some(seed) = seed else { return Ok(document) };
    let seeds = dials_of(&document, layer).iter().filter(|d| d.kind() == DialKind::Seed && d.formula.is_none());
    let seeds: Vec<String> = seeds.map(|d| d.id.clone()).collect();
    for dial in seeds {
        let turn = Edit::TurnDial { layer: layer.map(str::to_owned), dial, value: Value::Number(seed.into()) };
        document = document::apply(&document, &turn).map_err(app)?;
    }
    Ok(document)
}

fn listed(all: &[String]) -> String {
    if all.is_empty() { "none".into() } else { all.join(", ") }
}

pub fn apply(args: &ApplyArgs, json: bool) -> Result<(), CliError> {
    let recipe = read_recipe(&read(&args.recipe)?, PackageLimits::default()).map_err(app)?;
    let mut document = Document::new("");
    let mut files = BTreeMap::new();
    let mut values = slots(&recipe, &args.parts, DialKind::Part)?;
    let mesh = Arc::new(load(&args.mesh, args.taking.taking()?)?);
    for (dial, path) in slots(&recipe, &args.pictures, DialKind::Picture)? {
        let Value::Text(path) = path else { continue };
        let path = PathBuf::from(path);
        let (bytes, file) = (read(&path)?, file_name(&path));
        let used = picture_use(&document.intake.mesh, &mesh, &file, "mask", &bytes)?;
        files.insert(used.hash.clone(), bytes);
        document.intake.add_picture(used);
        values.insert(dial, Value::Text(file));
    }
    let piece = Arc::new(Piece::clone(&mesh).take_in(&document.intake, &|used| files.get(&used.hash).cloned()));
    let named = |all: Vec<String>, kind: DialKind, given: &[String]| {
        let lost = values.iter().find(|(id, v)| {
            recipe.dials.iter().any(|d| d.id == **id && d.kind() == kind)
                && matches!(v, Value::Text(name) if !all.contains(name))
        });
        lost.map_or(Ok(()), |_| Err(usage(format!("{}: the mesh has: {}", given.join(" "), listed(&all)))))
    };
    named(piece.parts.iter().map(|p| p.name.clone()).collect(), DialKind::Part, &args.parts)?;
    named(piece.pictures.keys().cloned().collect(), DialKind::Picture, &args.pictures)?;
    if let Some(name) = args.preset.as_ref().filter(|name| recipe.presets.iter().all(|p| p.name != **name)) {
        let all: Vec<String> = recipe.presets.iter().map(|p| p.name.clone()).collect();
        return Err(usage(format!("there is no preset “{name}”; there are: {}", listed(&all))));
    }
    let layer = recipe.to_use_on(&piece, args.preset.as_deref(), &values).map_err(app)?;
    let used = "l1";
    document.layers.push(Layer { id: used.into(), ..layer });
    document.name.clone_from(&piece.name);
    document::check(&document).map_err(app)?;
    let document = turned(seeded(document, Some(used), args.seed)?, Some(used), &args.common.settings)?;
    let size = layout_for(&document, &piece, &args.common)?.size;
    let written = write_textures(&document, &surface_for(piece, size)?, &args.common, &args.common.out, "", json)?;
    report(json, written.told);
    Ok(())
}

/// What fills a recipe's slots of a kind, by dial.
fn slots(recipe: &Recipe, given: &[String], kind: DialKind) -> Result<BTreeMap<String, Value>, CliError> {
    let of_kind: Vec<&Dial> = recipe.dials.iter().filter(|d| d.kind() == kind && d.formula.is_none()).collect();
    let one = |text: &String| {
        let (slot, fills) = assignment(text)?;
        let dial = of_kind.iter().find(|d| d.id == slot || d.label.eq_ignore_ascii_case(slot));
        let all = || of_kind.iter().map(|d| d.label.clone()).collect::<Vec<_>>();
        let dial =
            dial.ok_or_else(|| usage(format!("there is no such slot “{slot}”; there are: {}", listed(&all()))))?;
        Ok((dial.id.clone(), Value::Text(fills.into())))
    };
    given.iter().map(one).collect()
}

/// The dial of that id or label.
pub(super) fn dial_named<'a>(name: &str, dials: &'a [Dial]) -> Result<&'a Dial, CliError> {
    let all = || listed(&dials.iter().map(|d| d.label.clone()).collect::<Vec<_>>());
    let dial = dials.iter().find(|d| d.id == name || d.label.eq_ignore_ascii_case(name));
    dial.ok_or_else(|| usage(format!("there is no dial “{name}”; there are: {}", all())))
}

fn dial_value(text: &str, dials: &[Dial], palettes: &[Palette]) -> Result<(String, Value), CliError> {
    let (name, value) = assignment(text)?;
    let dial = dial_named(name, dials)?;
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
        DialKind::Palette => {
            let named = palettes.iter().find(|p| p.name.eq_ignore_ascii_case(value));
            Value::Text(named.map_or_else(|| value.into(), |p| write_palette(&p.colors)))
        }
    };
    Ok((dial.id.clone(), value))
}

/// What was written into a folder.
pub(super) struct Written {
    /// The list of it.
    pub manifest: Manifest,
    /// What is said of it.
    told: serde_json::Value,
}

/// Writes the textures of a document into a folder.
fn write_textures(
    document: &Document,
    surface: &Surface,
    args: &WriteArgs,
    out: &Path,
    variant: &str,
    json: bool,
) -> Result<Written, CliError> {
    let clock = Instant::now();
    let layout = layout_for(document, &surface.piece, args)?;
    let text = serde_json::to_vec(document).expect("a document is plain data");
    let revision = blake3::hash(&text).to_hex()[..8].to_owned();
    let naming = Naming { piece: &document.name, variant, revision: &revision };
    let prepared = handoff::prepare(&layout, document, &surface.piece, naming).map_err(app)?;
    let (ticker, cancel) = (Ticker::new(json), Cancel::default());
    let tick = |label: &str, share: f32| ticker.tick(label, share);
    let take = |keys: &[MeasurementKey], on: &Surface| Measured::take(keys, on, &cancel, &tick).map_err(app);
    let measured = prepared.measured(surface, take)?;
    let cache = Cache::new(1 << 30);
    let context = Context { surface, measured: &measured, cache: &cache, cancel: &cancel, progress: &tick };
    let plan = &prepared.plan;
    let job = Handoff { document, context: &context, plan, budget: BUDGET };
    let (mut written, mut manifest) = (vec![], Manifest::new(plan, naming));
    let coverage = job.write::<CliError>(&mut |file, bytes| {
        let path: &Path = &out.join(&file.name);
        // What is there already stays as it is, with the time that it is of: whoever builds on it has nothing to do.
        let same = std::fs::read(path).is_ok_and(|held| held == bytes);
        if !same {
            write(path, &bytes)?;
        }
        manifest.add(file, &bytes);
        let path = path.display().to_string();
        written.push(json!({"sheet": file.sheet, "map": file.map, "path": path, "unchanged": same}));
        Ok(())
    })?;
    write(&out.join(Plan::manifest_name(naming)), &manifest.json())?;
    let coverage: Vec<_> =
        coverage.iter().map(|c| json!({"layer": c.name, "mask": c.mask, "visible": c.visible})).collect();
    let told = json!({"files": written, "coverage": coverage, "seconds": clock.elapsed().as_secs_f64()});
    Ok(Written { manifest, told })
}

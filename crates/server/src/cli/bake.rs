//! `bake`: everything that is known of a mesh as pictures.

use std::collections::hash_map::Entry;
use std::collections::{BTreeMap, HashMap};
use std::path::PathBuf;
use std::sync::Arc;
use std::time::Instant;

use clap::{Args, ValueEnum};
use dustcoat_core::bake::{
    Extent, Finer, MEASUREMENTS, Measurement, MeasurementKey, READINGS, Reading, Surface, measure, measurement,
    reading, weather,
};
use dustcoat_core::evaluate::texture;
use dustcoat_core::handoff::{exr, of_sheet, png};
use dustcoat_core::mesh::Piece;
use dustcoat_core::mesh::mend::Taking;
use dustcoat_core::raster::Plane;
use dustcoat_core::setting::{ParamSpec, Settings, Value};
use dustcoat_core::task::Cancel;
use serde_json::json;

use super::given::{app, assignment, file_name, setting, usage};
use super::meshes::{TakingArgs, load};
use super::texture::{report, surface};
use super::ticker::Ticker;
use super::{CliError, read, write};

#[derive(Clone, Copy, PartialEq, Eq, ValueEnum)]
enum Format {
    Png,
    Exr,
}

#[derive(Args)]
pub struct BakeArgs {
    /// GLB, glTF, OBJ, PLY, STL or USD, or a ZIP with one inside.
    mesh: PathBuf,
    /// Folder to write to.
    #[arg(long)]
    out: PathBuf,
    /// Texture size: a power of two from 64 to 4096.
    #[arg(long, default_value_t = 1024)]
    size: u32,
    /// What to write, with commas: readings (edges:fine for one of three radii, flow:washed for what else it tells), position, normal, base_normal; all readings if not given.
    #[arg(long, value_delimiter = ',')]
    readings: Vec<String>,
    /// A setting, such as occlusion.rays=256, curvature.fine=1.5 or facing.direction=down.
    #[arg(long = "set", value_name = "KIND.SETTING=VALUE")]
    settings: Vec<String>,
    #[command(flatten)]
    taking: TakingArgs,
    /// A finer mesh whose relief is written as base_normal.
    #[arg(long)]
    finer: Option<PathBuf>,
    /// How far from the piece the finer mesh is looked for, in mm; a fiftieth of its diagonal if not given.
    #[arg(long)]
    cage: Option<f32>,
    /// File format: 16-bit PNG, or EXR with float numbers (positions in mm).
    #[arg(long, value_enum, default_value = "png")]
    format: Format,
}

fn find_reading(name: &str) -> Result<&'static Reading, CliError> {
    let all = || READINGS.iter().map(|r| r.kind).collect::<Vec<_>>().join(", ");
    let kind = name.split_once(':').map_or(name, |n| n.0);
    let missing =
        || usage(format!("there is no reading “{name}”; there are: {}, position, normal, base_normal", all()));
    reading::find(kind).ok_or_else(missing)
}

/// The settings that a kind has: of a measurement, or of a reading.
fn specs_of(kind: &str, text: &str) -> Result<Vec<ParamSpec>, CliError> {
    let measured = measurement::settings_of(kind, Extent::default()).map(|m| m.1);
    let specs = measured.or_else(|| reading::find(kind).map(|r| (r.specs)()));
    let all = || {
        let kinds: Vec<&str> = [weather::KIND].into_iter().chain(MEASUREMENTS.iter().map(|m| m.kind)).collect();
        let more = READINGS.iter().map(|r| r.kind).filter(|k| !kinds.contains(k));
        kinds.iter().copied().chain(more).collect::<Vec<_>>().join(", ")
    };
    specs.ok_or_else(|| usage(format!("--set {text}: there is nothing called “{kind}”; there are: {}", all())))
}

/// Settings of measurements and readings from `kind.setting=value`, checked against their descriptions.
fn reading_settings(list: &[String]) -> Result<BTreeMap<String, Settings>, CliError> {
    let mut out: BTreeMap<String, Settings> = BTreeMap::new();
    for text in list {
        let (name, value) = assignment(text)?;
        let (kind, key) =
            name.split_once('.').ok_or_else(|| usage(format!("--set {text}: write it as kind.setting=value")))?;
        let specs = specs_of(kind, text)?;
        out.entry(kind.into()).or_default().insert(key.into(), setting(kind, &specs, key, value)?);
    }
    Ok(out)
}

fn key(measured: &Measurement, piece: &Piece, settings: &BTreeMap<String, Settings>) -> MeasurementKey {
    let settings = measurement::settings_among(settings, measured.kind);
    MeasurementKey::new(measured, Extent::of(piece), &settings)
}

/// One map to write: its name and one or three numbers per covered texel, components one after the other.
struct Map {
    name: String,
    planes: Vec<Plane>,
    /// What empty texels hold.
    empty: f32,
}

pub fn bake(args: &BakeArgs, json: bool) -> Result<(), CliError> {
    let clock = Instant::now();
    let settings = reading_settings(&args.settings)?;
    let wanted: Vec<String> = match args.readings.as_slice() {
        [] => READINGS.iter().map(|r| r.kind.to_owned()).collect(),
        list => list.to_vec(),
    };
    for name in wanted.iter().filter(|n| !matches!(n.as_str(), "position" | "normal" | "base_normal")) {
        find_reading(name)?;
    }
    let taking = args.taking.taking()?;
    let piece = Arc::new(load(&args.mesh, taking.clone())?);
    let cage = args.cage.unwrap_or(piece.diagonal() * 0.02);
    let finer = match &args.finer {
        Some(path) => {
            let taking = Taking { mending: taking.mending.of_shape(), ..taking };
            Some((Arc::new(Finer::read(&file_name(path), &read(path)?, taking).map_err(app)?), cage))
        }
        None => None,
    };
    let surface = surface(piece, args.size)?.with_finer(finer);
    let ticker = Ticker::new(json);
    let mut held: HashMap<&str, Plane> = HashMap::new();
    let mut files = vec![];
    for name in &wanted {
        let map = match name.as_str() {
            "position" => position(&surface, args.format),
            "normal" => Map { name: name.clone(), planes: normal(&surface), empty: 0.5 },
            "base_normal" => base_normal(&surface)?,
            _ => reading_map(name, &surface, &settings, &mut held, &ticker)?,
        };
        for (i, sheet) in surface.piece.sheets.iter().enumerate() {
            let (ext, bytes) = encode(&map, &surface, i, args.format);
            let stem = format!("{}_{}_{}", surface.piece.name, sheet.name, map.name);
            let path = args.out.join(format!("{}.{ext}", safe_name(&stem)));
            write(&path, &bytes)?;
            files.push(json!({"sheet": sheet.name, "reading": map.name, "path": path.display().to_string()}));
        }
    }
    report(json, json!({"files": files, "seconds": clock.elapsed().as_secs_f64()}));
    Ok(())
}

fn reading_map(
    name: &str,
    surface: &Surface,
    settings: &BTreeMap<String, Settings>,
    held: &mut HashMap<&'static str, Plane>,
    ticker: &Ticker,
) -> Result<Map, CliError> {
    let reading = find_reading(name)?;
    if let Some(m) = reading.measurement()
        && let Entry::Vacant(free) = held.entry(m.kind)
    {
        let key = key(m, &surface.piece, settings);
        let tick = |label: &str, share: f32| ticker.tick(label, share);
        free.insert(measure(m, surface, &key.settings, &Cancel::default(), &tick).map_err(app)?);
    }
    let mut own = settings.get(reading.kind).cloned().unwrap_or_default();
    if let Some((_, way)) = name.split_once(':') {
        let spec = reading.ways().ok_or_else(|| usage(format!("{name}: {} is read in one way only", reading.kind)))?;
        spec.check(&Value::Text(way.into())).map_err(|e| usage(format!("{name}: {e}")))?;
        own.insert(spec.key.into(), way.into());
    }
    let weather = settings.get(weather::KIND).cloned().unwrap_or_default();
    let plane =
        reading.plane(surface, &reading.settings(&own, &weather), reading.measurement().and_then(|m| held.get(m.kind)));
    Ok(Map { name: name.replace(':', "_"), planes: vec![plane], empty: 0.0 })
}

/// Positions: in mm in an EXR, as shares of the bounding box in a PNG.
fn position(surface: &Surface, format: Format) -> Map {
    let (a, piece) = (&surface.atlas, &surface.piece);
    let planes = [&a.px, &a.py, &a.pz].into_iter().enumerate().map(|(k, plane)| match format {
        Format::Exr => plane.clone(),
        Format::Png => {
            let span = (piece.max[k] - piece.min[k]).max(1e-9);
            plane.iter().map(|v| (v - piece.min[k]) / span).collect()
        }
    });
    Map { name: "position".into(), planes: planes.collect(), empty: 0.0 }
}

/// Normals in the piece's space, −1…1 laid on 0…1.
fn normal(surface: &Surface) -> Vec<Plane> {
    let a = &surface.atlas;
    [&a.nx, &a.ny, &a.nz].map(|plane| plane.iter().map(|v| v * 0.5 + 0.5).collect()).to_vec()
}

fn base_normal(surface: &Surface) -> Result<Map, CliError> {
    let base = surface.base_normals().ok_or_else(|| usage("base_normal needs a finer mesh: give it with --finer"))?;
    if let Some(missed) = base.missed.filter(|m| *m > 0.001) {
        eprintln!("{:.1} % of the texels met no finer mesh within the cage; give a larger --cage.", missed * 100.0);
    }
    let planes = (0..3).map(|k| base.normals.iter().map(|n| n[k] * 0.5 + 0.5).collect()).collect();
    Ok(Map { name: "base_normal".into(), planes, empty: 0.5 })
}

/// One sheet of a map as a file: its extension and bytes.
fn encode(map: &Map, surface: &Surface, sheet: usize, format: Format) -> (&'static str, Vec<u8>) {
    let size = surface.atlas.size;
    match format {
        Format::Png => {
            let planes: Vec<Vec<u8>> = map.planes.iter().map(|p| texture::grey16(surface, p, map.empty)).collect();
            let own: Vec<&[u8]> = planes.iter().map(|p| of_sheet(p, sheet, size, 2)).collect();
            ("png", if own.len() == 1 { png::grey16(own[0], size) } else { png::rgb16([own[0], own[1], own[2]], size) })
        }
        Format::Exr => {
            let all: Vec<Vec<f32>> = map.planes.iter().map(|p| texture::floats(surface, p, map.empty)).collect();
            let one = (size * size) as usize;
            let own = |k: usize| &all[k.min(all.len() - 1)][sheet * one..(sheet + 1) * one];
            ("exr", exr::rgb([own(0), own(1), own(2)], size))
        }
    }
}

fn safe_name(name: &str) -> String {
    name.chars().map(|c| if c.is_alphanumeric() || "-_.".contains(c) { c } else { '_' }).collect()
}

//! `still`: pictures of a project by the path tracer, one or a turntable's.

use std::path::PathBuf;
use std::time::Instant;

use clap::Args;
use dustcoat_core::evaluate::{Cache, Context, Measured, evaluate, needs};
use dustcoat_core::handoff::png;
use dustcoat_core::still::shoot::{StillSettings, Surround, shoot};
use dustcoat_core::task::Cancel;
use serde_json::json;

use super::given::{app, usage};
use super::texture::{opened, report};
use super::ticker::Ticker;
use super::{CliError, write};

#[derive(Args)]
pub struct StillArgs {
    /// A .dustcoat file.
    project: PathBuf,
    /// File to write, a PNG; of a turntable, its pictures are numbered.
    #[arg(long)]
    out: PathBuf,
    /// Pixels along each side.
    #[arg(long, default_value_t = 512)]
    size: u32,
    /// Samples to a pixel: 16 for a look, 64 for a still, 256 for a smooth one.
    #[arg(long, default_value_t = 64)]
    samples: u32,
    /// Takes noise out, so that few samples look like more.
    #[arg(long)]
    denoise: bool,
    /// Texture size that the piece is evaluated at.
    #[arg(long, default_value_t = 1024)]
    texture: u32,
    /// Set-up of light.
    #[arg(long, default_value = "quay")]
    light: String,
    /// Degrees that the light is turned by.
    #[arg(long, default_value_t = 0.0, allow_negative_numbers = true)]
    turn: f32,
    /// Factor of the light.
    #[arg(long, default_value_t = 1.0)]
    brightness: f32,
    /// Strength of the light from behind.
    #[arg(long, default_value_t = 0.0)]
    rim: f32,
    /// Stops.
    #[arg(long, default_value_t = 0.0, allow_negative_numbers = true)]
    exposure: f32,
    /// What is seen around the piece: grey, light, dark, sky or clear.
    #[arg(long, default_value = "grey", value_parser = surround)]
    surround: Surround,
    /// A place of the camera that the project keeps; otherwise all of the piece is in the picture.
    #[arg(long)]
    place: Option<String>,
    /// Stands it on something.
    #[arg(long)]
    ground: bool,
    /// Lets its relief move the surface, outline and all.
    #[arg(long)]
    relief: bool,
    /// Pictures of one turn of the piece.
    #[arg(long, default_value_t = 1)]
    turntable: u32,
    /// Turns a dial, by its id or label.
    #[arg(long = "set", value_name = "DIAL=VALUE")]
    settings: Vec<String>,
}

fn surround(text: &str) -> Result<Surround, String> {
    serde_json::from_value(text.into()).map_err(|_| "one of grey, light, dark, sky, clear".into())
}

pub fn still(args: &StillArgs, json: bool) -> Result<(), CliError> {
    let clock = Instant::now();
    let mut settings = StillSettings {
        width: args.size,
        height: args.size,
        samples: args.samples,
        denoise: args.denoise,
        light: args.light.clone(),
        turn: args.turn,
        brightness: args.brightness,
        rim: args.rim,
        exposure: args.exposure,
        surround: args.surround,
        ground: args.ground,
        relief: args.relief,
        turntable: args.turntable,
        ..StillSettings::default()
    };
    settings.check().map_err(app)?;
    let (document, surface) = opened(&args.project, &args.settings, args.texture)?;
    if let Some(name) = &args.place {
        let place = document.places.iter().find(|p| p.name == *name);
        let place = place.ok_or_else(|| usage(format!("--place {name}: the project keeps no place of that name")))?;
        // The view's opening.
        (settings.eye, settings.target, settings.fov) = (Some(place.eye), place.target, 32.0);
    }
    let (ticker, cancel) = (Ticker::new(json), Cancel::default());
    let tick = |label: &str, share: f32| ticker.tick(label, share);
    let measured = Measured::take(&needs(&document, &surface.piece), &surface, &cancel, &tick).map_err(app)?;
    let cache = Cache::new(1 << 30);
    let context = Context { surface: &surface, measured: &measured, cache: &cache, cancel: &cancel, progress: &tick };
    let e = evaluate(&document, &context)?;
    let pictures = shoot(&surface, &e, &settings, &cancel, &tick).map_err(app)?;
    let mut files = vec![];
    for (k, picture) in pictures.iter().enumerate() {
        let path = if pictures.len() == 1 { args.out.clone() } else { numbered(&args.out, k + 1) };
        write(&path, &png::rgba8(picture, args.size, args.size))?;
        files.push(json!({"path": path.display().to_string()}));
    }
    report(json, json!({"files": files, "seconds": clock.elapsed().as_secs_f64()}));
    Ok(())
}

fn numbered(path: &std::path::Path, k: usize) -> PathBuf {
    let stem = path.file_stem().unwrap_or_default().to_string_lossy();
    path.with_file_name(format!("{stem}-{k:03}.png"))
}

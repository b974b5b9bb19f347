//! `ladder`: one or two dials stepped over a range, as one sheet of pictures with labels.

use std::path::PathBuf;
use std::time::Instant;

use clap::Args;
use dustcoat_core::document::{self, LadderSide};
use dustcoat_core::evaluate::{Cache, Context, Measured, evaluate_channels, needs};
use dustcoat_core::handoff::sheet::{Cell, sheet};
use dustcoat_core::still::shoot::{StillSettings, shoot};
use dustcoat_core::task::{Cancel, silent};
use serde_json::json;

use super::given::{app, usage};
use super::texture::{dial_named, opened, report};
use super::ticker::Ticker;
use super::{CliError, write};
use crate::app;
use crate::views::LadderRequest;

#[derive(Args)]
pub struct LadderArgs {
    /// A .dustcoat file.
    project: PathBuf,
    /// File to write, a PNG.
    #[arg(long)]
    out: PathBuf,
    /// The dial that is stepped from left to right, by its id or label: `Wear`, or `Wear=0.2..0.8`, or `Wear=0.2..0.8/4` for four steps.
    #[arg(long, value_name = "DIAL[=FROM..TO][/STEPS]")]
    across: String,
    /// The dial that is stepped from top to bottom, in the same way.
    #[arg(long, value_name = "DIAL[=FROM..TO][/STEPS]")]
    down: Option<String>,
    /// Pixels along each side of a picture.
    #[arg(long, default_value_t = 256)]
    size: u32,
    /// Samples to a pixel; noise is taken out.
    #[arg(long, default_value_t = 24)]
    samples: u32,
    /// Texture size that the piece is evaluated at.
    #[arg(long, default_value_t = 512)]
    texture: u32,
    /// Turns another dial, by its id or label.
    #[arg(long = "set", value_name = "DIAL=VALUE")]
    settings: Vec<String>,
}

/// Reads `Wear=0.2..0.8/4`.
fn side(text: &str, dials: &[document::Dial]) -> Result<LadderSide, CliError> {
    let wrong = || usage(format!("“{text}”: write it as DIAL, DIAL=FROM..TO, or DIAL=FROM..TO/STEPS"));
    // A label may hold a slash; what follows the last one is a number of steps or part of it.
    let steps = text.rsplit_once('/').and_then(|(rest, n)| Some((rest, n.trim().parse().ok()?)));
    let (rest, steps) = steps.map_or((text, None), |(rest, n)| (rest, Some(n)));
    let (name, range) = rest.split_once('=').map_or((rest, None), |(name, range)| (name, Some(range)));
    let ends = range.map(|r| r.split_once("..").ok_or_else(wrong)).transpose()?;
    let number = |text: &str| text.trim().parse::<f64>().map_err(|_| wrong());
    let (from, to) = match ends {
        Some((from, to)) => (Some(number(from)?), Some(number(to)?)),
        None => (None, None),
    };
    Ok(LadderSide { dial: dial_named(name.trim(), dials)?.id.clone(), from, to, steps })
}

pub fn ladder(args: &LadderArgs, json: bool) -> Result<(), CliError> {
    let clock = Instant::now();
    let settings = StillSettings {
        width: args.size,
        height: args.size,
        samples: args.samples,
        denoise: true,
        ..StillSettings::default()
    };
    settings.check().map_err(app)?;
    let (document, surface) = opened(&args.project, &args.settings, args.texture)?;
    let across = side(&args.across, &document.dials)?;
    let down = args.down.as_ref().map(|text| side(text, &document.dials)).transpose()?;
    let request = LadderRequest { across, down };
    let found = app::ladder(&document, &request)?;
    let (ticker, cancel) = (Ticker::new(json), Cancel::default());
    let tick = |label: &str, share: f32| ticker.tick(label, share);
    let measured = Measured::take(&needs(&document, &surface.piece), &surface, &cancel, &tick).map_err(app)?;
    let cache = Cache::new(1 << 30);
    let context = Context { surface: &surface, measured: &measured, cache: &cache, cancel: &cancel, progress: &silent };
    let steps = app::steps(&request, &found);
    let mut cells = vec![];
    for (k, (edits, words)) in steps.iter().enumerate() {
        tick(&words.join(", "), k as f32 / steps.len() as f32);
        let mut turned = document.clone();
        for edit in edits {
            turned = document::apply(&turned, edit).map_err(app)?;
        }
        let e = evaluate_channels(&turned, &context)?;
        let picture = shoot(&surface, &e, &settings, &cancel, &silent).map_err(app)?.swap_remove(0);
        cells.push(Cell { picture, words: words.clone() });
    }
    write(&args.out, &sheet(&cells, (args.size, args.size), found.across.len() as u32))?;
    let labels: Vec<_> = steps.iter().map(|(_, words)| words.join(", ")).collect();
    let files = json!([{"path": args.out.display().to_string()}]);
    report(json, json!({"files": files, "steps": labels, "seconds": clock.elapsed().as_secs_f64()}));
    Ok(())
}

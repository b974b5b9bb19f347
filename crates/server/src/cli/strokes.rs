//! `strokes`: brings a mask that was painted elsewhere into a project, as a step of a mask line.

use std::path::PathBuf;

use clap::Args;
use dustcoat_core::document::{Document, Edit, apply, find_layer, layers};
use dustcoat_core::mask::{Join, Step};
use dustcoat_core::recipe::package::{PackageLimits, read_project, write_project};
use serde_json::json;

use super::texture::{piece_of, report};
use super::{CliError, read, write};
use crate::app::{AppError, picture_use};

#[derive(Args)]
pub struct StrokesArgs {
    /// A .dustcoat file.
    project: PathBuf,
    /// The picture: a PNG, JPEG, TIFF, WebP, EXR or HDR that was painted for the UVs of the piece.
    #[arg(long)]
    mask: PathBuf,
    /// The layer whose mask line takes it, by name or id; the topmost if not given.
    #[arg(long)]
    layer: Option<String>,
    /// How it joins the line: replace, multiply, add, subtract, max, min, screen or overlay. Multiplies if not given, or begins an empty line.
    #[arg(long)]
    join: Option<String>,
    /// Which sheet it was painted for, counted from 1; all of them if not given.
    #[arg(long, default_value_t = 0)]
    sheet: u32,
    /// The project file to write.
    #[arg(long)]
    out: PathBuf,
}

pub fn strokes(args: &StrokesArgs, json: bool) -> Result<(), CliError> {
    let mut project = read_project(&read(&args.project)?, PackageLimits::default()).map_err(AppError::from)?;
    let bytes = read(&args.mask)?;
    let (layer, steps) = layer_of(&project.document, args.layer.as_deref())?;
    let join = match &args.join {
        Some(join) => serde_json::from_value(json!(join)).map_err(|_| {
            CliError::Usage(format!(
                "There is no join “{join}”. There are replace, multiply, add, subtract, max, min, screen and overlay."
            ))
        })?,
        None if steps == 0 => Join::Replace,
        None => Join::Multiply,
    };
    let name = args.mask.file_name().unwrap_or_default().to_string_lossy();
    let piece = piece_of(&project)?;
    let picture = picture_use(&project.document.intake.mesh, &piece, &name, "mask", &bytes)?;
    let settings = json!({"picture": picture.file, "sheet": args.sheet});
    let step: Step = serde_json::from_value(json!({"kind": "painted", "join": join, "settings": settings}))
        .map_err(|e| CliError::Usage(e.to_string()))?;
    let brought = Edit::AddPicture { picture: picture.clone() };
    let laid = Edit::AddStep { layer: layer.clone(), index: steps, step };
    let edited = apply(&project.document, &brought).and_then(|d| apply(&d, &laid)).map_err(AppError::from)?;
    project.document = edited;
    project.files.insert(picture.hash, bytes);
    write(&args.out, &write_project(&project, None))?;
    report(json, json!({"files": [args.out.display().to_string()], "layer": layer, "picture": picture.file}));
    Ok(())
}

/// The id of a layer by name or id, and how many steps its line has.
fn layer_of(document: &Document, wanted: Option<&str>) -> Result<(String, usize), CliError> {
    let all = layers(&document.layers);
    let found = match wanted {
        None => document.layers.last(),
        Some(wanted) => find_layer(&document.layers, wanted).or_else(|| all.iter().copied().find(|l| l.name == wanted)),
    };
    let names = || all.iter().map(|l| l.name.as_str()).collect::<Vec<_>>().join(", ");
    let layer = found.ok_or_else(|| match wanted {
        Some(wanted) => CliError::Usage(format!("There is no layer “{wanted}”. There are: {}.", names())),
        None => CliError::Usage("The project has no layer that could take a mask. Lay a coat first.".into()),
    })?;
    Ok((layer.id.clone(), layer.mask.steps.len()))
}

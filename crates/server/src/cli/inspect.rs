//! `inspect`: what a mesh, project or recipe holds.

use std::collections::BTreeMap;
use std::path::PathBuf;

use clap::Args;
use dustcoat_core::bake::{Atlas, layout};
use dustcoat_core::document::{self, Derived, Dial, Document, layers, points};
use dustcoat_core::mesh::Piece;
use dustcoat_core::recipe::package::{PackageLimits, read_project, read_recipe};
use serde_json::{Value, json};

use super::meshes::{TakingArgs, load};
use super::{CliError, read};
use crate::app::AppError;

#[derive(Args)]
pub struct InspectArgs {
    /// A mesh (with what it names beside it), a folder or a ZIP with one, a .dustcoat or a .coatrecipe.
    file: PathBuf,
    #[command(flatten)]
    taking: TakingArgs,
}

pub fn inspect(args: &InspectArgs, json: bool) -> Result<(), CliError> {
    let name = args.file.file_name().unwrap_or_default().to_string_lossy().into_owned();
    let limits = PackageLimits::default();
    let found = if name.ends_with(".coatrecipe") {
        let recipe = read_recipe(&read(&args.file)?, limits).map_err(AppError::from)?;
        let needs = recipe.needs();
        let mut document = Document::new(&recipe.name);
        let strokes = points(&recipe).len();
        document.layers = recipe.layers;
        json!({"kind": "recipe", "name": recipe.name, "note": recipe.note, "version": recipe.version, "tags": recipe.tags,
               "history": recipe.history, "layers": layer_names(&document), "dials": dials(&recipe.dials),
               "presets": recipe.presets, "needs": needs, "strokes": strokes})
    } else if name.ends_with(".dustcoat") {
        let project = read_project(&read(&args.file)?, limits).map_err(AppError::from)?;
        let piece = super::texture::piece_of(&project);
        json!({"kind": "project", "name": project.document.name, "layers": layer_names(&project.document),
               "dials": dials(&project.document.dials),
               "variants": project.document.variants,
               "strokes": points(&project.document).len(),
               "mesh": mesh(&piece?)})
    } else {
        mesh(&load(&args.file, args.taking.taking()?)?)
    };
    if json {
        println!("{found}");
    } else {
        print(&found, 0);
    }
    Ok(())
}

fn layer_names(document: &Document) -> Vec<String> {
    layers(&document.layers).iter().map(|l| l.name.clone()).collect()
}

fn dials(all: &[Dial]) -> Vec<Value> {
    let derived = document::derived(all);
    all.iter().map(|d| dial(d, &derived)).collect()
}

fn dial(d: &Dial, derived: &BTreeMap<String, Derived>) -> Value {
    let led = derived.get(&d.id);
    let value = led.map_or(&d.value, |l| &l.value);
    json!({"id": d.id, "label": d.label, "kind": d.kind(), "group": d.group, "help": d.help, "unit": d.unit, "min": d.min,
           "max": d.max, "options": d.options, "default": d.default, "formula": led.map(|l| &l.formula), "value": value})
}

fn mesh(piece: &Piece) -> Value {
    let size: Vec<f32> = (0..3).map(|a| piece.max[a] - piece.min[a]).collect();
    let report = layout::report(piece, &Atlas::build(piece, 1024));
    let findings: Vec<_> = piece.findings.iter().cloned().chain(report.finding()).collect();
    json!({"kind": "mesh", "name": piece.name, "triangles": piece.triangles.len(), "vertices": piece.positions.len(),
           "parts": piece.parts, "shells": piece.shells, "charts": piece.charts, "size_mm": size,
           "sheets": piece.sheets.iter().map(|s| s.name.as_str()).collect::<Vec<_>>(),
           "layout_at_1024": report, "colored": !piece.colors.is_empty(), "findings": findings})
}

/// Prints a JSON value as an indented outline.
fn print(value: &Value, depth: usize) {
    let pad = "  ".repeat(depth);
    let plain = |v: &Value| v.as_str().map_or_else(|| v.to_string(), str::to_owned);
    match value {
        Value::Object(map) => map.iter().for_each(|(k, v)| match v {
            Value::Array(a) if a.iter().all(|v| !v.is_object()) => {
                println!("{pad}{k}: {}", a.iter().map(plain).collect::<Vec<_>>().join(", "));
            }
            Value::Array(_) | Value::Object(_) => {
                println!("{pad}{k}:");
                print(v, depth + 1);
            }
            v => println!("{pad}{k}: {}", plain(v)),
        }),
        Value::Array(all) => all.iter().for_each(|v| {
            print(v, depth);
            println!();
        }),
        v => println!("{pad}{}", plain(v)),
    }
}

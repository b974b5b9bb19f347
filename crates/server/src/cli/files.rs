//! `demo-files`: the demo as files.

use std::path::PathBuf;

use clap::Args;
use dustcoat_core::document::Document;
use dustcoat_core::mesh::write::obj;
use dustcoat_core::recipe::package::{Project, write_project, write_recipe};
use dustcoat_demo::{PIECES, cabinet, projects};
use serde_json::json;

use super::{CliError, write};

#[derive(Args)]
pub struct DemoFilesArgs {
    /// Folder to write to.
    #[arg(long)]
    out: PathBuf,
}

pub fn demo_files(args: &DemoFilesArgs, json: bool) -> Result<(), CliError> {
    let mut paths = vec![];
    let mut put = |name: String, bytes: &[u8]| {
        let path = args.out.join(name);
        paths.push(path.display().to_string());
        write(&path, bytes)
    };
    for piece in PIECES {
        let (intake, files) = piece.intake();
        put(intake.mesh.file.clone(), &files[&intake.mesh.hash])?;
        put(format!("{}.obj", piece.key), obj(&(piece.build)()).as_bytes())?;
        let plain = Document { layers: projects::swatch_tile().layers, ..piece.document(false) };
        let document = if piece.dress.is_some() { piece.document(true) } else { plain };
        let document = Document { intake, ..document };
        put(format!("{}.dustcoat", piece.key), &write_project(&Project { document, files }, None))?;
    }
    for (name, recipe) in cabinet::files() {
        put(format!("{name}.coatrecipe"), &write_recipe(&recipe, None))?;
    }
    if json {
        println!("{}", json!({"files": paths}));
    } else {
        paths.iter().for_each(|p| println!("{p}"));
    }
    Ok(())
}

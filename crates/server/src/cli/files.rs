//! `demo-files`: the demo as files.

use std::collections::BTreeMap;
use std::path::PathBuf;

use clap::Args;
use dustcoat_core::mesh::MeshSource;
use dustcoat_core::mesh::write::obj;
use dustcoat_core::recipe::package::{Project, write_project, write_recipe};
use dustcoat_demo::{PIECES, projects, recipes};
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
        let glb = piece.glb();
        put(format!("{}.glb", piece.key), &glb)?;
        put(format!("{}.obj", piece.key), obj(&(piece.build)()).as_bytes())?;
        let mut document = piece.dress.map_or(projects::swatch_tile as fn() -> _, |d| d.document)();
        let hash = blake3::hash(&glb).to_hex().to_string();
        document.intake.mesh = MeshSource { file: format!("{}.glb", piece.key), hash: hash.clone(), unit: None };
        let files = BTreeMap::from([(hash, glb)]);
        put(format!("{}.dustcoat", piece.key), &write_project(&Project { document, files }, None))?;
    }
    for (name, recipe) in recipes::files() {
        put(format!("{name}.coatrecipe"), &write_recipe(&recipe, None))?;
    }
    if json {
        println!("{}", json!({"files": paths}));
    } else {
        paths.iter().for_each(|p| println!("{p}"));
    }
    Ok(())
}

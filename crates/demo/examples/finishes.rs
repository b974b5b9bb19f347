//! Writes the picture sheet of `docs/finishes.md`: every ready finish on the swatch ball, in the order of the catalog.
//! `cargo run --release -p dustcoat-demo --example finishes -- docs/finishes.png`; a side in pixels and a number of samples after it make a quick one, and files of recipes
//! after these show them in the place of what is there: for whoever makes one.

use dustcoat_core::ready::{READY, Ready};
use dustcoat_demo::{finishes, sheet};

const ACROSS: u32 = 6;

fn main() {
    let mut args = std::env::args().skip(1);
    let out = args.next().expect("a file");
    let mut number = |otherwise: u32| args.next().map_or(otherwise, |n| n.parse().expect("a number"));
    let (tile, samples) = (number(190), number(64));
    let given: Vec<Ready> = args.map(|path| read(&path)).collect();
    let all: Vec<&Ready> = if given.is_empty() { READY.iter().collect() } else { given.iter().collect() };
    let pictures = all.iter().map(|r| (r.recipe.name.clone(), finishes::picture(r, tile, tile, samples)));
    sheet::write(&out, tile, ACROSS, pictures);
}

fn read(path: &str) -> Ready {
    let text = std::fs::read_to_string(path).unwrap_or_else(|e| panic!("{path}: {e}"));
    let recipe = serde_json::from_str(&text).unwrap_or_else(|e| panic!("{path}: {e}"));
    Ready { kind: "given", recipe }
}

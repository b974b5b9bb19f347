//! Writes the picture sheet of `docs/finishes.md`: every ready finish on the swatch ball, in the order of the catalog.
//! `cargo run --release -p dustcoat-demo --example finishes -- docs/finishes.png`

use dustcoat_core::finish::starter;
use dustcoat_demo::{finishes, sheet};

const TILE: u32 = 280;
const ACROSS: u32 = 4;

fn main() {
    let out = std::env::args().nth(1).expect("a file");
    let pictures: Vec<Vec<u8>> = starter::all().map(|s| finishes::picture(&s.finish(), TILE, TILE, 128)).collect();
    sheet::write(&out, TILE, ACROSS, &pictures);
}

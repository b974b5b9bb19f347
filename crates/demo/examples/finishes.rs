//! Writes the picture sheet of `docs/finishes.md`: every ready finish on the swatch ball, in the order of the catalog.
//! `cargo run --release -p dustcoat-demo --example finishes -- docs/finishes.png`; a side in pixels and a number of samples after it make a quick one.

use dustcoat_core::finish::starter;
use dustcoat_demo::{finishes, sheet};

const ACROSS: u32 = 4;

fn main() {
    let mut args = std::env::args().skip(1);
    let out = args.next().expect("a file");
    let mut number = |otherwise: u32| args.next().map_or(otherwise, |n| n.parse().expect("a number"));
    let (tile, samples) = (number(280), number(64));
    let pictures: Vec<Vec<u8>> = starter::all().map(|s| finishes::picture(&s.finish(), tile, tile, samples)).collect();
    sheet::write(&out, tile, ACROSS, &pictures);
}

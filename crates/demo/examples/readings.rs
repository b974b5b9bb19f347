//! Writes the picture sheet of `docs/readings.md`: every reading on the gate valve, five to a row, in the order of the catalog.
//! `cargo run --release -p dustcoat-demo --example readings -- docs/readings.png`

use std::collections::HashMap;

use dustcoat_core::bake::{Extent, MEASUREMENTS, MeasurementKey, READINGS, Surface, measure};
use dustcoat_core::raster::Plane;
use dustcoat_core::setting::Settings;
use dustcoat_core::still::{Camera, Shot};
use dustcoat_core::task::{Cancel, silent};
use dustcoat_demo::sheet;

const TILE: u32 = 260;
const ACROSS: u32 = 5;

fn main() {
    let out = std::env::args().nth(1).expect("a file");
    let surface = Surface::new(dustcoat_demo::piece("gate-valve").expect("the demo has it").imported(), 1024);
    let shot = Shot::new(&surface, Camera::framing(&surface.piece, 1.0, 1.0), TILE, TILE);
    let seen = shot.seen();
    let subset = surface.subset(&seen);
    let mut pictures = vec![];
    let measured: HashMap<&str, Plane> = MEASUREMENTS
        .iter()
        .map(|m| {
            let key = MeasurementKey::new(m, Extent::of(&surface.piece), &Settings::new());
            (m.kind, measure(m, &surface, &key.settings, &Cancel::default(), &silent).expect("nobody stops it"))
        })
        .collect();
    for reading in READINGS {
        let plane = reading.plane(
            &surface,
            &reading.settings(&Settings::new(), &Settings::new()),
            reading.measurement().and_then(|m| measured.get(m.kind)),
        );
        let values: Vec<f32> = seen.iter().map(|i| plane[*i as usize]).collect();
        pictures.push((reading.label.to_owned(), shot.mask_picture(&subset, &values)));
        println!("{}", reading.label);
    }
    sheet::write(&out, TILE, ACROSS, pictures);
}

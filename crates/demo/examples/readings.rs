//! Writes the picture sheet of `docs/readings.md`: every reading on the gate valve, five to a row, in the order of the catalog.
//! `cargo run --release -p dustcoat-demo --example readings -- docs/readings.png`

use std::collections::HashMap;

use dustcoat_core::bake::{Extent, MEASUREMENTS, MeasurementKey, READINGS, Surface, measure};
use dustcoat_core::handoff::png;
use dustcoat_core::raster::Plane;
use dustcoat_core::setting::{DialStates, Settings, resolve};
use dustcoat_core::still::{Camera, Shot};
use dustcoat_core::task::{Cancel, silent};

const TILE: u32 = 260;
const ACROSS: u32 = 5;

fn main() {
    let out = std::env::args().nth(1).expect("a file");
    let surface = Surface::new(dustcoat_demo::piece("gate-valve").expect("the demo has it").imported(), 1024);
    let shot = Shot::new(&surface, Camera::framing(&surface.piece, 1.0, 1.0), TILE, TILE);
    let seen = shot.seen();
    let subset = surface.subset(&seen);
    let (width, rows) = (TILE * ACROSS, (READINGS.len() as u32).div_ceil(ACROSS));
    let mut sheet = vec![0x77u8; (width * TILE * rows * 4) as usize];
    let measured: HashMap<&str, Plane> = MEASUREMENTS
        .iter()
        .map(|m| {
            let key = MeasurementKey::new(m, Extent::of(&surface.piece), &Settings::new());
            (m.kind, measure(m, &surface, &key.settings, &Cancel::default(), &silent).expect("nobody stops it"))
        })
        .collect();
    for (k, reading) in READINGS.iter().enumerate() {
        let settings = resolve(&(reading.specs)(), &Settings::new(), &DialStates::new());
        let plane = reading.plane(&surface, &settings, reading.measurement().and_then(|m| measured.get(m.kind)));
        let values: Vec<f32> = seen.iter().map(|i| plane[*i as usize]).collect();
        let picture = shot.mask_picture(&subset, &values);
        let (left, top) = (k as u32 % ACROSS * TILE, k as u32 / ACROSS * TILE);
        for (p, pixel) in picture.chunks_exact(4).enumerate() {
            let (x, y) = (left + p as u32 % TILE, top + p as u32 / TILE);
            let at = ((y * width + x) * 4) as usize;
            let alpha = u32::from(pixel[3]);
            for c in 0..3 {
                sheet[at + c] = ((u32::from(pixel[c]) * alpha + 0x77 * (255 - alpha)) / 255) as u8;
            }
            sheet[at + 3] = 255;
        }
        println!("{}", reading.label);
    }
    std::fs::write(&out, png::rgba8(&sheet, width, TILE * rows)).expect("the file can be written");
}

//! Writes the picture sheet of the weather in `docs/readings.md`: what rain, water, sun, dust, hands and frost do to four props, a row each.
//! `cargo run --release -p dustcoat-demo --example weather -- docs/weather.png [SIZE]`

use std::collections::HashMap;
use std::time::Instant;

use dustcoat_core::bake::{Extent, MEASUREMENTS, MeasurementKey, Surface, measure, reading};
use dustcoat_core::raster::Plane;
use dustcoat_core::setting::Settings;
use dustcoat_core::still::{Camera, Shot};
use dustcoat_core::task::{Cancel, silent};
use dustcoat_demo::sheet;

const TILE: u32 = 250;
const PROPS: [&str; 4] = ["gate-valve", "harbour-lamp", "louvre-shutter", "mooring-post"];
const SHOWN: [&str; 10] =
    ["rain", "flow:passes", "flow:stays", "flow:washed", "flow:left", "damp", "sun", "dust", "touch", "frost"];

fn main() {
    let out = std::env::args().nth(1).expect("a file");
    let size = std::env::args().nth(2).map_or(1024, |s| s.parse().expect("a texture size"));
    let mut pictures = vec![];
    for prop in PROPS {
        let surface = Surface::new(dustcoat_demo::piece(prop).expect("the demo has it").imported(), size);
        let shot = Shot::new(&surface, Camera::framing(&surface.piece, 1.0, 1.0), TILE, TILE);
        let seen = shot.seen();
        let subset = surface.subset(&seen);
        let of = |name: &&str| reading::named(name).and_then(|r| r.0.measurement()).map(|m| m.kind);
        let taken = |kind: &str| SHOWN.iter().any(|s| of(s) == Some(kind));
        let measured: HashMap<&str, Plane> = MEASUREMENTS
            .iter()
            .filter(|m| taken(m.kind) || m.kind == "occlusion")
            .map(|m| {
                let clock = Instant::now();
                let key = MeasurementKey::new(m, Extent::of(&surface.piece), &Settings::new());
                let plane = measure(m, &surface, &key.settings, &Cancel::default(), &silent).expect("nobody stops it");
                println!("{prop} {}: {:.2} s", m.kind, clock.elapsed().as_secs_f64());
                (m.kind, plane)
            })
            .collect();
        for name in SHOWN {
            let (reading, own) = reading::named(name).expect("it is there");
            let plane = reading.plane(
                &surface,
                &reading.settings(&own, &Settings::new()),
                reading.measurement().and_then(|m| measured.get(m.kind)),
            );
            let values: Vec<f32> = seen.iter().map(|i| plane[*i as usize]).collect();
            pictures.push((name.replace(':', ": "), shot.mask_picture(&subset, &values)));
        }
    }
    sheet::write(&out, TILE, 5, pictures);
}

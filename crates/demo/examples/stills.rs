//! Writes a still of each demo project to the folder given: `cargo run --release -p dustcoat-demo --example stills -- DIR [SIZE]`.

use std::collections::HashMap;
use std::sync::Arc;
use std::time::Instant;

use dustcoat_core::bake::{Extent, MeasurementKey, Surface, measure, measurement};
use dustcoat_core::evaluate::{Cache, Context, evaluate, needs, texture};
use dustcoat_core::handoff::png;
use dustcoat_core::still::{Camera, Shot, lit};
use dustcoat_core::task::{Cancel, silent};
use dustcoat_demo::{PIECES, projects};

fn main() {
    let mut args = std::env::args().skip(1);
    let dir = args.next().expect("a folder");
    let size: u32 = args.next().and_then(|s| s.parse().ok()).unwrap_or(1024);
    std::fs::create_dir_all(&dir).unwrap();
    for (demo, document) in PIECES.iter().zip([projects::gate_valve(), projects::swatch_tile()]) {
        let clock = Instant::now();
        let piece = demo.imported();
        println!(
            "{}: {} triangles, {} shells, {} charts, {:?}",
            demo.name,
            piece.triangles.len(),
            piece.shells,
            piece.charts,
            clock.elapsed()
        );
        let surface = Surface::new(piece, size);
        println!(
            "  {} of {} texels, {} overlap, {:?}",
            surface.atlas.len(),
            size * size,
            surface.atlas.overlaps,
            clock.elapsed()
        );
        surface.bvh();
        println!("  bvh {:?}", clock.elapsed());
        let cancel = Cancel::default();
        let mut store = HashMap::new();
        let key = MeasurementKey::new(
            measurement::find("occlusion").unwrap(),
            Extent::of(&surface.piece),
            &document.readings.get("occlusion").cloned().unwrap_or_default(),
        );
        for k in needs(&document, &surface.piece).into_iter().chain([key.clone()]) {
            let clock = Instant::now();
            let plane = measure(measurement::find(k.kind).unwrap(), &surface, &k.settings, &cancel, &silent).unwrap();
            println!("  {} {:?}", k.kind, clock.elapsed());
            store.insert(k.hash(&surface.piece.hash, size), Arc::new(plane));
        }
        let cache = Cache::new(1 << 30);
        let readings = |h: &str| store.get(h).cloned();
        let context = Context {
            surface: &surface,
            readings: &readings,
            cache: &cache,
            cancel: &cancel,
            tag: "",
            progress: &silent,
        };
        let clock = Instant::now();
        let e = evaluate(&document, &context).unwrap();
        println!("  evaluate {:?}", clock.elapsed());
        for c in &e.coverage {
            println!("    {:20} mask {:.3} visible {:.3}", c.name, c.mask, c.visible);
        }
        let clock = Instant::now();
        let camera = Camera::framing(&surface.piece, 1.0, 1.0);
        let shot = Shot::new(&surface, camera, 700, 700);
        let occ = readings(&key.hash(&surface.piece.hash, size)).unwrap();
        let picture = lit::picture(&shot, &surface, &e, Some(&occ));
        println!("  still {:?}", clock.elapsed());
        std::fs::write(format!("{dir}/{}.png", demo.key), png::rgba8(&picture, 700, 700)).unwrap();
        std::fs::write(
            format!("{dir}/{}-base.png", demo.key),
            png::rgba8(&texture::base_color(&surface, &e), size, size),
        )
        .unwrap();
    }
}

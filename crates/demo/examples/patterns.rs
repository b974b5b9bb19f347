//! Writes the picture sheets of `docs/patterns.md`: every pattern with its default settings on the swatch ball, six to a row, in the order of the catalog.
//! `cargo run --release -p dustcoat-demo --example patterns -- docs/patterns.png [KIND.SETTING=VALUE…]`

use dustcoat_core::bake::Surface;
use dustcoat_core::pattern::{PATTERNS, Placed};
use dustcoat_core::setting::{DialStates, Param, Settings, Value, resolve};
use dustcoat_core::still::{Camera, Shot};
use dustcoat_demo::sheet;

const TILE: u32 = 230;
const ACROSS: u32 = 6;

fn main() {
    let mut args = std::env::args().skip(1);
    let out = args.next().expect("a file");
    let changes: Vec<String> = args.collect();
    let surface = Surface::new(dustcoat_demo::piece("swatch-ball").expect("the demo has it").imported(), 1024);
    let shot = Shot::new(&surface, Camera::framing(&surface.piece, 1.0, 1.0), TILE, TILE);
    let seen = shot.seen();
    let subset = surface.subset(&seen);
    let mut pictures = vec![];
    for pattern in PATTERNS {
        let mut settings = Settings::new();
        for change in &changes {
            let (name, value) = change.split_once('=').expect("setting=value");
            if let Some(key) = name.strip_prefix(pattern.kind).and_then(|n| n.strip_prefix('.')) {
                let value = value.parse().map_or_else(|_| Value::Text(value.into()), Value::Number);
                settings.insert(key.into(), Param::Const(value));
            }
        }
        let placed = Placed::new(pattern, &resolve(&pattern.all_specs(), &settings, &DialStates::new()));
        let mut values = vec![0.0; seen.len()];
        let clock = std::time::Instant::now();
        for (i, run) in values.chunks_mut(4096).enumerate() {
            placed.fill(&subset, i * 4096, run);
        }
        let nanoseconds = clock.elapsed().as_nanos() as f64 / seen.len() as f64;
        pictures.push((pattern.label.to_owned(), shot.mask_picture(&subset, &values)));
        let (low, high) = values.iter().fold((1.0f32, 0.0f32), |(l, h), v| (l.min(*v), h.max(*v)));
        println!("{}: {nanoseconds:.0} ns per texel, {low:.2} to {high:.2}", pattern.label);
    }
    sheet::write(&out, TILE, ACROSS, pictures);
}

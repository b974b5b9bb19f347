//! Writes the picture sheets of `docs/patterns.md`: every shaper on the mask that it starts from, and every starter, on the gate valve.
//! `cargo run --release -p dustcoat-demo --example shapers -- docs/shapers.png docs/starters.png`

use std::time::Instant;

use dustcoat_core::bake::{MeasurementKey, Surface};
use dustcoat_core::document::{Document, Layer};
use dustcoat_core::evaluate::{Cache, Context, Measured, mask, needs};
use dustcoat_core::mask::Step;
use dustcoat_core::mask::shaper::SHAPERS;
use dustcoat_core::mask::starter::STARTERS;
use dustcoat_core::still::{Camera, Shot};
use dustcoat_core::task::{Cancel, silent};
use dustcoat_demo::sheet;
use serde_json::json;

const TILE: u32 = 276;

fn main() {
    let mut args = std::env::args().skip(1);
    let (shapers, starters) = (args.next().expect("a file"), args.next().expect("another file"));
    let stage = Stage::new();
    let base = json!([
        {"kind": "perlin", "join": "replace", "settings": {"size": 75, "octaves": 4, "seed": 5}},
        {"kind": "levels", "settings": {"black": 0.45, "white": 0.75}}
    ]);
    let base: Vec<Step> = serde_json::from_value(base).expect("a line");
    let with = |kind: &str, label: &str| {
        let mut steps = base.clone();
        steps.push(serde_json::from_value(json!({"kind": kind})).expect("a step"));
        (label.to_owned(), stage.picture(kind, steps))
    };
    let bare = ("The mask by itself".to_owned(), stage.picture("the mask", base.clone()));
    sheet::write(&shapers, TILE, 5, std::iter::once(bare).chain(SHAPERS.iter().map(|s| with(s.kind, s.label))));
    sheet::write(&starters, TILE, 5, STARTERS.iter().map(|s| (s.label.to_owned(), stage.picture(s.kind, s.steps()))));
}

/// A piece, what its camera sees, and what was measured of it.
struct Stage {
    surface: Surface,
    shot: Shot,
    seen: Vec<u32>,
    subset: Surface,
    measured: std::cell::RefCell<Measured>,
}

impl Stage {
    fn new() -> Self {
        let surface = Surface::new(dustcoat_demo::piece("gate-valve").expect("the demo has it").imported(), 1024);
        let shot = Shot::new(&surface, Camera::framing(&surface.piece, 1.0, 1.0), TILE, TILE);
        let seen = shot.seen();
        let subset = surface.subset(&seen);
        Self { surface, shot, seen, subset, measured: Default::default() }
    }

    fn picture(&self, name: &str, mut steps: Vec<Step>) -> Vec<u8> {
        steps.iter_mut().enumerate().for_each(|(i, s)| s.id = format!("s{i}"));
        let layer = json!({"id": "l1", "name": name, "kind": "group", "layers": [], "mask": {"steps": steps}});
        let layer: Layer = serde_json::from_value(layer).expect("a layer");
        let document = Document { layers: vec![layer], ..Document::new(name) };
        let mut measured = self.measured.borrow_mut();
        let hash = |k: &MeasurementKey| k.hash(&self.surface.piece.hash, self.surface.atlas.size);
        let keys = needs(&document, &self.surface.piece).into_iter().filter(|k| measured.get(&hash(k)).is_none());
        let keys: Vec<MeasurementKey> = keys.collect();
        measured.extend(Measured::take(&keys, &self.surface, &Cancel::default(), &silent).expect("nobody stops it"));
        let context = Context {
            surface: &self.surface,
            measured: &measured,
            cache: &Cache::new(1 << 29),
            cancel: &Cancel::default(),
            progress: &silent,
        };
        let clock = Instant::now();
        let plane = mask(&document, "l1", &context).expect("it can be made").0;
        let covered: f64 = plane.iter().zip(&self.surface.atlas.area).map(|(m, a)| f64::from(m * a)).sum();
        println!(
            "{name}: {:.0} ms, covers {:.0} %",
            clock.elapsed().as_secs_f64() * 1e3,
            100.0 * covered / self.surface.atlas.total_area
        );
        let values: Vec<f32> = self.seen.iter().map(|i| plane[*i as usize]).collect();
        self.shot.mask_picture(&self.subset, &values)
    }
}

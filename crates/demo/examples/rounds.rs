//! Writes the picture of coarse round things in `docs/readings.md`: the cleat of few faces, each reading measured on its triangles and on the round faces that its
//! normals speak of. `cargo run --release -p dustcoat-demo --example rounds -- docs/rounds.png`

use std::sync::Arc;

use dustcoat_core::bake::{Extent, MeasurementKey, Surface, measure, measurement, reading};
use dustcoat_core::mesh::import::{MeshLimits, import};
use dustcoat_core::mesh::mend::{Mending, Taking};
use dustcoat_core::setting::Settings;
use dustcoat_core::still::{Camera, Shot};
use dustcoat_core::task::{Cancel, silent};
use dustcoat_demo::sheet;

const TILE: u32 = 300;

fn main() {
    let out = std::env::args().nth(1).expect("a file");
    let (file, bytes) = dustcoat_demo::piece("dock-cleat").expect("the demo has it").file();
    let taken = |faces: &str| {
        let mending = Mending::new(&Settings::from([("faces".into(), faces.into())]), Default::default());
        let taking = Taking { mending, ..Taking::default() };
        Surface::new(Arc::new(import(&file, &bytes, taking, MeshLimits::default()).expect("it is sound")), 1024)
    };
    let mut pictures = vec![];
    for (kind, label) in [("edges", "Edges"), ("occlusion", "Occlusion"), ("thickness", "Thickness")] {
        for (faces, how) in [("flat", "as triangles"), ("told", "round")] {
            let surface = taken(faces);
            let shot = Shot::new(&surface, Camera::framing(&surface.piece, 1.0, 1.0), TILE, TILE);
            let seen = shot.seen();
            let (m, r) = (measurement::find(kind), reading::find(kind).expect("it is there"));
            let m = m.or(r.measurement()).expect("it is measured");
            let key = MeasurementKey::new(m, Extent::of(&surface.piece), &Settings::new());
            let planes = measure(m, &surface, &key.settings, &Cancel::default(), &silent).expect("nobody stops it");
            let plane = r.plane(&surface, &r.settings(&Settings::new(), &Settings::new()), Some(&planes));
            let values: Vec<f32> = seen.iter().map(|i| plane[*i as usize]).collect();
            pictures.push((format!("{label}, {how}"), shot.mask_picture(&surface.subset(&seen), &values)));
        }
    }
    sheet::write(&out, TILE, 2, pictures);
}

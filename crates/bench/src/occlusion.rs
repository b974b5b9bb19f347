//! Occlusion of the gate valve at 1024², 64 rays a texel, on all cores: rays per second against Embree's `rtcOccluded1`.
//! Both cast the same number of cosine-weighted rays from the same texels, and both times hold the making of the directions.

use std::sync::Arc;

use dustcoat_core::bake::rays::{Directions, cosine_hemisphere, frame};
use dustcoat_core::bake::{Bvh, Extent, MEASUREMENTS, MeasurementKey, Surface, measure, measurement};
use dustcoat_core::mesh::import::{MeshLimits, import};
use dustcoat_core::mesh::{Piece, Soup};
use dustcoat_core::setting::{Resolved, Settings};
use dustcoat_core::task::{Cancel, silent};
use glam::{Vec2, Vec3};
use rayon::prelude::*;
use serde_json::json;

use crate::embree::Scene;
use crate::{Line, fastest, print};

pub fn valve(size: u32) -> Surface {
    let piece = dustcoat_demo::piece("gate-valve").expect("the demo has a gate valve").imported();
    let surface = Surface::new(Arc::clone(&piece), size);
    surface.bvh();
    surface
}

/// The settings that both sides measure with: no finer edges, which only ours has.
fn settings(surface: &Surface) -> Resolved {
    let occlusion = measurement::find("occlusion").expect("there is occlusion");
    let plain = Settings::from([("smooth".to_owned(), "off".into())]);
    MeasurementKey::new(occlusion, Extent::of(&surface.piece), &plain).settings
}

/// Seconds of the fastest of three, and the values.
fn ours(surface: &Surface) -> (f64, Vec<f32>) {
    let occlusion = measurement::find("occlusion").expect("there is occlusion");
    let (settings, mut open) = (settings(surface), vec![]);
    let seconds = fastest(3, || {
        open = measure(occlusion, surface, &settings, &Cancel::default(), &silent).expect("nobody stops it");
    });
    (seconds, open)
}

pub fn run() {
    let surface = valve(1024);
    let settings = settings(&surface);
    let (rays, distance) = (settings.integer("rays"), settings.number("distance"));
    let total = surface.atlas.len() as f64 * f64::from(rays);
    for (bench, threads) in [("occlusion", 2), ("occlusion, one thread", 1)] {
        let pool = rayon::ThreadPoolBuilder::new().num_threads(threads).build().expect("threads can be had");
        pool.install(|| {
            let (seconds, open) = ours(&surface);
            let scene = Scene::of(&surface.piece);
            let mut theirs_open = vec![];
            let theirs = fastest(3, || theirs_open = embree(&scene, &surface, rays, distance));
            // Rays graze and texels on borders are drawn in, so single values differ; the mean of the piece must not.
            let mean = |v: &[f32]| v.iter().map(|x| f64::from(*x)).sum::<f64>() / v.len() as f64;
            assert!((mean(&open) - mean(&theirs_open)).abs() < 0.01, "both measure the same thing");
            print(&Line {
                bench,
                ours: total / seconds / 1e6,
                unit: "Mrays/s",
                reference: "Embree 3.13 rtcOccluded1",
                theirs: total / theirs / 1e6,
                rate: true,
            });
        });
    }
    let triangles: Vec<[Vec3; 3]> =
        (0..surface.piece.triangles.len() as u32).map(|t| surface.piece.corners(t)).collect();
    let build = fastest(3, || _ = Bvh::build(&triangles));
    let theirs = fastest(3, || _ = Scene::of(&surface.piece));
    print(&Line {
        bench: "hierarchy build",
        ours: build * 1e3,
        unit: "ms",
        reference: "Embree 3.13 rtcCommitScene",
        theirs: theirs * 1e3,
        rate: false,
    });
}

/// How the rate falls as triangles grow: each of them cut into four, again and again.
pub fn curve() {
    let mut piece = (*dustcoat_demo::piece("gate-valve").expect("the demo has a gate valve").imported()).clone();
    let mut first = None;
    for _ in 0..3 {
        let surface = Surface::new(Arc::new(piece.clone()), 512);
        surface.bvh();
        let rays = f64::from(settings(&surface).integer("rays"));
        let rate = surface.atlas.len() as f64 * rays / ours(&surface).0 / 1e6;
        print(&Line {
            bench: &format!("occlusion at {} triangles", piece.triangles.len()),
            ours: rate,
            unit: "Mrays/s",
            reference: "the same piece at 76,946 triangles",
            theirs: *first.get_or_insert(rate),
            rate: true,
        });
        piece = quartered(&piece);
    }
}

/// Every triangle cut into four at the middles of its edges.
fn quartered(piece: &Piece) -> Piece {
    let mut soup = Soup::default();
    let parts: Vec<u16> = piece.parts.iter().map(|p| soup.part(&p.name)).collect();
    for (tri, part) in piece.triangles.iter().zip(&piece.part_of) {
        let corner = |v: u32| {
            let v = v as usize;
            (Vec3::from(piece.positions[v]), Vec3::from(piece.normals[v]), Vec2::from(piece.uvs[v]))
        };
        let c = tri.map(corner);
        let middle = |a: usize, b: usize| ((c[a].0 + c[b].0) * 0.5, (c[a].1 + c[b].1) * 0.5, (c[a].2 + c[b].2) * 0.5);
        let (ab, bc, ca) = (middle(0, 1), middle(1, 2), middle(2, 0));
        for t in [[c[0], ab, ca], [ab, c[1], bc], [ca, bc, c[2]], [ab, bc, ca]] {
            soup.push(parts[usize::from(*part)], t.map(|(p, n, u)| (p.to_array(), n.to_array(), u.to_array())));
        }
    }
    Piece::build(soup).expect("it is as good as before")
}

/// The gate valve in two million triangles.
fn two_million() -> Piece {
    let mut piece = (*dustcoat_demo::piece("gate-valve").expect("the demo has a gate valve").imported()).clone();
    for _ in 0..2 {
        piece = quartered(&piece);
    }
    // Quartered twice it has 1.2 million; one more part of it is quartered again.
    quartered_first(&piece, 260_000)
}

/// How long after it was asked to stop a measurement of two million triangles at 1024 rays a texel comes to an end: the longest of twelve times, the first
/// of which fall into the building of the hierarchy.
pub fn cancel() {
    let surface = Surface::new(Arc::new(two_million()), 1024);
    let occlusion = measurement::find("occlusion").expect("there is occlusion");
    let settings = settings(&surface).with_number("rays", 1024.0);
    let mut worst = 0.0f64;
    for round in 0..12u64 {
        let flag = Cancel::default();
        let asked = std::thread::scope(|scope| {
            let work = scope.spawn(|| measure(occlusion, &surface, &settings, &flag, &silent));
            std::thread::sleep(std::time::Duration::from_millis(40 + 170 * round));
            flag.cancel();
            let asked = std::time::Instant::now();
            assert!(work.join().expect("it does not panic").is_err(), "it was stopped before it was done");
            asked.elapsed()
        });
        worst = worst.max(asked.as_secs_f64() * 1e3);
    }
    print(&Line {
        bench: "cancel, two million triangles",
        ours: worst,
        unit: "ms",
        reference: "what is allowed",
        theirs: 100.0,
        rate: false,
    });
}

/// Two million triangles, imported, laid out and measured at 2048² by default: the memory that takes.
pub fn large() {
    let piece = two_million();
    let file = dustcoat_core::mesh::write::glb(&piece, None);
    drop(piece);
    let clock = std::time::Instant::now();
    let piece = import("large.glb", &file, None, MeshLimits::default()).expect("it is read");
    drop(file);
    let read = clock.elapsed().as_secs_f64();
    let triangles = piece.triangles.len();
    let surface = Surface::new(Arc::new(piece), 2048);
    for m in MEASUREMENTS {
        let key = MeasurementKey::new(m, Extent::of(&surface.piece), &Settings::new());
        measure(m, &surface, &key.settings, &Cancel::default(), &silent).expect("nobody stops it");
    }
    println!(
        "{}",
        json!({"bench": "large", "triangles": triangles, "import_seconds": read.round(), "all_seconds": clock.elapsed().as_secs_f64().round(),
               "peak_megabytes": peak_megabytes(), "limit_megabytes": 3000})
    );
}

fn quartered_first(piece: &Piece, count: usize) -> Piece {
    let mut first = piece.clone();
    let rest = first.triangles.split_off(count);
    let rest_parts = first.part_of.split_off(count);
    let fine = quartered(&first);
    let mut soup = Soup::default();
    for (p, list, parts) in [(&fine, &fine.triangles, &fine.part_of), (piece, &rest, &rest_parts)] {
        for (tri, part) in list.iter().zip(parts) {
            let part = soup.part(&p.parts[usize::from(*part)].name);
            soup.push(part, tri.map(|v| (p.positions[v as usize], p.normals[v as usize], p.uvs[v as usize])));
        }
    }
    Piece::build(soup).expect("it is as good as before")
}

/// The most memory that this process has held, as Linux tells.
fn peak_megabytes() -> Option<u64> {
    let status = std::fs::read_to_string("/proc/self/status").ok()?;
    let line = status.lines().find(|l| l.starts_with("VmHWM"))?;
    line.split_whitespace().nth(1)?.parse::<u64>().ok().map(|kb| kb / 1024)
}

fn embree(scene: &Scene, surface: &Surface, rays: u32, distance: f32) -> Vec<f32> {
    let atlas = &surface.atlas;
    let plan = Directions::new(rays);
    let lift = surface.piece.diagonal() * 1e-5;
    let mut out = vec![0.0f32; atlas.len()];
    out.par_chunks_mut(2048).enumerate().for_each(|(block, out)| {
        let mut square = Vec::new();
        for (k, value) in out.iter_mut().enumerate() {
            let i = block * 2048 + k;
            let n = Vec3::new(atlas.nx[i], atlas.ny[i], atlas.nz[i]);
            let p = Vec3::new(atlas.px[i], atlas.py[i], atlas.pz[i]) + n * lift;
            let (t, b) = frame(n);
            plan.square(atlas.texel[i], 1, &mut square);
            let open = square.iter().filter(|s| {
                let d = cosine_hemisphere(**s);
                !scene.occluded(p.to_array(), (t * d.x + b * d.y + n * d.z).to_array(), lift, distance)
            });
            *value = open.count() as f32 / rays as f32;
        }
    });
    out
}

//! A still of the gate valve, 512² at 64 samples: rays per second, all of it, against what the ray caster does bare with rays of the same kind.

use std::time::Instant;

use dustcoat_core::bake::Surface;
use dustcoat_core::bake::bvh::{Packet, WIDTH};
use dustcoat_core::bake::rays::{cosine_hemisphere, frame, point};
use dustcoat_core::evaluate::{Cache, Context, evaluate};
use dustcoat_core::still::Camera;
use dustcoat_core::still::light::LIGHTS;
use dustcoat_core::still::sky::{Lighting, Sky};
use dustcoat_core::still::trace::{Exposure, Scene};
use dustcoat_core::task::{Cancel, silent};
use glam::Vec3;
use rayon::prelude::*;

use crate::dial::readings;
use crate::{Line, fastest, print};

pub fn run() {
    let document = dustcoat_demo::projects::gate_valve();
    let surface = super::occlusion::valve(1024);
    let measured = readings(&document, &surface);
    let (cache, cancel) = (Cache::new(1 << 30), Cancel::default());
    let context = Context { surface: &surface, measured: &measured, cache: &cache, cancel: &cancel, progress: &silent };
    let e = evaluate(&document, &context).expect("the demo can be evaluated");
    let sky = Sky::new(&Lighting { light: &LIGHTS[0], turn: 0.0, brightness: 1.0, rim: 0.0 });
    let scene = Scene::new(&surface, &e, &sky).before(Vec3::splat(0.2));
    let camera = Camera::framing(&surface.piece, 1.0, 1.0);
    let exposure = Exposure { camera, size: [512, 512], samples: 64, denoise: false };
    // Tables are filled before the clock runs.
    scene.trace(&Exposure { size: [32, 32], ..exposure }, &cancel, &silent).expect("nobody stops it");
    let clock = Instant::now();
    let traced = scene.trace(&exposure, &cancel, &silent).expect("nobody stops it");
    let seconds = clock.elapsed().as_secs_f64();
    let (bare, rays) = bare(&surface);
    print(&Line {
        bench: "still, 512² at 64 samples",
        ours: traced.rays as f64 / seconds / 1e6,
        unit: "Mrays/s",
        reference: "our ray caster bare: nearest hits of scattered rays",
        theirs: rays / bare / 1e6,
        rate: true,
    });
}

/// Seconds for, and number of, rays from every texel of the piece in eight directions that have nothing to do with each other, as bounces go.
fn bare(surface: &Surface) -> (f64, f64) {
    let a = &surface.atlas;
    let one = |i: usize| {
        let n = Vec3::new(a.nx[i], a.ny[i], a.nz[i]);
        let at = Vec3::new(a.px[i], a.py[i], a.pz[i]) + n * 0.05;
        let (x, y) = frame(n);
        let mut packet = Packet::default();
        for lane in 0..WIDTH {
            let d = cosine_hemisphere(point(lane as u32, i as u32));
            packet.set(lane, at.to_array(), (x * d.x + y * d.y + n * d.z).to_array(), 0.0, f32::MAX);
        }
        surface.bvh().closest(&mut packet).0[0]
    };
    let seconds = fastest(3, || {
        let sum: f32 = (0..a.len()).into_par_iter().with_min_len(256).map(one).map(|d| d.min(1.0)).sum();
        assert!(sum > 0.0);
    });
    (seconds, (a.len() * WIDTH) as f64)
}

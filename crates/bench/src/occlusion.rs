//! Occlusion of the gate valve at 1024², 64 rays a texel, on all cores: rays per second against Embree's `rtcOccluded1`.
//! Both cast the same number of cosine-weighted rays from the same texels, and both times hold the making of the directions.

use std::sync::Arc;

use dustcoat_core::bake::rays::{Directions, cosine_hemisphere, frame};
use dustcoat_core::bake::{Surface, measure, reading};
use dustcoat_core::setting::{DialStates, resolve};
use dustcoat_core::task::{Cancel, silent};
use glam::Vec3;
use rayon::prelude::*;

use crate::embree::Scene;
use crate::{Line, fastest, print};

pub fn valve(size: u32) -> Surface {
    let piece = dustcoat_demo::piece("gate-valve").expect("the demo has a gate valve").imported();
    let surface = Surface::new(Arc::clone(&piece), size);
    surface.bvh();
    surface
}

pub fn run() {
    let surface = valve(1024);
    let occlusion = reading::find("occlusion").expect("there is occlusion");
    let settings = resolve(&(occlusion.specs)(), &Default::default(), &DialStates::new());
    let (rays, distance) = (settings.integer("rays"), settings.number("distance"));
    let total = surface.atlas.len() as f64 * f64::from(rays);
    let mut open = vec![];
    let ours = fastest(3, || {
        open = measure(occlusion, &surface, &settings, &Cancel::default(), &silent).expect("nobody stops it");
    });
    let scene = Scene::of(&surface.piece);
    let mut theirs_open = vec![];
    let theirs = fastest(3, || theirs_open = embree(&scene, &surface, rays, distance));
    // Rays graze and texels on borders are drawn in, so single values differ; the mean of the piece must not.
    let mean = |v: &[f32]| v.iter().map(|x| f64::from(*x)).sum::<f64>() / v.len() as f64;
    assert!((mean(&open) - mean(&theirs_open)).abs() < 0.01, "both measure the same thing");
    print(&Line {
        bench: "occlusion",
        ours: total / ours / 1e6,
        unit: "Mrays/s",
        reference: "Embree 3.13 rtcOccluded1",
        theirs: total / theirs / 1e6,
        rate: true,
    });
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

//! Five octaves of gradient noise at a million texels of the gate valve, one thread: against simdnoise, whose fBm is of simplex noise and walks a
//! grid, which spares it the reading of points. Ours takes them in any order, as texels come.

use dustcoat_core::pattern::Field;
use dustcoat_core::pattern::perlin::Perlin;
use dustcoat_core::pattern::worley::Worley;
use rayon::prelude::*;
use simdnoise::NoiseBuilder;

use crate::{Line, fastest, print};

pub fn run() {
    let [x, y, z] = points();
    let n = COUNT;
    let mut out = vec![0.0f32; n];
    let perlin = Perlin::with(38.0, 5, 2.0, 0.5, 7);
    let ours = fastest(7, || {
        // In batches, as a mask line runs.
        for start in (0..out.len()).step_by(4096) {
            let end = (start + 4096).min(out.len());
            perlin.sample(&x[start..end], &y[start..end], &z[start..end], &mut out[start..end]);
        }
    });
    let two = rayon::ThreadPoolBuilder::new().num_threads(2).build().expect("threads can be had");
    let both = fastest(7, || {
        two.install(|| {
            out.par_chunks_mut(4096).enumerate().for_each(|(b, out)| {
                let range = b * 4096..b * 4096 + out.len();
                perlin.sample(&x[range.clone()], &y[range.clone()], &z[range], out);
            });
        });
    });
    let mut kept = 0.0f32;
    let theirs = fastest(7, || {
        let (values, ..) = NoiseBuilder::fbm_3d(100, 100, 100).with_octaves(5).with_freq(0.026).with_seed(7).generate();
        kept += values[values.len() / 2];
    });
    assert!(kept.is_finite() && out.iter().all(|v| (0.0..=1.0).contains(v)));
    let per = 1e9 / (n as f64 * 5.0);
    print(&Line {
        bench: "perlin",
        ours: ours * per,
        unit: "ns per point and octave",
        reference: "simdnoise 3.1 fbm_3d",
        theirs: theirs * per,
        rate: false,
    });
    print(&Line {
        bench: "perlin, two threads",
        ours: both * per,
        unit: "ns per point and octave",
        reference: "the same on one thread",
        theirs: ours * per,
        rate: false,
    });
}

const COUNT: usize = 1_000_000;

/// The first million texels of the gate valve, in the order in which a mask line takes them.
fn points() -> [Vec<f32>; 3] {
    let a = crate::occlusion::valve(2048).atlas;
    [&a.px, &a.py, &a.pz].map(|v| v[..COUNT].to_vec())
}

/// Worley noise at the same points, one thread: all five numbers of a cell but the border's distance are found in one go; simdnoise finds the nearest distance alone.
pub fn worley() {
    let [x, y, z] = points();
    let mut out = vec![0.0f32; COUNT];
    let worley = Worley::first(20.0, 7);
    let ours = fastest(5, || {
        for start in (0..out.len()).step_by(4096) {
            let end = (start + 4096).min(out.len());
            worley.sample(&x[start..end], &y[start..end], &z[start..end], &mut out[start..end]);
        }
    });
    let mut kept = 0.0f32;
    let theirs = fastest(5, || {
        let (values, ..) = NoiseBuilder::cellular_3d(100, 100, 100).with_freq(0.05).with_seed(7).generate();
        kept += values[values.len() / 2];
    });
    assert!(kept.is_finite() && out.iter().all(|v| (0.0..=1.0).contains(v)));
    let per = 1e9 / COUNT as f64;
    print(&Line {
        bench: "worley",
        ours: ours * per,
        unit: "ns per point",
        reference: "simdnoise 3.1 cellular_3d",
        theirs: theirs * per,
        rate: false,
    });
}

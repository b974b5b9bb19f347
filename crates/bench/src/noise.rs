//! Five octaves of gradient noise at a million points, one thread: against simdnoise, whose fBm is of simplex noise and walks a
//! grid, which spares it the reading of points. Ours takes them in any order, as texels come.

use dustcoat_core::pattern::Field;
use dustcoat_core::pattern::perlin::Perlin;
use simdnoise::NoiseBuilder;

use crate::{Line, fastest, print};

pub fn run() {
    let n = 1_000_000;
    let axis = |salt: u32| -> Vec<f32> {
        (0..n).map(|i| (dustcoat_core::bake::rays::mix(i ^ salt) >> 8) as f32 / 16_777_216.0 * 400.0).collect()
    };
    let (x, y, z) = (axis(1), axis(0x5555_0000), axis(0x00aa_0000));
    let mut out = vec![0.0f32; n as usize];
    let perlin = Perlin::with(38.0, 5, 2.0, 0.5, 7);
    let ours = fastest(7, || {
        // In batches, as a mask line runs.
        for start in (0..out.len()).step_by(4096) {
            let end = (start + 4096).min(out.len());
            perlin.sample(&x[start..end], &y[start..end], &z[start..end], &mut out[start..end]);
        }
    });
    let mut kept = 0.0f32;
    let theirs = fastest(7, || {
        let (values, ..) = NoiseBuilder::fbm_3d(100, 100, 100).with_octaves(5).with_freq(0.026).with_seed(7).generate();
        kept += values[values.len() / 2];
    });
    assert!(kept.is_finite() && out.iter().all(|v| (0.0..=1.0).contains(v)));
    let per = 1e9 / (f64::from(n) * 5.0);
    print(&Line {
        bench: "perlin",
        ours: ours * per,
        unit: "ns per point and octave",
        reference: "simdnoise 3.1 fbm_3d",
        theirs: theirs * per,
        rate: false,
    });
}

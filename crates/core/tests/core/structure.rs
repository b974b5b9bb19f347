//! Finishes of things that have a structure are told from noise: their steps from texel to texel are spread otherwise than those of noise with the very same
//! spectrum, which is made by giving each frequency another phase (Theiler et al. 1992, "Testing for nonlinearity in time series: the method of surrogate data").

use crate::common::{document, evaluated, plate};
use dustcoat_core::bake::Surface;
use dustcoat_core::document::{Edit, apply};
use dustcoat_core::ready;
use std::f64::consts::TAU;

/// Texels along a side.
const N: usize = 96;

/// A grid of complex numbers.
type Waves = Vec<(f64, f64)>;

/// The discrete Fourier transform along both axes, by its definition: the grids are small.
fn transformed(grid: &Waves, sign: f64) -> Waves {
    let wave: Vec<(f64, f64)> = (0..N)
        .map(|k| {
            let (sin, cos) = (sign * TAU * k as f64 / N as f64).sin_cos();
            (cos, sin)
        })
        .collect();
    let along = |from: &Waves, at: fn(usize, usize) -> usize| {
        let mut out = vec![(0.0, 0.0); N * N];
        for line in 0..N {
            for k in 0..N {
                out[at(line, k)] = (0..N).fold((0.0, 0.0), |(a, b), t| {
                    let ((x, y), (c, s)) = (from[at(line, t)], wave[k * t % N]);
                    (a + x * c - y * s, b + x * s + y * c)
                });
            }
        }
        out
    };
    along(&along(grid, |line, k| line * N + k), |line, k| k * N + line)
}

/// Noise with the spectrum of a grid.
fn surrogate(spectrum: &Waves, seed: u64) -> Vec<f64> {
    let mut state = seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1;
    let mut random = || {
        state ^= state << 13;
        state ^= state >> 7;
        state ^= state << 17;
        (state >> 11) as f64 / (1u64 << 53) as f64
    };
    let mut waves = vec![(0.0, 0.0); N * N];
    for y in 0..N {
        for x in 0..N {
            let (i, j) = (y * N + x, (N - y) % N * N + (N - x) % N);
            let size = spectrum[i].0.hypot(spectrum[i].1);
            if i == j {
                waves[i] = (spectrum[i].0, 0.0);
            } else if i < j {
                // Opposite frequencies are each other's mirror, so that what comes of them is real.
                let (sin, cos) = (TAU * random()).sin_cos();
                (waves[i], waves[j]) = ((size * cos, size * sin), (size * cos, -size * sin));
            }
        }
    }
    transformed(&waves, 1.0).into_iter().map(|(a, _)| a / (N * N) as f64).collect()
}

/// How heavy the tails of the steps between neighbours are: 3 for those of a normal distribution.
fn kurtosis(grid: &[f64]) -> f64 {
    let steps = (0..N * N).flat_map(|i| {
        let (x, y) = (i % N, i / N);
        [grid[y * N + (x + 1) % N] - grid[i], grid[(y + 1) % N * N + x] - grid[i]]
    });
    let (square, fourth, n) = steps.fold((0.0, 0.0, 0.0), |(a, b, n), s| (a + s * s, b + s * s * s * s, n + 1.0));
    fourth / n / (square / n).powi(2)
}

/// The lightness of a finish on a plate of so many mm, as its borders meet: mirrored, so that nothing jumps where the grid begins again.
fn seen(kind: &str, side: f32) -> Vec<f64> {
    let finish = ready::find(kind).unwrap_or_else(|| panic!("there is no {kind}"));
    let add = Edit::AddLayer { inside: None, index: 0, layer: finish.plain(), dials: vec![] };
    let d = apply(&document(vec![]), &add).unwrap();
    let surface = Surface::new(plate(side), 128);
    let e = evaluated(&d, &surface);
    let (color, n) = (&e.channels["base_color"], surface.atlas.len());
    let mut dense = vec![0.0f64; 128 * 128];
    for i in 0..n {
        let at = surface.atlas.texel[i] as usize;
        let y = 0.2126 * color[i] + 0.7152 * color[n + i] + 0.0722 * color[2 * n + i];
        dense[at] = f64::from(y).max(0.0).powf(1.0 / 2.4);
    }
    let half = N / 2;
    let folded = |t: usize| if t < half { t } else { N - 1 - t };
    (0..N * N).map(|i| dense[(40 + folded(i / N)) * 128 + 40 + folded(i % N)]).collect()
}

fn excess(grid: &[f64]) -> (f64, f64) {
    let spectrum = transformed(&grid.iter().map(|v| (*v, 0.0)).collect(), -1.0);
    let noise: Vec<f64> = (1..=6).map(|seed| kurtosis(&surrogate(&spectrum, seed))).collect();
    let most = noise.iter().copied().fold(0.0, f64::max);
    (kurtosis(grid), most)
}

#[test]
fn what_has_a_structure_is_no_noise_of_the_same_spectrum() {
    for (kind, side) in [
        ("shutter_planks", 400.0),
        ("galvanised", 250.0),
        ("canvas", 40.0),
        ("bench_cloth", 40.0),
        ("rope", 120.0),
        ("cork", 60.0),
        ("oilskin", 200.0),
        ("tool_leather", 60.0),
        ("old_coats", 200.0),
        ("slate", 200.0),
        ("weathered_teak", 200.0),
        ("wet_concrete", 200.0),
    ] {
        let (own, noise) = excess(&seen(kind, side));
        assert!(own > 1.25 * noise, "{kind}: {own:.2} against {noise:.2}");
    }
}

#[test]
fn noise_itself_is_not_taken_for_structure() {
    let waves: Waves = {
        let white = surrogate(&vec![(1.0, 0.0); N * N], 77);
        white.into_iter().map(|v| (v, 0.0)).collect()
    };
    let grid: Vec<f64> = waves.iter().map(|w| w.0).collect();
    let back: Vec<f64> = transformed(&transformed(&waves, -1.0), 1.0).iter().map(|(a, _)| a / (N * N) as f64).collect();
    assert!(grid.iter().zip(&back).all(|(a, b)| (a - b).abs() < 1e-9), "there and back is the same");
    let (own, noise) = excess(&grid);
    assert!((own - noise).abs() < 0.5, "{own} and {noise}");
}

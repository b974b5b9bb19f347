//! A draft looks like the final texture: averaged down to one size, textures of all sizes are nearly the same.

use std::time::Instant;

use dustcoat_core::bake::Surface;
use dustcoat_core::document::Document;
use dustcoat_core::evaluate::texture::{base_color, orm};
use dustcoat_core::evaluate::{Cache, Context, Measured, evaluate, evaluate_finely, needs};
use dustcoat_core::raster::srgb::{decode, encode};
use dustcoat_core::task::{Cancel, silent};
use dustcoat_demo::{piece, projects};

/// Side that all are averaged down to.
const SIDE: usize = 256;

/// Base color (as light), roughness and metallic, averaged down over the texels that are covered at every size; and how long one sample a texel and smooth edges took, in seconds.
fn averaged(document: &Document, key: &str, size: u32, finely: bool) -> (Vec<[f32; 5]>, [f64; 2]) {
    let surface = Surface::new(piece(key).expect("a demo piece").imported(), size);
    let cancel = Cancel::default();
    let measured =
        Measured::take(&needs(document, &surface.piece), &surface, &cancel, &silent).expect("nobody stops it");
    let cache = Cache::new(1 << 31);
    let context = Context { surface: &surface, measured: &measured, cache: &cache, cancel: &cancel, progress: &silent };
    // What is found once of a surface doesn't count.
    surface.beside();
    let warm = Cache::new(1 << 31);
    evaluate(document, &Context { cache: &warm, ..context }).expect("the demo can be evaluated");
    let clock = Instant::now();
    let mut e = evaluate(document, &context).expect("the demo can be evaluated");
    let plain = clock.elapsed().as_secs_f64();
    if finely {
        e = evaluate_finely(document, &context).expect("the demo can be evaluated");
    }
    let all = clock.elapsed().as_secs_f64();
    let (color, packed) = (base_color(&surface, &e), orm(&surface, &e, None));
    let (whole, by) = (size as usize, size as usize / SIDE);
    let mut out = vec![[0.0f32; 5]; SIDE * SIDE];
    for y in 0..whole * surface.atlas.sheets as usize {
        for x in 0..whole {
            let at = y * whole + x;
            let covered =
                surface.atlas.lookup[at] != u32::MAX && surface.atlas.area[surface.atlas.lookup[at] as usize] > 0.0;
            let to = &mut out[(y / by) * SIDE + x / by];
            (0..3).for_each(|c| to[c] += decode(f32::from(color[at * 4 + c]) / 255.0));
            (0..2).for_each(|c| to[3 + c] += f32::from(packed[at * 4 + 1 + c]) / 255.0);
            if !covered {
                to[0] = f32::NAN;
            }
        }
    }
    let texels = (by * by) as f32;
    let mean = |t: [f32; 5]| t.map(|v| v / texels);
    let seen = |t: [f32; 5]| [encode(t[0]), encode(t[1]), encode(t[2]), t[3], t[4]];
    (out.into_iter().map(mean).map(seen).collect(), [plain, all])
}

/// Mean difference in parts of 255 of base color, roughness and metallic.
fn difference(a: &[[f32; 5]], b: &[[f32; 5]]) -> [f64; 3] {
    let (mut sums, mut count) = ([0.0f64; 5], 0.0f64);
    for (a, b) in a.iter().zip(b).filter(|(a, b)| !a[0].is_nan() && !b[0].is_nan()) {
        (0..5).for_each(|c| sums[c] += f64::from((a[c] - b[c]).abs()));
        count += 1.0;
    }
    let of = |c: usize| sums[c] / count * 255.0;
    [(of(0) + of(1) + of(2)) / 3.0, of(3), of(4)]
}

#[test]
fn a_draft_looks_like_the_final_texture() {
    for (key, document) in [("gate-valve", projects::gate_valve()), ("swatch-tile", projects::swatch_tile())] {
        let (last, _) = averaged(&document, key, 1024, true);
        for (size, most) in [(512, 3.6), (256, 10.5)] {
            let (one, _) = averaged(&document, key, size, false);
            let (fine, seconds) = averaged(&document, key, size, true);
            let (before, after) = (difference(&one, &last), difference(&fine, &last));
            println!(
                "{key} at {size}: {before:.2?} with one sample a texel, {after:.2?} with smooth edges; {seconds:.3?} s"
            );
            assert!(after.iter().all(|d| *d < most), "{key} at {size}: {after:?}");
            let better = after.iter().zip(&before).all(|(a, b)| *a < 0.9 * b + 0.2);
            assert!(better, "{key} at {size}: {after:?} after {before:?}");
        }
    }
}

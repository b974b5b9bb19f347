//! A draft looks like the final texture, and small maps look like large ones: averaged down to one size, textures of all sizes are nearly the same.

use std::time::Instant;

use dustcoat_core::bake::Surface;
use dustcoat_core::bake::{Band, Extent, MEASUREMENTS, MeasurementKey};
use dustcoat_core::document::{Document, Layout};
use dustcoat_core::evaluate::bands::Bands;
use dustcoat_core::evaluate::texture::{base_color, orm};
use dustcoat_core::evaluate::{Cache, Context, Evaluation, Measured, evaluate, evaluate_finely, needs};
use dustcoat_core::handoff::ready::usual;
use dustcoat_core::handoff::{Naming, prepare};
use dustcoat_core::raster::srgb::{decode, encode};
use dustcoat_core::setting::{Param, Settings, Value};
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
    (down(&surface, &e, SIDE), [plain, all])
}

/// The same of what was evaluated on a surface, at a smaller size.
fn down(surface: &Surface, e: &Evaluation, side: usize) -> Vec<[f32; 5]> {
    let (color, packed) = (base_color(surface, e), orm(surface, e, None));
    let (whole, by) = (surface.atlas.size as usize, surface.atlas.size as usize / side);
    let mut out = vec![[0.0f32; 5]; side * side];
    for y in 0..whole * surface.atlas.sheets as usize {
        for x in 0..whole {
            let at = y * whole + x;
            let covered =
                surface.atlas.lookup[at] != u32::MAX && surface.atlas.area[surface.atlas.lookup[at] as usize] > 0.0;
            let to = &mut out[(y / by) * side + x / by];
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
    out.into_iter().map(mean).map(seen).collect()
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

/// Fewer rays than the demo's own, so that nobody waits: what they tell is the same at all sizes.
fn hasty(mut document: Document) -> Document {
    for m in MEASUREMENTS {
        let fewer: Settings = (m.specs)(Extent::default())
            .into_iter()
            .filter(|spec| spec.key == "rays")
            .map(|spec| (spec.key.to_owned(), Param::Const(Value::Number(16.0))))
            .collect();
        document.readings.entry(m.kind.to_owned()).or_default().extend(fewer);
    }
    document
}

#[test]
fn a_small_map_that_is_handed_off_is_a_smaller_picture_of_a_large_one() {
    const LARGE: u32 = 2048;
    const SMALL: usize = 512;
    let document = hasty(projects::gate_valve());
    let surface = Surface::new(piece("gate-valve").expect("a demo piece").imported(), LARGE);
    let (cancel, cache) = (Cancel::default(), Cache::new(1 << 31));
    let measured =
        Measured::take(&needs(&document, &surface.piece), &surface, &cancel, &silent).expect("nobody stops it");
    let context = Context { surface: &surface, measured: &measured, cache: &cache, cancel: &cancel, progress: &silent };
    let large = down(&surface, &evaluate_finely(&document, &context).expect("it can be evaluated"), SMALL);
    let held = |key: &MeasurementKey| {
        let hash = key.hash(&surface.piece.hash, LARGE);
        measured.get(&hash).map(|plane| (hash.clone(), plane.clone()))
    };
    let naming = Naming { piece: "Valve", variant: "", revision: "1" };
    for (size, most) in [(512, 3.0), (1024, 2.0)] {
        let layout = Layout { size, ..usual(&document, 1) };
        let prepared = prepare(&layout, &document, &surface.piece, naming).expect("it can be written");
        let take = |keys: &[MeasurementKey], on: &Surface| match on.atlas.size {
            LARGE => Ok(keys.iter().filter_map(&held).collect()),
            _ => Measured::take(keys, on, &cancel, &silent),
        };
        // What was measured at the larger size stands in for it alone where it has to.
        let read = prepared.measured(&surface, take).expect("nobody stops it");
        let plainly = &prepared.plainly[0];
        assert_eq!(read.in_force(plainly.clone(), &surface).drawn_from, Some(size));
        let context = Context { measured: &read, ..context };
        let band = Band::build(&surface, size, 0, size);
        let mut bands = Bands::new(&document, &context, size, &[]).expect("it can be evaluated");
        let e = bands.evaluate(&band).expect("it can be evaluated");
        let off = difference(&down(&band.surface, &e, SMALL), &large);
        println!("gate-valve handed off at {size} against {LARGE}: {off:.2?}");
        assert!(off.iter().all(|d| *d < most), "{size}: {off:?}");
    }
}

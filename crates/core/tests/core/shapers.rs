//! Shapers that ask what lies around: lengths on the surface, seams, gravity; and lines that mix them with pointwise ones.

use std::any::Any;
use std::collections::BTreeMap;
use std::sync::{Arc, Mutex};

use crate::common::{cube, plate, sphere};
use dustcoat_core::bake::Surface;
use dustcoat_core::bake::{MeasurementKey, Reading};
use dustcoat_core::finish::channel::Channel;
use dustcoat_core::mask::bring::Around;
use dustcoat_core::mask::field::{BATCH, Fields};
use dustcoat_core::mask::line::Line;
use dustcoat_core::mask::shaper::{Given, Keeper, SHAPERS, Work, distance, find};
use dustcoat_core::mask::{MaskLine, Step};
use dustcoat_core::raster::Plane;
use dustcoat_core::raster::pyramid::MaskPicture;
use dustcoat_core::setting::{DialStates, Param, Settings, Value, resolve};
use dustcoat_core::task::Cancel;
use glam::Vec3;
use serde_json::json;

fn n(v: f64) -> Value {
    Value::Number(v)
}

fn t(v: &str) -> Value {
    Value::Text(v.into())
}

/// Keeps what it is given, or nothing without room.
#[derive(Default)]
struct Keeps {
    room: u64,
    held: Mutex<BTreeMap<String, Arc<dyn Any + Send + Sync>>>,
}

impl Keeper for Keeps {
    fn kept(&self, name: &str) -> Option<Arc<dyn Any + Send + Sync>> {
        self.held.lock().unwrap().get(name).cloned()
    }

    fn keep(&self, name: String, what: Arc<dyn Any + Send + Sync>, _: u64) {
        self.held.lock().unwrap().insert(name, what);
    }

    fn room(&self) -> u64 {
        self.room
    }
}

fn shape(kind: &str, changes: &[(&str, Value)], surface: &Surface, mask: &[f32]) -> Plane {
    shape_with(kind, changes, surface, mask, &Keeps::default())
}

fn shape_with(kind: &str, changes: &[(&str, Value)], surface: &Surface, mask: &[f32], keeper: &Keeps) -> Plane {
    let shaper = find(kind).unwrap();
    let settings: Settings = changes.iter().map(|(k, v)| ((*k).to_owned(), Param::Const(v.clone()))).collect();
    match (shaper.work)(&resolve(&(shaper.specs)(), &settings, &DialStates::new())) {
        Work::Whole(reshape) => reshape(surface, mask, &Given { cancel: &Cancel::default(), keeper }).unwrap(),
        Work::Border(reach, shape) => {
            let texel = surface.atlas.texel_length;
            let mut out = distance::signed(surface, mask, reach + texel, &Cancel::default()).unwrap();
            shape(&mut out, texel);
            out
        }
        Work::Point(shape) => {
            let mut out = mask.to_vec();
            shape(&mut out);
            out
        }
    }
}

fn places(surface: &Surface) -> Vec<Vec3> {
    let a = &surface.atlas;
    (0..a.len()).map(|i| Vec3::new(a.px[i], a.py[i], a.pz[i])).collect()
}

/// Texels whose centre lies on the surface: the others only repeat a border.
fn inner(surface: &Surface) -> impl Iterator<Item = usize> {
    (0..surface.atlas.len()).filter(|i| surface.atlas.area[*i] > 0.0)
}

fn covered(surface: &Surface, mask: &[f32]) -> f64 {
    let area = &surface.atlas.area;
    mask.iter().zip(area).map(|(m, a)| f64::from(m * a)).sum::<f64>() / surface.atlas.total_area
}

#[test]
fn everything_stays_a_mask_and_is_the_same_on_any_number_of_threads() {
    let surface = Surface::new(cube(60.0), 128);
    let mask: Plane = places(&surface).iter().map(|p| (0.5 + p.x * 0.02 + p.y * 0.01).clamp(0.0, 1.0)).collect();
    for shaper in SHAPERS {
        let on = |threads: usize| {
            let pool = rayon::ThreadPoolBuilder::new().num_threads(threads).build().unwrap();
            pool.install(|| shape(shaper.kind, &[], &surface, &mask))
        };
        let one = on(1);
        assert!(one.iter().all(|v| (0.0..=1.0).contains(v)), "{}", shaper.kind);
        assert_eq!(one, on(2), "{}", shaper.kind);
    }
}

#[test]
fn a_threshold_by_coverage_covers_that_share() {
    let surface = Surface::new(sphere(40.0), 256);
    // Nearly no two texels alike, and unevenly spread.
    let mask: Plane =
        places(&surface).iter().map(|p| ((p.x * 0.011 + 0.5) * (p.y * 0.009 + 0.5)).clamp(0.0, 1.0)).collect();
    for share in [0.0, 0.05, 0.3, 0.77, 1.0] {
        let settings = [("by", t("coverage")), ("coverage", n(share)), ("softness", n(0.0))];
        let got = covered(&surface, &shape("threshold", &settings, &surface, &mask));
        assert!((got - share).abs() < 0.004, "{share}: {got}");
    }
}

#[test]
fn a_blurred_edge_is_an_error_function_of_the_length_on_the_surface() {
    let surface = Surface::new(plate(100.0), 256);
    let at = places(&surface);
    let mask: Plane = at.iter().map(|p| if p.x > 0.0 { 1.0 } else { 0.0 }).collect();
    for sigma in [1.0f64, 4.0, 9.0] {
        let soft = shape("blur", &[("radius", n(sigma))], &surface, &mask);
        for i in inner(&surface).filter(|i| at[*i].x.abs() < 30.0 && at[*i].z.abs() < 30.0).step_by(37) {
            let want = 0.5 * (1.0 + libm::erf(f64::from(at[i].x) / (sigma * 2f64.sqrt())));
            assert!((f64::from(soft[i]) - want).abs() < 0.035, "σ {sigma} at {}: {} against {want}", at[i].x, soft[i]);
        }
    }
}

#[test]
fn a_blur_crosses_the_seams_of_a_cube() {
    let surface = Surface::new(cube(60.0), 256);
    let at = places(&surface);
    // Around the edge of +x and +y this is a ramp that goes on evenly over the edge; a blur leaves such a ramp as it is, if it knows of the other side.
    let ramp = |p: Vec3| 0.5 + (p.x - p.y) / 40.0;
    let mask: Plane = at.iter().map(|p| ramp(*p).clamp(0.0, 1.0)).collect();
    let soft = shape("blur", &[("radius", n(3.0))], &surface, &mask);
    let near = |p: Vec3| p.z.abs() < 15.0 && p.x > 26.0 && p.y > 26.0;
    let looked_at: Vec<usize> = inner(&surface).filter(|i| near(at[*i])).collect();
    assert!(looked_at.iter().any(|i| at[*i].x > 29.99) && looked_at.iter().any(|i| at[*i].y > 29.99));
    // A texel of the size that it is worked out at is 1.5 mm: 0.037 of the ramp. Cut off at the edge it would be off by 0.8 σ: 0.06.
    for i in looked_at {
        assert!((soft[i] - ramp(at[i])).abs() < 0.03, "at {}: {} against {}", at[i], soft[i], ramp(at[i]));
    }
    let even = shape("blur", &[("radius", n(3.0))], &surface, &vec![0.6; at.len()]);
    assert!(even.iter().all(|v| (v - 0.6).abs() < 1e-4), "an even mask stays even");
}

#[test]
fn grown_and_shrunk_by_a_length_on_the_surface_as_measured_point_by_point() {
    let surface = Surface::new(plate(100.0), 256);
    let at = places(&surface);
    // Two discs, so that fronts meet.
    let discs = [(Vec3::new(-18.0, 0.0, 0.0), 14.0f32), (Vec3::new(22.0, 0.0, 10.0), 9.0)];
    let inside = |p: Vec3| discs.iter().map(|(c, r)| r - p.distance(*c)).fold(f32::MIN, f32::max);
    let mask: Plane = at.iter().map(|p| (0.5 + inside(*p) / 0.8).clamp(0.0, 1.0)).collect();
    for by in [6.0f64, -5.0] {
        let moved = shape("grow", &[("by", n(by)), ("softness", n(0.01))], &surface, &mask);
        for i in inner(&surface) {
            // Brute force: outside of a union the distance is that to the nearest disc.
            let d = inside(at[i]) + by as f32;
            if d.abs() > 0.8 {
                assert_eq!(moved[i] > 0.5, d > 0.0, "{by} mm at {}: {}", at[i], moved[i]);
            }
        }
    }
    let rim = shape("rim", &[("width", n(4.0)), ("softness", n(0.01)), ("side", t("outside"))], &surface, &mask);
    let lift = shape("lift", &[("width", n(6.0)), ("shape", t("straight"))], &surface, &mask);
    for i in inner(&surface) {
        let d = inside(at[i]);
        if (d + 2.0).abs() < 1.2 || !(-4.8..=0.8).contains(&d) {
            assert_eq!(rim[i] > 0.5, (d + 2.0).abs() < 1.2, "rim at {d}: {}", rim[i]);
        }
        assert!((lift[i] - (d / 6.0).clamp(0.0, 1.0)).abs() < 0.06, "lift at {d}: {}", lift[i]);
    }
    let none = vec![0.0; at.len()];
    assert!(shape("grow", &[("by", n(10.0))], &surface, &none).iter().all(|v| *v == 0.0), "nothing grows from nothing");
}

#[test]
fn a_mask_grows_over_the_edge_of_a_cube_onto_the_next_chart() {
    let surface = Surface::new(cube(60.0), 256);
    let at = places(&surface);
    // The top 2 mm of the side at x = 30, grown by 8 mm, come 6 mm further down there and 8 mm over the top.
    let mask: Plane = at.iter().map(|p| if p.x > 29.99 && p.y > 28.0 { 1.0 } else { 0.0 }).collect();
    let grown = shape("grow", &[("by", n(8.0)), ("softness", n(0.01))], &surface, &mask);
    for i in inner(&surface).filter(|i| at[*i].z.abs() < 20.0) {
        let p = at[i];
        let (wanted, sure) = if p.x > 29.99 {
            (p.y > 20.0, (p.y - 20.0).abs() > 1.0)
        } else if p.y > 29.99 {
            (p.x > 22.0, (p.x - 22.0).abs() > 1.5)
        } else {
            (false, p.y < 10.0 || p.x < 10.0)
        };
        if sure {
            assert_eq!(grown[i] > 0.5, wanted, "{p}: {}", grown[i]);
        }
    }
}

#[test]
fn runs_go_straight_down_a_sphere_and_no_further_than_they_may() {
    let radius = 40.0;
    let surface = Surface::new(sphere(radius), 512);
    let at = places(&surface);
    // A patch at azimuth 20°, 50° up.
    let spot = |azimuth: f32, height: f32| {
        Vec3::new(height.cos() * azimuth.cos(), height.sin(), height.cos() * azimuth.sin()) * radius
    };
    let source = spot(20f32.to_radians(), 50f32.to_radians());
    let mask: Plane = at.iter().map(|p| if p.distance(source) < 5.0 { 1.0 } else { 0.0 }).collect();
    let settings =
        [("length", n(30.0)), ("width", n(2.0)), ("density", n(0.9)), ("wander", n(0.0)), ("keep", t("streaks"))];
    let run = shape("run", &settings, &surface, &mask);
    let reached: Vec<usize> = inner(&surface).filter(|i| run[*i] > 0.3).collect();
    let lowest = reached.iter().map(|i| at[*i].y).fold(f32::MAX, f32::min);
    // Down the meridian, 5 mm of patch and 30 mm of run: an angle of 35/40 below the middle of the patch.
    let least = radius * (50f32.to_radians() - 35.5 / radius).sin();
    assert!(lowest > least - 0.8 && lowest < source.y - 12.0, "down to {lowest}, at most to {least}");
    // The flow down a sphere keeps to its meridian: a patch of 5 mm spans ±11° of azimuth at that height, and so do its runs.
    let span = (5.0 / (radius * 50f32.to_radians().cos())).asin() + 0.06;
    for i in &reached {
        let azimuth = at[*i].z.atan2(at[*i].x);
        assert!((azimuth - 20f32.to_radians()).abs() < span, "{} lies {azimuth} around", at[*i]);
        assert!(at[*i].y < source.y + 5.5, "nothing runs up: {}", at[*i]);
    }
    assert!(reached.len() > 50);
    let up = shape(
        "run",
        &[("length", n(30.0)), ("width", n(2.0)), ("density", n(0.9)), ("towards", t("up")), ("keep", t("streaks"))],
        &surface,
        &mask,
    );
    let highest = inner(&surface).filter(|i| up[*i] > 0.3).map(|i| at[i].y).fold(f32::MIN, f32::max);
    assert!(highest > source.y + 5.0, "soot rises: {highest}");
}

#[test]
fn runs_are_the_same_whether_their_ways_are_known_or_not() {
    let surface = Surface::new(cube(40.0), 128);
    let at = places(&surface);
    let keeper = Keeps { room: 1 << 30, ..Keeps::default() };
    for k in 0..6 {
        // What sends them down grows, and how much they fade is turned meanwhile.
        let mask: Plane = at.iter().map(|p| ((p.y - 15.0 + k as f32) * 0.2).clamp(0.0, 1.0)).collect();
        let settings = [("length", n(25.0)), ("width", n(3.0)), ("fade", n(0.2 * f64::from(k % 3)))];
        let known = shape_with("run", &settings, &surface, &mask, &keeper);
        assert_eq!(known, shape("run", &settings, &surface, &mask), "to the bit, the {k}. time");
    }
    let ways: Vec<String> = keeper.held.lock().unwrap().keys().cloned().collect();
    assert_eq!(ways.len(), 2, "asked for again, and then known: {ways:?}");
}

#[test]
fn creep_keeps_what_was_there_and_comes_no_further_than_it_may() {
    let surface = Surface::new(plate(100.0), 256);
    let at = places(&surface);
    let mask: Plane = at.iter().map(|p| if p.length() < 15.0 { 1.0 } else { 0.0 }).collect();
    let crept = shape("creep", &[("distance", n(12.0)), ("size", n(6.0))], &surface, &mask);
    let (before, after) = (covered(&surface, &mask), covered(&surface, &crept));
    assert!(inner(&surface).all(|i| crept[i] >= mask[i]));
    assert!(inner(&surface).all(|i| at[i].length() < 28.5 || crept[i] < 0.05), "at most 12 mm");
    // Some of the ring is reached and some is not: tongues, not a halo.
    let ring =
        covered(&surface, &at.iter().map(|p| if p.length() < 27.0 { 1.0 } else { 0.0 }).collect::<Plane>()) - before;
    let share = (after - before) / ring;
    assert!((0.1..0.8).contains(&share), "{share} of the ring");
    let warped = shape("warp", &[("by", n(4.0))], &surface, &mask);
    assert!((covered(&surface, &warped) - before).abs() < 0.02, "a warp moves, it does not grow");
    assert!(inner(&surface).filter(|i| (warped[*i] - mask[*i]).abs() > 0.5).count() > 300);
}

struct Nothing;

impl Fields for Nothing {
    fn plane(&self, _: &str) -> Option<Arc<Plane>> {
        None
    }
}

/// A line by itself: nothing measured, followed or below.
struct Alone;

impl Around for Alone {
    fn measured(&mut self, _: &Reading) -> Option<MeasurementKey> {
        None
    }
    fn picture(&mut self, _: &str) -> Option<(String, Arc<MaskPicture>)> {
        None
    }
    fn follow(&mut self, _: &str) -> Option<(usize, blake3::Hash)> {
        None
    }
    fn below(&mut self, _: &'static Channel) -> blake3::Hash {
        blake3::hash(b"")
    }
}

#[test]
fn a_fused_line_gives_what_its_steps_give_one_by_one() {
    let surface = Surface::new(cube(60.0), 128);
    let steps: Vec<Step> = serde_json::from_value(json!([
        {"kind": "perlin", "join": "replace"},
        {"kind": "worley", "join": "multiply", "amount": 0.8},
        {"kind": "levels", "settings": {"black": 0.1, "gamma": 1.4}},
        {"kind": "contrast", "amount": 0.7},
        {"kind": "scratches", "join": "max"},
        {"kind": "curve"},
        {"kind": "posterise", "amount": 0.5},
        {"kind": "clamp"},
        {"kind": "invert"}
    ]))
    .unwrap();
    let run = |steps: &[Step], m: &mut Plane| {
        let line = Line::new(&MaskLine { steps: steps.to_vec() }, &DialStates::new(), &mut Alone);
        assert!(line.ops.iter().all(|(_, op)| !op.is_whole()));
        for (b, m) in m.chunks_mut(BATCH).enumerate() {
            line.run(0..line.ops.len(), &surface, &Nothing, b * BATCH, m, |_, _| {});
        }
    };
    let (mut fused, mut single) = (vec![1.0; surface.atlas.len()], vec![1.0; surface.atlas.len()]);
    run(&steps, &mut fused);
    steps.iter().for_each(|s| run(std::slice::from_ref(s), &mut single));
    assert_eq!(fused, single);
}

//! Water against closed forms: what gathers on spheres, cones and in grooves, fills trays, drips and is carried; and that none is lost.

use std::collections::BTreeMap;
use std::sync::Arc;

use crate::common::{add_box, built, cube, mean_where, measured, numbers, planes, plate, quad, sphere, turned};
use crate::weather::{leaning, roofed};
use dustcoat_core::bake::measurement::flow::{Flowed, MEASUREMENT, flow};
use dustcoat_core::bake::water::spread;
use dustcoat_core::bake::{Extent, MEASUREMENTS, Surface};
use dustcoat_core::mask::shaper::{self, Given, Keeper, Work};
use dustcoat_core::mesh::{Piece, Soup};
use dustcoat_core::setting::{DialStates, Param, Resolved, Settings, resolve};
use dustcoat_core::task::Cancel;
use glam::Vec3;

fn settings(of: &[(&'static str, f64)]) -> Resolved {
    let given: Settings = of.iter().map(|(k, v)| ((*k).to_owned(), Param::from(*v))).collect();
    resolve(&MEASUREMENT.all_specs(Extent::default()), &given, &DialStates::new())
}

/// Rain straight down in still air, and what becomes of it.
fn flowing(surface: &Surface, of: &[(&'static str, f64)]) -> Flowed {
    let still = numbers([("slant", 0.0), ("turns", 0.0), ("ground", 0.0), ("rays", 64.0)]);
    let rain = measured(surface, "rain", &still);
    flow(surface, &rain, &settings(of), &Cancel::default()).unwrap()
}

#[test]
fn no_water_is_lost_or_made() {
    let mut soup = Soup::default();
    add_box(&mut soup, [-60.0, 0.0, -60.0], [60.0, 30.0, 60.0], [0.0, 0.0, 0.5, 0.5]);
    add_box(&mut soup, [-20.0, 25.0, -20.0], [20.0, 80.0, 20.0], [0.5, 0.5, 1.0, 1.0]);
    for piece in [cube(100.0), sphere(60.0), roofed(), plate(80.0), built(soup)] {
        let surface = Surface::new(piece, 256);
        let f = flowing(&surface, &[("soaks", 0.2), ("dries", 0.1), ("reach", 40.0)]);
        let gone = f.soaked + f.dried + f.ended.dropped[0] + f.ended.ran_off[0];
        assert!(f.fell > 0.0 && (gone / f.fell - 1.0).abs() < 1e-3, "{gone} of {} are told of", f.fell);
        assert!(f.soaked > 0.0 && f.dried > 0.0 && (f.soaked / f.dried - 2.0).abs() < 1e-3);
    }
}

/// The front of water in mm of catchment that a value tells of.
fn front(value: f64, reach: f64) -> f64 {
    -reach * (1.0 - value).ln()
}

#[test]
fn on_a_sphere_water_gathers_as_the_ring_below_the_pole_grows() {
    let surface = Surface::new(sphere(100.0), 512);
    let f = flowing(&surface, &[("soaks", 0.0), ("dries", 0.0), ("reach", 400.0)]);
    let fronts: Vec<f32> = f.passes.iter().map(|v| front(f64::from(*v), 400.0) as f32).collect();
    for degrees in [40.0f64, 60.0, 80.0] {
        let ring = degrees.to_radians();
        let (low, high) = ((ring - 0.03).cos() * 100.0, (ring + 0.03).cos() * 100.0);
        let found = mean_where(&surface, &fronts, |p, _| f64::from(p.y) < low && f64::from(p.y) > high);
        // What fell on the disc above over the ring's length: π r² / 2 π r.
        let wanted = 100.0 * ring.sin() / 2.0;
        assert!((found / wanted - 1.0).abs() < 0.06, "at {degrees}°: {found} is not {wanted}");
    }
}

/// A cone around the y axis, `radius` mm at its foot, seen from above in its UVs.
fn cone(radius: f32, height: f32) -> Arc<Piece> {
    turned("cone", [128, 32], [true, false], |around, _, r| {
        let (sin, cos) = (around * std::f32::consts::TAU).sin_cos();
        let n = Vec3::new(cos * height, radius, sin * height).normalize();
        (
            [cos * r * radius, (1.0 - r) * height, sin * r * radius],
            n.to_array(),
            [0.5 + cos * r * 0.49, 0.5 + sin * r * 0.49],
        )
    })
}

#[test]
fn down_a_cone_water_gathers_as_its_girth_grows() {
    let surface = Surface::new(cone(100.0, 150.0), 512);
    let f = flowing(&surface, &[("soaks", 0.0), ("dries", 0.0), ("reach", 400.0)]);
    let fronts: Vec<f32> = f.passes.iter().map(|v| front(f64::from(*v), 400.0) as f32).collect();
    let around = |p: Vec3| f64::from(p.x.hypot(p.z));
    for radius in [30.0f64, 60.0, 90.0] {
        let at = |p: Vec3| (around(p) - radius).abs() < 3.0;
        let found = mean_where(&surface, &fronts, |p, _| at(p));
        // π r² over 2 π r, however steep it is.
        assert!((found / (radius / 2.0) - 1.0).abs() < 0.06, "at {radius}: {found} is not {}", radius / 2.0);
    }
    let gone = f.soaked + f.dried + f.ended.dropped[0] + f.ended.ran_off[0];
    assert!((gone / f.fell - 1.0).abs() < 1e-3);
}

#[test]
fn twice_the_rain_is_twice_the_water_and_none_is_none() {
    let surface = Surface::new(sphere(100.0), 256);
    let at = |amount: f64| {
        let f = flowing(&surface, &[("soaks", 0.0), ("dries", 0.0), ("reach", 400.0), ("rain", amount)]);
        let fronts: Vec<f32> = f.passes.iter().map(|v| front(f64::from(*v), 400.0) as f32).collect();
        (mean_where(&surface, &fronts, |p, _| p.y > 10.0 && p.y < 60.0), f)
    };
    let ((usual, _), (twice, _), (none, dry)) = (at(800.0), at(1600.0), at(0.0));
    assert!((twice / usual - 2.0).abs() < 0.01, "{twice} and {usual}");
    assert_eq!((none, dry.fell), (0.0, 0.0));
    for plane in [dry.passes, dry.stays, dry.washed, dry.left] {
        assert!(plane.iter().all(|v| *v == 0.0), "nothing runs, stays or is carried");
    }
}

#[test]
fn a_groove_gathers_the_water_of_its_catchment() {
    // Two planes that lean towards each other and to the front.
    let mut soup = Soup::default();
    let at = |x: f32, z: f32| [x, x.abs() * 0.6 - z * 0.3, z];
    quad(
        &mut soup,
        "left",
        [at(-50.0, 100.0), at(0.0, 100.0), at(0.0, -100.0), at(-50.0, -100.0)],
        [0.0, 0.0, 0.25, 1.0],
    );
    quad(
        &mut soup,
        "right",
        [at(0.0, 100.0), at(50.0, 100.0), at(50.0, -100.0), at(0.0, -100.0)],
        [0.5, 0.0, 0.75, 1.0],
    );
    let surface = Surface::new(built(soup), 256);
    let f = flowing(&surface, &[("soaks", 0.0), ("dries", 0.0), ("reach", 400.0)]);
    let fronts: Vec<f32> = f.passes.iter().map(|v| front(f64::from(*v), 400.0) as f32).collect();
    let mean = |near: f32, far: f32, from: f32, to: f32| {
        mean_where(&surface, &fronts, |p, _| p.x.abs() >= near && p.x.abs() < far && p.z >= from && p.z < to)
    };
    let (groove, side) = (mean(0.0, 1.5, 70.0, 90.0), mean(20.0, 40.0, 70.0, 90.0));
    assert!(groove > 15.0 * side, "the groove has {groove} mm, its sides {side}");
    assert!(mean(0.0, 1.5, 70.0, 90.0) > mean(0.0, 1.5, -60.0, -40.0), "and more of it the further down");
}

#[test]
fn threads_of_water_are_as_broad_whatever_the_size_of_texels() {
    // What passes within a texel of the middle of a plate: how much of it there is afterwards, and how far it reaches to either side.
    let told = |size: u32| {
        let surface = Surface::new(leaning(60.0, 30.0), size);
        let a = &surface.atlas;
        let middle = |x: &f32| if x.abs() < a.texel_length { 1.0 / a.texel_length } else { 0.0 };
        let mut planes = [a.px.iter().map(middle).collect::<Vec<f32>>()];
        let before: f32 = planes[0].iter().sum();
        spread(&surface, &mut planes);
        let (sum, far) = planes[0].iter().zip(&a.px).fold((0.0, 0.0), |(s, f), (v, x)| (s + v, f + v * x * x));
        (sum / before, (far / sum).sqrt())
    };
    for size in [64, 128, 256, 512] {
        let (kept, broad) = told(size);
        assert!((kept - 1.0).abs() < 1e-3, "at {size}: {kept} of it is left");
        assert!((broad - 1.5).abs() < 0.2, "at {size}: {broad} mm");
    }
    let (kept, broad) = told(8);
    assert!(kept == 1.0 && (broad - 3.75).abs() < 0.01, "texels broader than a thread keep what they have: {broad}");
}

#[test]
fn a_tray_fills_up_to_its_lowest_rim_and_overflows_there() {
    let mut soup = Soup::default();
    let at = |x: f32, z: f32, high: f32| [x * (40.0 + 0.6 * high), high, z * (40.0 + 0.6 * high)];
    // The floor in two halves, the walls leaning outwards; the one to the right dips in its middle, where it meets both halves.
    quad(
        &mut soup,
        "floor",
        [at(-1.0, 1.0, 0.0), at(1.0, 1.0, 0.0), at(1.0, 0.0, 0.0), at(-1.0, 0.0, 0.0)],
        [0.0, 0.0, 0.45, 0.22],
    );
    quad(
        &mut soup,
        "floor",
        [at(-1.0, 0.0, 0.0), at(1.0, 0.0, 0.0), at(1.0, -1.0, 0.0), at(-1.0, -1.0, 0.0)],
        [0.0, 0.25, 0.45, 0.47],
    );
    let mut wall = |[x0, z0, h0]: [f32; 3], [x1, z1, h1]: [f32; 3], v: f32| {
        let corners = [at(x1, z1, 0.0), at(x0, z0, 0.0), at(x0, z0, h0), at(x1, z1, h1)];
        quad(&mut soup, "wall", corners, [0.5, v, 0.95, v + 0.1]);
    };
    wall([-1.0, 1.0, 10.0], [1.0, 1.0, 10.0], 0.0);
    wall([1.0, 1.0, 10.0], [1.0, 0.0, 6.0], 0.15);
    wall([1.0, 0.0, 6.0], [1.0, -1.0, 10.0], 0.3);
    wall([1.0, -1.0, 10.0], [-1.0, -1.0, 10.0], 0.45);
    wall([-1.0, -1.0, 10.0], [-1.0, 0.0, 10.0], 0.6);
    wall([-1.0, 0.0, 10.0], [-1.0, 1.0, 10.0], 0.75);
    let surface = Surface::new(built(soup), 256);
    let water = surface.water(&Cancel::default()).unwrap();
    let deep = mean_where(&surface, &water.pooled, |p, n| n.y > 0.99 && p.x.abs() < 30.0 && p.z.abs() < 30.0);
    assert!((deep - 6.0).abs() < 0.6, "it stands {deep} mm deep");
    let f = flowing(&surface, &[("soaks", 0.0), ("dries", 0.0), ("reach", 100.0)]);
    let over =
        |x: f32| mean_where(&surface, &f.passes, |p, _| p.x * x > 41.0 && p.y > 4.5 && p.y < 6.0 && p.z.abs() < 4.0);
    assert!(over(1.0) > 2.0 * over(-1.0), "it runs over the dip: {} and {}", over(1.0), over(-1.0));
    assert!(mean_where(&surface, &f.stays, |p, n| n.y > 0.99 && p.x.abs() < 30.0) > 0.95, "and stays in the tray");
}

#[test]
fn drops_from_an_overhang_land_right_below_it() {
    let mut soup = Soup::default();
    let floor = [[-200.0, 0.0, 200.0], [200.0, 0.0, 200.0], [200.0, 0.0, -200.0], [-200.0, 0.0, -200.0]];
    quad(&mut soup, "floor", floor, [0.0, 0.0, 0.6, 0.6]);
    add_box(&mut soup, [-50.0, 80.0, -50.0], [50.0, 120.0, 50.0], [0.62, 0.62, 1.0, 1.0]);
    let surface = Surface::new(built(soup), 512);
    let f = flowing(&surface, &[("soaks", 0.0), ("dries", 0.0), ("reach", 50.0)]);
    let floor =
        |holds: &dyn Fn(Vec3) -> bool| mean_where(&surface, &f.passes, |p, n| n.y > 0.99 && p.y < 1.0 && holds(p));
    let far = |p: Vec3| p.x.abs().max(p.z.abs());
    let fronts: Vec<f32> = f.passes.iter().map(|v| front(f64::from(*v), 50.0) as f32).collect();
    let beside = mean_where(&surface, &fronts, |p, n| n.y > 0.99 && p.y < 1.0 && far(p) > 51.0 && far(p) < 54.0);
    // All that fell on the block, over the ring around where it drips, and what falls there besides.
    let wanted = 100.0 * 100.0 / (8.0 * 52.5) + 1.5;
    assert!((beside / wanted - 1.0).abs() < 0.25, "{beside} mm of {wanted} come off below its rim");
    assert!(floor(&|p| far(p) < 40.0) < 1e-3, "below its middle it stays dry");
}

#[test]
fn a_hundred_shells_apart_lose_no_water_and_say_numbers() {
    let mut soup = Soup::default();
    for k in 0..100 {
        let (i, j) = ((k % 10) as f32, (k / 10) as f32);
        let min = [i * 30.0, j * 25.0, (i + j) * 10.0];
        add_box(&mut soup, min, min.map(|c| c + 18.0), [i * 0.1, j * 0.1, i * 0.1 + 0.09, j * 0.1 + 0.09]);
    }
    let surface = Surface::new(built(soup), 256);
    let f = flowing(&surface, &[("reach", 40.0)]);
    let gone = f.soaked + f.dried + f.ended.dropped[0] + f.ended.ran_off[0];
    assert!(f.fell > 0.0 && (gone / f.fell - 1.0).abs() < 1e-3, "{gone} of {} are told of", f.fell);
    for m in MEASUREMENTS.iter().filter(|m| !m.weather.is_empty() || m.kind == "touch") {
        let given: Settings = [("rays".to_owned(), 8.0.into())].into();
        let planes = planes(&surface, m, &given);
        assert!(planes.iter().all(|v| (0.0..=1.0).contains(v)), "{}", m.kind);
        assert!(planes.iter().any(|v| *v > 0.1), "{} tells something of them", m.kind);
    }
}

/// Stores nothing.
struct Forgetful;

impl Keeper for Forgetful {
    fn kept(&self, _: &str) -> Option<Arc<dyn std::any::Any + Send + Sync>> {
        None
    }
    fn keep(&self, _: String, _: Arc<dyn std::any::Any + Send + Sync>, _: u64) {}
    fn room(&self) -> u64 {
        0
    }
}

#[test]
fn what_is_washed_down_thins_out_with_the_way() {
    let mut soup = Soup::default();
    quad(
        &mut soup,
        "wall",
        [[-100.0, 0.0, 0.0], [100.0, 0.0, 0.0], [100.0, 300.0, 0.0], [-100.0, 300.0, 0.0]],
        [0.0, 0.0, 0.66, 1.0],
    );
    let surface = Surface::new(built(soup), 256);
    let given: Settings = BTreeMap::from([
        ("length".into(), 60.0.into()),
        ("strength".into(), 0.02.into()),
        ("keep".into(), "stain".into()),
    ]);
    let wash = shaper::find("wash").unwrap();
    let Work::Whole(reshape) = (wash.work)(&resolve(&(wash.specs)(), &given, &DialStates::new())) else {
        panic!("it asks for all of the mask")
    };
    let mask: Vec<f32> = surface.atlas.py.iter().map(|y| if (*y - 250.0).abs() < 5.0 { 1.0 } else { 0.0 }).collect();
    let stained = reshape(&surface, &mask, &Given { cancel: &Cancel::default(), keeper: &Forgetful }).unwrap();
    let at = |y: f32| mean_where(&surface, &stained, |p, _| (p.y - y).abs() < 6.0 && p.x.abs() < 60.0);
    assert!(at(280.0) == 0.0, "nothing runs up");
    let (near, far) = (at(220.0), at(160.0));
    assert!((near / far / 1.0f64.exp() - 1.0).abs() < 0.15, "{near} and {far}, a length apart");
}

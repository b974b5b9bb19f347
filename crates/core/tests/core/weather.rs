//! The weather against closed forms and integrals of its own: rain, sun, dust, touch; and what is done with bad input. Water has a file of its own.

use std::collections::BTreeMap;
use std::f64::consts::{PI, TAU};
use std::sync::Arc;

use crate::common::{
    add_box, built, coat, cube, document, evaluated, mean_where, measured, numbers, quad, sphere, step,
};
use dustcoat_core::bake::measurement::settings_among;
use dustcoat_core::bake::{Extent, MEASUREMENTS, MeasurementKey, Surface, measure, weather};
use dustcoat_core::evaluate::needs;
use dustcoat_core::mask::Join;
use dustcoat_core::mesh::{Piece, Soup};
use dustcoat_core::setting::{Param, Settings, Value};
use dustcoat_core::task::{Cancel, silent};
use glam::Vec3;

/// A plate of `side` mm that leans by so many degrees towards the front.
pub fn leaning(side: f32, degrees: f32) -> Arc<Piece> {
    let (sin, cos) = degrees.to_radians().sin_cos();
    let h = side / 2.0;
    let at = |x: f32, t: f32| [x * h, -t * h * sin, t * h * cos];
    let mut soup = Soup::default();
    quad(&mut soup, "plate", [at(-1.0, 1.0), at(1.0, 1.0), at(1.0, -1.0), at(-1.0, -1.0)], [0.0, 0.0, 1.0, 1.0]);
    built(soup)
}

#[test]
fn bearings_go_clockwise_from_north_as_seen_from_above() {
    let near = |a: Vec3, b: Vec3| assert!((a - b).length() < 1e-6, "{a} is not {b}");
    near(weather::bearing(180.0, 180.0), Vec3::Z);
    near(weather::bearing(90.0, 180.0), Vec3::X);
    near(weather::bearing(0.0, 180.0), Vec3::NEG_Z);
    // A front that faces north has east on its left.
    near(weather::bearing(0.0, 0.0), Vec3::Z);
    near(weather::bearing(90.0, 0.0), Vec3::NEG_X);
}

#[test]
fn rain_on_a_leaning_plane_is_the_mean_cosine() {
    let (slant, turns, lean) = (35.0f64, 40.0f64, 60.0f64);
    let surface = Surface::new(leaning(100.0, lean as f32), 64);
    let set = [("wind", 200.0), ("turns", turns), ("slant", slant), ("ground", 0.0), ("rays", 256.0)];
    let rain = measured(&surface, "rain", &numbers(set));
    let normal = [0.0, lean.to_radians().cos(), lean.to_radians().sin()];
    let (n, mut sum) = (400, 0.0);
    for (i, j) in (0..n).flat_map(|i| (0..n).map(move |j| (i, j))) {
        let (u, v) = ((f64::from(i) + 0.5) / f64::from(n), (f64::from(j) + 0.5) / f64::from(n));
        // 200° is 20° to the west of where the front faces, which is −X.
        let (turn, fall) = ((20.0 + (2.0 * u - 1.0) * turns).to_radians(), (slant * (0.5 + v)).to_radians());
        let way = [-turn.sin() * fall.sin(), fall.cos(), turn.cos() * fall.sin()];
        sum += (0..3).map(|k| way[k] * normal[k]).sum::<f64>().max(0.0);
    }
    let wanted = sum / f64::from(n * n);
    let found = mean_where(&surface, &rain, |_, _| true);
    assert!((found - wanted).abs() < 0.003, "{found} is not {wanted}");
}

/// A floor of 400 mm, and a roof of 200 mm width 100 mm above its middle.
pub fn roofed() -> Arc<Piece> {
    let mut soup = Soup::default();
    let floor = [[-200.0, 0.0, 200.0], [200.0, 0.0, 200.0], [200.0, 0.0, -200.0], [-200.0, 0.0, -200.0]];
    quad(&mut soup, "floor", floor, [0.0, 0.0, 0.6, 0.6]);
    add_box(&mut soup, [-100.0, 100.0, -199.0], [100.0, 104.0, 199.0], [0.62, 0.62, 1.0, 1.0]);
    built(soup)
}

#[test]
fn rain_reaches_in_under_a_roof_as_far_as_it_slants() {
    let surface = Surface::new(roofed(), 512);
    let at = |plane: &[f32], x: f32| {
        mean_where(&surface, plane, |p, n| n.y > 0.9 && p.y < 1.0 && (p.x - x).abs() < 3.0 && p.z.abs() < 60.0)
    };
    let still = measured(&surface, "rain", &numbers([("slant", 0.0), ("turns", 0.0), ("ground", 0.0), ("rays", 64.0)]));
    assert!(at(&still, 0.0) == 0.0 && at(&still, 95.0) == 0.0 && at(&still, 110.0) > 0.999);
    // From the east at 30°, give or take half: what falls steeper than the way to the roof's edge is kept off.
    let set = [("wind", 90.0), ("slant", 30.0), ("turns", 0.0), ("ground", 0.0), ("rays", 256.0)];
    let rain = measured(&surface, "rain", &numbers(set));
    for x in [60.0f64, 40.0, 20.0] {
        let bound = ((100.0 - x) / 100.0).atan();
        let steps = 2000;
        let fall = (0..steps).map(|k| (30.0 * (0.5 + (f64::from(k) + 0.5) / f64::from(steps))).to_radians());
        let wanted = fall.map(|a| if a > bound { a.cos() } else { 0.0 }).sum::<f64>() / f64::from(steps);
        let found = at(&rain, x as f32);
        assert!((found - wanted).abs() < 0.04, "{x} mm in: {found} is not {wanted}");
    }
    assert!(at(&rain, -80.0) < 1e-6, "the far side stays dry");
}

/// The dose of a year on a plane, by the textbook: `facing` is 0 for a level plane and 1 for one that stands upright and faces the equator.
fn dose(latitude: f64, upright: bool) -> f64 {
    let (phi, n, mut sum) = (latitude.to_radians(), 600, 0.0);
    for (i, j) in (0..n).flat_map(|i| (0..n).map(move |j| (i, j))) {
        let decline = 23.44f64.to_radians() * (TAU * (f64::from(i) + 0.5) / f64::from(n)).sin();
        let hour = PI * (2.0 * (f64::from(j) + 0.5) / f64::from(n) - 1.0);
        let high = phi.sin() * decline.sin() + phi.cos() * decline.cos() * hour.cos();
        if high <= 0.0 {
            continue;
        }
        let through = 0.7f64.powf((1.0 / high).powf(0.678));
        let strikes = if upright { phi.sin() * decline.cos() * hour.cos() - phi.cos() * decline.sin() } else { high };
        sum += through * strikes.max(0.0);
    }
    sum / f64::from(n * n)
}

#[test]
fn the_suns_dose_is_that_of_the_integral() {
    let surface = Surface::new(cube(100.0), 128);
    for latitude in [0.0, 35.0, 50.0, 68.0] {
        let set = [("latitude", latitude), ("facing", 180.0), ("rays", 256.0)];
        let sun = measured(&surface, "sun", &[&numbers(set)[..], &[("light", "direct".into())]].concat());
        let on = |way: Vec3| mean_where(&surface, &sun, |_, n| n.dot(way) > 0.99);
        let (level, upright) = (on(Vec3::Y), on(Vec3::Z));
        let wanted = dose(latitude, true) / dose(latitude, false);
        assert!(
            (upright / level - wanted).abs() < 0.02 * wanted.max(0.3),
            "at {latitude}°: {} is not {wanted}",
            upright / level
        );
        assert!((on(Vec3::X) - on(Vec3::NEG_X)).abs() < 0.01, "mornings are as bright as afternoons");
        assert!(on(Vec3::NEG_Y) < 1e-6 && level <= 1.0 && upright <= 1.0);
    }
    // South of the equator the sun stands in the north.
    let set = numbers([("latitude", -50.0), ("facing", 180.0), ("rays", 256.0)]);
    let sun = measured(&surface, "sun", &[&set[..], &[("light", "direct".into())]].concat());
    let side = |way: Vec3| mean_where(&surface, &sun, |_, n| n.dot(way) > 0.99);
    assert!(side(Vec3::NEG_Z) > 3.0 * side(Vec3::Z));
}

#[test]
fn what_builds_up_comes_as_far_as_the_years_let_it() {
    let surface = Surface::new(sphere(60.0), 64);
    let after = |kind: &str, tells: Option<&'static str>, years: Option<f64>| {
        let mut given: Vec<(&str, Param)> = vec![("rays", 16.0.into())];
        given.extend(tells.map(|t| ("tells", t.into())));
        given.extend(years.map(|y| ("years", y.into())));
        measured(&surface, kind, &given)
    };
    let so_far = |years: f64| 1.0 - (-years / 10.0).exp();
    let building = [("sun", None), ("dust", None), ("flow", Some("washed")), ("flow", Some("left"))];
    for (kind, tells) in building {
        let usual = after(kind, tells, None);
        assert_eq!(after(kind, tells, Some(10.0)), usual, "ten years are what is usual");
        assert!(usual.iter().any(|v| *v > 0.01) && after(kind, tells, Some(0.0)).iter().all(|v| *v == 0.0), "{kind}");
        for years in [1.0, 5.0, 30.0, 1000.0] {
            let share = (so_far(years) / so_far(10.0)) as f32;
            let wanted = usual.iter().map(|v| (v * share).min(1.0));
            assert!(
                after(kind, tells, Some(years)).iter().zip(wanted).all(|(a, b)| (a - b).abs() < 1e-5),
                "{kind} after {years}"
            );
        }
    }
    // Water runs the same from the first day on.
    for (kind, tells) in [("flow", Some("passes")), ("flow", Some("stays")), ("damp", None)] {
        assert_eq!(after(kind, tells, Some(0.0)), after(kind, tells, None), "{kind}");
    }
}

#[test]
fn the_years_are_read_and_never_measured() {
    let mut d = document(vec![coat("a", "#ffffff", vec![step(Join::Replace, "sun", &[("light", "direct".into())])])]);
    let surface = Surface::new(sphere(60.0), 64);
    let needed = needs(&d, &surface.piece);
    let usual = evaluated(&d, &surface).coverage[0].mask;
    d.readings.insert("weather".into(), Settings::from([("years".to_owned(), 1.0.into())]));
    assert_eq!(needs(&d, &surface.piece), needed, "what was measured still holds");
    let (early, share) = (evaluated(&d, &surface).coverage[0].mask, (1.0 - (-0.1f64).exp()) / (1.0 - (-1.0f64).exp()));
    assert!(usual > 0.05 && (early / usual - share).abs() < 1e-3, "{early} is not {share} of {usual}");
}

#[test]
fn a_ball_rests_where_it_fits() {
    // Three blocks on a base, 16 mm and 60 mm apart.
    let mut soup = Soup::default();
    for (k, (x0, x1)) in [(-100.0, -58.0), (-42.0, -10.0), (50.0, 100.0)].into_iter().enumerate() {
        let u = 0.25 * k as f32;
        add_box(&mut soup, [x0, 0.0, -40.0], [x1, 60.0, 40.0], [u, 0.0, u + 0.24, 0.5]);
    }
    let floor = [[-110.0, 0.0, 50.0], [110.0, 0.0, 50.0], [110.0, 0.0, -50.0], [-110.0, 0.0, -50.0]];
    quad(&mut soup, "floor", floor, [0.0, 0.55, 1.0, 1.0]);
    let surface = Surface::new(built(soup), 256);
    let touch = measured(&surface, "touch", &numbers([("ball", 20.0), ("edges", 0.0), ("rays", 8.0)]));
    let floor = |from: f32, to: f32| {
        mean_where(&surface, &touch, |p, n| n.y > 0.99 && p.y < 1.0 && p.x > from && p.x < to && p.z.abs() < 20.0)
    };
    assert!(
        floor(-56.0, -44.0) < 0.2,
        "not between walls that are nearer than the ball is wide: {}",
        floor(-56.0, -44.0)
    );
    assert!(floor(15.0, 25.0) > 0.98, "but between those that are further apart: {}", floor(15.0, 25.0));
    let round = Surface::new(sphere(50.0), 128);
    let all = measured(&round, "touch", &numbers([("ball", 30.0), ("edges", 0.0), ("rays", 8.0)]));
    assert!(all.iter().all(|v| *v > 0.97), "a ball rests anywhere on another");
    // What stands out is touched more.
    let block = Surface::new(cube(100.0), 256);
    let worn = measured(&block, "touch", &numbers([("ball", 15.0), ("edges", 1.0), ("rays", 64.0)]));
    let top =
        |from: f32, to: f32| mean_where(&block, &worn, |p, n| n.y > 0.9 && p.x > from && p.x < to && p.z.abs() < 30.0);
    assert!(top(47.0, 50.0) > 5.0 * top(-20.0, 20.0).max(0.01));
}

#[test]
fn a_rope_lies_against_what_stands_out_furthest_and_bridges_what_is_between() {
    // Two towers on a slab that is narrower than they stand apart.
    let mut soup = Soup::default();
    add_box(&mut soup, [-100.0, 20.0, -40.0], [-40.0, 100.0, 40.0], [0.0, 0.0, 0.49, 0.49]);
    add_box(&mut soup, [40.0, 20.0, -40.0], [100.0, 100.0, 40.0], [0.5, 0.0, 0.99, 0.49]);
    add_box(&mut soup, [-60.0, 0.0, -30.0], [60.0, 20.0, 30.0], [0.0, 0.5, 0.49, 0.99]);
    let surface = Surface::new(built(soup), 256);
    let wound = |by: &str, more: &[(&'static str, f64)]| {
        let mut given = vec![("by", Param::from(by)), ("ball", 8.0.into()), ("rays", 64.0.into())];
        given.extend(more.iter().map(|(k, v)| (*k, Param::from(*v))));
        measured(&surface, "touch", &given)
    };
    let rope = wound("rope_y", &[]);
    let high = |p: Vec3| p.y > 40.0 && p.y < 80.0;
    let on = |x: f32, way: f32| {
        mean_where(&surface, &rope, |p, n| high(p) && n.x * way > 0.9 && (p.x - x).abs() < 1.0 && p.z.abs() < 25.0)
    };
    assert!(on(100.0, 1.0) > 0.95 && on(-100.0, -1.0) > 0.95, "{} {}", on(100.0, 1.0), on(-100.0, -1.0));
    assert!(on(40.0, -1.0) < 0.05 && on(-40.0, 1.0) < 0.05, "{} {}", on(40.0, -1.0), on(-40.0, 1.0));
    let fronts = mean_where(&surface, &rope, |p, n| high(p) && n.z > 0.9 && (p.x.abs() - 70.0).abs() < 15.0);
    assert!(fronts > 0.95, "from the front of one to that of the other: {fronts}");
    assert_eq!(mean_where(&surface, &rope, |p, n| n.y > 0.9 && p.y > 99.0), 0.0, "it doesn't lie on top");
    // Around another axis it runs over the tops, and at a height it is counted along that axis.
    let over = wound("rope_z", &[("height", 40.0), ("band", 5.0)]);
    let top = |z: f32| {
        mean_where(&surface, &over, |p, n| {
            n.y > 0.9 && p.y > 99.0 && (p.z - z).abs() < 1.5 && (p.x.abs() - 70.0).abs() < 20.0
        })
    };
    assert!(top(0.0) > 0.9 && top(25.0) < 0.01, "{} {}", top(0.0), top(25.0));
    assert!(
        mean_where(&surface, &over, |p, n| n.x > 0.9 && (p.x + 40.0).abs() < 1.0) < 0.05,
        "and over what lies between"
    );
}

#[test]
fn dust_gathers_in_the_lee_of_a_step() {
    let mut soup = Soup::default();
    let floor = [[-200.0, 0.0, 200.0], [200.0, 0.0, 200.0], [200.0, 0.0, -200.0], [-200.0, 0.0, -200.0]];
    quad(&mut soup, "floor", floor, [0.0, 0.0, 0.6, 0.6]);
    add_box(&mut soup, [-20.0, 0.0, -150.0], [20.0, 50.0, 150.0], [0.62, 0.62, 1.0, 1.0]);
    let surface = Surface::new(built(soup), 256);
    let dust =
        measured(&surface, "dust", &numbers([("wind", 90.0), ("turns", 20.0), ("blown", 0.65), ("rays", 128.0)]));
    let floor = |from: f32, to: f32| {
        mean_where(&surface, &dust, |p, n| n.y > 0.99 && p.y < 1.0 && p.x > from && p.x < to && p.z.abs() < 80.0)
    };
    let (lee, windward, far) = (floor(-70.0, -40.0), floor(40.0, 70.0), floor(140.0, 180.0));
    assert!(lee > 1.5 * windward && lee > 1.5 * far, "lee {lee}, windward {windward}, far off {far}");
    assert!(mean_where(&surface, &dust, |p, n| n.x.abs() > 0.9 && p.y > 10.0) < 1e-6, "none stays on a wall");
}

#[test]
fn without_wind_all_sides_are_alike() {
    let surface = Surface::new(cube(100.0), 128);
    let all_round = numbers([("turns", 180.0), ("slant", 30.0), ("ground", 0.0), ("rays", 256.0)]);
    for kind in ["rain", "dust"] {
        let given: Vec<_> = if kind == "dust" { all_round[..1].to_vec() } else { all_round.to_vec() };
        let plane = measured(&surface, kind, &given);
        let sides = [Vec3::X, Vec3::NEG_X, Vec3::Z, Vec3::NEG_Z];
        let means = sides.map(|way| mean_where(&surface, &plane, |_, n| n.dot(way) > 0.99));
        assert!(means.iter().all(|m| (m - means[0]).abs() < 0.005), "{kind}: {means:?}");
    }
}

#[test]
fn every_reading_of_the_weather_is_a_number_from_0_to_1_whatever_it_is_given() {
    let mut inside_out = Soup::default();
    let h = 30.0;
    quad(&mut inside_out, "down", [[-h, 0.0, -h], [h, 0.0, -h], [h, 0.0, h], [-h, 0.0, h]], [0.0, 0.0, 1.0, 1.0]);
    // A room without a window: no sky is seen from its inside.
    let mut closed = Soup::default();
    add_box(&mut closed, [-100.0; 3], [100.0; 3], [0.0, 0.0, 0.5, 0.5]);
    add_box(&mut closed, [-20.0; 3], [20.0; 3], [0.5, 0.5, 1.0, 1.0]);
    let pieces = [cube(60.0), built(inside_out), built(closed), sphere(20.0)];
    let extremes = [
        [
            ("latitude", 90.0),
            ("slant", 0.0),
            ("turns", 0.0),
            ("ground", 0.0),
            ("wind", 0.0),
            ("years", 0.0),
            ("rain", 0.0),
        ],
        [
            ("latitude", -90.0),
            ("slant", 80.0),
            ("turns", 180.0),
            ("ground", 10_000.0),
            ("wind", 360.0),
            ("years", 1000.0),
            ("rain", 10_000.0),
        ],
        [
            ("latitude", 0.0),
            ("slant", 40.0),
            ("turns", 90.0),
            ("ground", 50.0),
            ("wind", 123.0),
            ("years", 3.0),
            ("rain", 90.0),
        ],
    ];
    for surface in pieces.map(|p| Surface::new(p, 64)) {
        for m in MEASUREMENTS.iter().filter(|m| !["occlusion", "curvature", "thickness"].contains(&m.kind)) {
            for extreme in extremes {
                let mut given: Settings = extreme.iter().map(|(k, v)| ((*k).to_owned(), Param::from(*v))).collect();
                given.insert("ball".into(), 500.0.into());
                given.insert("rays".into(), 8.0.into());
                let key = MeasurementKey::new(m, Extent::of(&surface.piece), &given);
                let planes = measure(m, &surface, &key.settings, &Cancel::default(), &silent).unwrap();
                assert_eq!(planes.len(), m.planes.len() * surface.atlas.len());
                assert!(planes.iter().all(|v| (0.0..=1.0).contains(v)), "{}", m.kind);
            }
        }
    }
}

#[test]
fn the_same_on_every_number_of_threads() {
    let surface = || Surface::new(sphere(40.0), 128);
    for m in MEASUREMENTS.iter().filter(|m| !m.weather.is_empty()) {
        let taken = || {
            let surface = surface();
            let few = Settings::from([("rays".to_owned(), 8.0.into())]);
            let key = MeasurementKey::new(m, Extent::of(&surface.piece), &few);
            measure(m, &surface, &key.settings, &Cancel::default(), &silent).unwrap()
        };
        let alone = rayon::ThreadPoolBuilder::new().num_threads(1).build().unwrap().install(taken);
        let three = rayon::ThreadPoolBuilder::new().num_threads(3).build().unwrap().install(taken);
        assert!(alone.iter().zip(&three).all(|(a, b)| a.to_bits() == b.to_bits()), "{}", m.kind);
    }
}

#[test]
fn measurements_follow_what_they_take_of_the_weather_and_nothing_else() {
    let key = |kind: &str, set: (&str, f64)| {
        let kept = BTreeMap::from([("weather".to_owned(), Settings::from([(set.0.to_owned(), set.1.into())]))]);
        let m = MEASUREMENTS.iter().find(|m| m.kind == kind).unwrap();
        MeasurementKey::new(m, Extent::default(), &settings_among(&kept, kind))
    };
    let changes = |kind, name, to| key(kind, (name, to)) != key(kind, ("none", 0.0));
    assert!(changes("rain", "wind", 10.0) && changes("flow", "wind", 10.0) && changes("dust", "wind", 10.0));
    assert!(changes("sun", "latitude", 10.0) && !changes("rain", "latitude", 10.0) && !changes("touch", "wind", 10.0));
    assert!(MEASUREMENTS.iter().all(|m| !changes(m.kind, "years", 50.0)), "these are read, not measured");
    // Occlusion has a ground of its own, which is another matter.
    assert!(!changes("occlusion", "ground", 10.0));
    assert_eq!(key("rain", ("wind", 10.0)).settings.0.get("wind"), Some(&Value::Number(10.0)));
}

#[test]
fn what_a_document_needs_is_measured_by_its_weather() {
    let mut d = document(vec![coat("a", "#ffffff", vec![step(Join::Replace, "rain", &[])])]);
    let piece = cube(50.0);
    let still = needs(&d, &piece);
    d.readings.insert("weather".into(), Settings::from([("wind".to_owned(), 10.0.into())]));
    let turned = needs(&d, &piece);
    let rain = MEASUREMENTS.iter().find(|m| m.kind == "rain").unwrap();
    assert_eq!(turned, [MeasurementKey::new(rain, Extent::of(&piece), &d.reading("rain"))]);
    assert_ne!(still, turned);
}

//! Traced light: nothing is lost or made, what is known in closed form comes out, and a picture is the same however many threads take it.

use crate::common::{coat, cube, document, evaluated, plate};
use dustcoat_core::bake::rays::point;
use dustcoat_core::bake::{Surface, rays};
use dustcoat_core::document::{Document, LayerKind};
use dustcoat_core::evaluate::Evaluation;
use dustcoat_core::still::Camera;
use dustcoat_core::still::develop::neutral;
use dustcoat_core::still::ground::{GREY, Ground, SHADE};
use dustcoat_core::still::light::{LIGHTS, find};
use dustcoat_core::still::lobes::Lobes;
use dustcoat_core::still::material::Material;
use dustcoat_core::still::sky::{Lighting, Sky};
use dustcoat_core::still::trace::{Exposure, Scene, Traced};
use dustcoat_core::task::{Cancel, silent};
use glam::Vec3;
use proptest::prelude::*;
use serde_json::json;

fn lobes(m: &Material, cos: f32) -> Lobes {
    let eye = Vec3::new((1.0 - cos * cos).sqrt() * 0.6, (1.0 - cos * cos).sqrt() * 0.8, cos);
    Lobes::new(m, eye, Vec3::Z, Vec3::Z, Vec3::Z, Vec3::X)
}

/// What of even light comes back towards the eye, by the bounces that the tracer takes.
fn albedo(m: &Material, cos: f32, samples: u32) -> Vec3 {
    let lobes = lobes(m, cos);
    let sum = (0..samples).fold([0.0f64; 3], |mut sum, k| {
        if let Some(b) = lobes.bounce(point(k, 1)[0], point(k, 2)) {
            (0..3).for_each(|c| sum[c] += f64::from(b.weight[c]));
        }
        sum
    });
    Vec3::from(sum.map(|s| (s / f64::from(samples)) as f32))
}

fn white() -> Material {
    Material { base: Vec3::ONE, ..Material::default() }
}

#[test]
fn in_a_white_furnace_no_lobe_loses_or_makes_light() {
    let with = |name: &'static str, change: fn(&mut Material, f32)| (name, change);
    let all = [
        with("diffuse under a reflection", |m, r| m.roughness = r),
        with("diffuse alone", |m, _| m.specular = 0.0),
        with("metal", |m, r| (m.metallic, m.roughness) = (1.0, r)),
        with("half metal", |m, r| (m.metallic, m.roughness) = (0.5, r)),
        with("brushed metal", |m, r| (m.metallic, m.roughness, m.anisotropy) = (1.0, r, 0.8)),
        with("brushed a little", |m, r| (m.metallic, m.roughness, m.anisotropy, m.grain) = (1.0, r, 0.4, 1.0)),
        with("clear coat", |m, r| (m.clearcoat, m.clearcoat_roughness) = (1.0, r)),
        with("sheen", |m, r| (m.sheen_color, m.sheen_roughness) = (Vec3::ONE, r)),
        with("through", |m, r| (m.transmission, m.roughness) = (1.0, r)),
        with("dense glass", |m, r| (m.transmission, m.roughness, m.ior) = (0.7, r, 2.4)),
        with("all of it", |m, r| {
            (m.clearcoat, m.clearcoat_roughness, m.sheen_color, m.transmission) = (0.7, r, Vec3::splat(0.6), 0.4);
            (m.roughness, m.anisotropy) = (r, 0.5);
        }),
    ];
    for (name, change) in all {
        for r in [0.0, 0.08, 0.2, 0.35, 0.5, 0.65, 0.8, 1.0] {
            for cos in [0.08, 0.2, 0.45, 0.7, 0.97] {
                let mut m = white();
                change(&mut m, r);
                let back = albedo(&m, cos, 32_768);
                assert!((back - Vec3::ONE).abs().max_element() < 0.01, "{name}, rough {r}, cos {cos}: {back}");
            }
        }
    }
}

/// The mean of what a material turns back in sixteen goes of 4096 bounces, and its standard error: some of these bounces are rare and bring much (smooth fibres
/// at a slant), and chance must not decide.
fn turned_back(m: &Material, cos: f32) -> (Vec3, Vec3) {
    let lobes = lobes(m, cos);
    let go = |g: u32| {
        let weight =
            |k: u32| lobes.bounce(point(k, 100 + 2 * g)[0], point(k, 101 + 2 * g)).map_or(Vec3::ZERO, |b| b.weight);
        (0..4096).map(weight).sum::<Vec3>() / 4096.0
    };
    let goes: Vec<Vec3> = (0..16).map(go).collect();
    let mean = goes.iter().copied().sum::<Vec3>() / 16.0;
    let variance = goes.iter().map(|g| (*g - mean) * (*g - mean)).sum::<Vec3>() / (16.0 * 15.0);
    (mean, variance.map(f32::sqrt))
}

#[test]
fn smooth_fibres_under_a_clear_layer_at_a_slant_make_no_light() {
    // A case that chance once took for more than all of the light: many bounces tell.
    let m = Material {
        base: Vec3::new(0.984, 0.0, 0.0),
        roughness: 0.0,
        specular: 0.0,
        specular_color: Vec3::ZERO,
        ior: 1.0,
        clearcoat: 0.531_657_4,
        clearcoat_roughness: 0.0,
        sheen_color: Vec3::new(0.895, 0.0, 0.0),
        sheen_roughness: 0.0,
        ..Material::default()
    };
    let back = albedo(&m, 0.03, 1 << 21);
    assert!(back.max_element() < 1.003, "{back}");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(100))]
    #[test]
    fn no_material_turns_back_more_than_it_gets(
        shares in prop::array::uniform8(0.0f32..=1.0),
        colors in prop::array::uniform9(0.0f32..=1.0),
        ior in 1.0f32..3.0,
        cos in 0.03f32..1.0,
    ) {
        let color = |k: usize| Vec3::from_slice(&colors[k * 3..]);
        let [metallic, roughness, clearcoat, clearcoat_roughness, sheen_roughness, anisotropy, specular, transmission] = shares;
        let m = Material {
            base: color(0), sheen_color: color(1), specular_color: color(2), ior,
            metallic, roughness, clearcoat, clearcoat_roughness, sheen_roughness, anisotropy, specular, transmission,
            ..Material::default()
        };
        let (back, error) = turned_back(&m, cos);
        let most = (back - 4.0 * error).max_element();
        prop_assert!(most < 1.01 && back.min_element() >= 0.0, "{back} ± {error} of {m:?}");
    }
}

#[test]
fn bounces_are_taken_as_densely_as_they_say() {
    // The same albedo by even directions and the lobes' values, and their density sums to one.
    let m = Material {
        base: Vec3::new(0.8, 0.4, 0.2),
        roughness: 0.6,
        metallic: 0.3,
        anisotropy: 0.5,
        clearcoat: 0.8,
        clearcoat_roughness: 0.5,
        sheen_color: Vec3::splat(0.4),
        ..Material::default()
    };
    for cos in [0.2, 0.6, 0.95] {
        let lobes = lobes(&m, cos);
        let (mut f, mut density) = (Vec3::ZERO, 0.0f64);
        let count = 200_000;
        for k in 0..count {
            let i = rays::uniform_sphere(point(k, 9));
            let (value, d) = lobes.reflect(i);
            f += value;
            density += f64::from(d);
        }
        let solid = 4.0 * std::f32::consts::PI / count as f32;
        let by_bounces = albedo(&m, cos, 65_536);
        assert!((f * solid - by_bounces).abs().max_element() < 0.01, "{} against {by_bounces}", f * solid);
        let lost =
            (0..65_536).filter(|k| lobes.bounce(point(*k, 1)[0], point(*k, 2)).is_none()).count() as f64 / 65_536.0;
        let all = density * f64::from(solid) + lost;
        assert!((all - 1.0).abs() < 0.01, "{all}, of which {lost} lead nowhere");
    }
}

fn dressed(channels: serde_json::Value) -> Document {
    let mut layer = coat("l1", "#808080", vec![]);
    let finish = serde_json::from_value(json!({ "channels": channels })).unwrap();
    layer.kind = LayerKind::Coat { finish };
    document(vec![layer])
}

fn even(channel: &str) -> serde_json::Value {
    json!({"on": true, "settings": serde_json::from_str::<serde_json::Value>(channel).unwrap()})
}

fn traced(scene: &Scene, camera: Camera, side: u32, samples: u32) -> Traced {
    scene.trace(&Exposure { camera, size: [side, side], samples, denoise: false }, &Cancel::default(), &silent).unwrap()
}

fn from_above(surface: &Surface) -> Camera {
    let reach = surface.piece.positions.iter().map(|p| Vec3::from(*p).length()).fold(0.0f32, f32::max);
    Camera { eye: Vec3::new(0.0, reach * 5.0, reach * 0.05), target: Vec3::ZERO, fov: 6.0 }
}

fn mean(t: &Traced) -> Vec3 {
    t.pixels.iter().map(|p| Vec3::new(p[0], p[1], p[2])).sum::<Vec3>() / t.pixels.iter().map(|p| p[3]).sum::<f32>()
}

#[test]
fn a_whole_piece_vanishes_in_a_white_furnace() {
    let white = |extra: serde_json::Value| {
        let mut channels =
            json!({"base_color": even(r##"{"color": "#ffffff"}"##), "roughness": even(r#"{"value": 0.7}"#)});
        channels.as_object_mut().unwrap().extend(extra.as_object().unwrap().clone());
        dressed(channels)
    };
    let (cube, sky) = (Surface::new(cube(60.0), 64), Sky::even(1.0));
    for extra in [
        json!({}),
        json!({"metallic": even(r#"{"value": 1}"#)}),
        json!({"clearcoat": even(r#"{"value": 1}"#), "sheen_color": even(r##"{"color": "#ffffff"}"##)}),
        json!({"opacity": even(r#"{"value": 0.5}"#)}),
        json!({"transmission": even(r#"{"value": 1}"#)}),
    ] {
        let e = evaluated(&white(extra.clone()), &cube);
        let scene = Scene::new(&cube, &e, &sky);
        let camera = Camera::framing(&cube.piece, 1.0, 1.0);
        let all = traced(&scene, camera, 24, 256);
        let light = all.pixels.iter().map(|p| Vec3::new(p[0], p[1], p[2])).sum::<Vec3>() / all.pixels.len() as f32;
        assert!((light - Vec3::ONE).abs().max_element() < 0.01, "{extra}: {light}");
    }
}

#[test]
fn matt_paint_is_as_bright_as_lambert_says() {
    let surface = Surface::new(plate(100.0), 64);
    let document =
        dressed(json!({"base_color": even(r##"{"color": "#808080"}"##), "specular": even(r#"{"value": 0}"#)}));
    let e = evaluated(&document, &surface);
    let grey = dustcoat_core::raster::srgb::decode(128.0 / 255.0);
    // In an even sky: albedo × radiance.
    let sky = Sky::even(0.7);
    let seen = mean(&traced(&Scene::new(&surface, &e, &sky).before(Vec3::ZERO), from_above(&surface), 12, 256));
    assert!((seen.x - grey * 0.7).abs() < 0.005, "{seen}");
    // Under a lamp besides: albedo × irradiance × cosine ⁄ π.
    let light = find("even").unwrap();
    let sky = Sky::new(&Lighting { light, turn: 30.0, brightness: 2.0, rim: 0.0 });
    let seen = mean(&traced(&Scene::new(&surface, &e, &sky).before(Vec3::ZERO), from_above(&surface), 12, 256));
    let lamp = light.lamps[0];
    let wanted = grey * (0.9 * 2.0 + lamp.strength * 2.0 * lamp.above.to_radians().sin() / std::f32::consts::PI);
    assert!((seen.x - wanted).abs() < 0.01, "{seen} against {wanted}");
}

#[test]
fn what_glows_is_seen_through_holes_and_lights_what_is_beside_it() {
    let surface = Surface::new(cube(60.0), 64);
    let sky = Sky::even(0.0);
    let glowing =
        dressed(json!({"emissive": even(r##"{"color": "#ffffff"}"##), "emissive_strength": even(r#"{"value": 3}"#)}));
    let e = evaluated(&glowing, &surface);
    let scene = Scene::new(&surface, &e, &sky).before(Vec3::ZERO).on_ground();
    let low = Camera { eye: Vec3::new(0.0, 120.0, 420.0), target: Vec3::new(0.0, 0.0, 40.0), fov: 30.0 };
    let picture = traced(&scene, low, 32, 64);
    let at = |x: usize, y: usize| picture.pixels[y * 32 + x];
    assert!((at(16, 14)[0] - 3.0).abs() < 0.05, "it shines: {:?}", at(16, 14));
    // The ground before it.
    assert!(at(16, 21)[0] > 0.02 && at(16, 21)[3] > 0.5, "it lights the ground: {:?}", at(16, 21));
    let gone = dressed(json!({"opacity": even(r#"{"value": 0}"#)}));
    let e = evaluated(&gone, &surface);
    let picture = traced(&Scene::new(&surface, &e, &Sky::even(1.0)).before(Vec3::ONE), low, 16, 16);
    assert!(picture.pixels.iter().all(|p| p[3] == 0.0), "nothing is left of a piece that is all hole");
}

#[test]
fn light_through_thin_walls_takes_the_colour_of_each() {
    let surface = Surface::new(plate(100.0), 64);
    let glass = dressed(json!({
        "base_color": even(r##"{"color": "#ff0000"}"##), "roughness": even(r#"{"value": 0}"#),
        "transmission": even(r#"{"value": 1}"#), "specular": even(r#"{"value": 0}"#)
    }));
    let e = evaluated(&glass, &surface);
    let sky = Sky::even(1.0);
    let seen = mean(&traced(&Scene::new(&surface, &e, &sky).before(Vec3::splat(0.5)), from_above(&surface), 8, 64));
    assert!((seen - Vec3::new(0.5, 0.0, 0.0)).abs().max_element() < 0.01, "the surround shows through, red: {seen}");
}

#[test]
fn a_picture_is_the_same_at_every_thread_count_and_can_be_stopped() {
    let surface = Surface::new(cube(60.0), 64);
    let e: Evaluation = evaluated(&document(vec![coat("l1", "#c06030", vec![])]), &surface);
    let sky = Sky::new(&Lighting { light: &LIGHTS[0], turn: 0.0, brightness: 1.0, rim: 0.5 });
    let scene = Scene::new(&surface, &e, &sky).on_ground();
    let camera = Camera::framing(&surface.piece, 1.0, 1.0);
    let with = |threads: usize| {
        let pool = rayon::ThreadPoolBuilder::new().num_threads(threads).build().unwrap();
        pool.install(|| traced(&scene, camera, 24, 16))
    };
    let (one, two) = (with(1), with(2));
    assert_eq!(one.pixels, two.pixels);
    assert!(one.rays == two.rays && one.rays > 24 * 24 * 16);
    let stop = Cancel::default();
    stop.cancel();
    assert!(scene.trace(&Exposure { camera, size: [24, 24], samples: 16, denoise: false }, &stop, &silent).is_err());
}

#[test]
fn rays_are_aimed_at_the_sky_as_it_is_bright() {
    for light in LIGHTS {
        let sky = Sky::new(&Lighting { light, turn: 70.0, brightness: 1.5, rim: 0.0 });
        let (mut by_aim, mut by_sphere, mut density, mut near) = (0.0f64, 0.0f64, 0.0f64, 0);
        let count = 40_000;
        for k in 0..count {
            let (towards, d) = sky.aim(point(k, 5));
            near += u32::from((d / sky.density(towards) - 1.0).abs() < 1e-3);
            by_aim += f64::from(sky.radiance(towards).element_sum() / d);
            let even = rays::uniform_sphere(point(k, 6));
            by_sphere += f64::from(sky.radiance(even).element_sum()) * 4.0 * std::f64::consts::PI;
            density += f64::from(sky.density(even)) * 4.0 * std::f64::consts::PI;
        }
        let n = f64::from(count);
        // Rounding puts a few on the neighbouring texel.
        assert!(near > count * 99 / 100, "{}: {near} of {count} know their own density", light.key);
        assert!((by_aim / by_sphere - 1.0).abs() < 0.03, "{}: {} against {}", light.key, by_aim / n, by_sphere / n);
        assert!((density / n - 1.0).abs() < 0.03, "{}: {}", light.key, density / n);
    }
    // Turned by a quarter, the sun stands a quarter further round.
    let noon = find("noon").unwrap();
    let sun = noon.glows[0].lamp.towards();
    let sky = Sky::new(&Lighting { light: noon, turn: 90.0, brightness: 1.0, rim: 0.0 });
    let (there, here) = (Vec3::new(sun.z, sun.y, -sun.x), sun);
    assert!(sky.radiance(there).x > 20.0 && sky.radiance(here).x < 5.0);
    assert!((sky.lamps()[0].0 - there).length() < 1e-4, "the lamp goes with it");
}

#[test]
fn the_ground_is_dark_under_the_piece_and_open_far_from_it() {
    let surface = Surface::new(cube(60.0), 64);
    let ground = Ground::of(&surface.piece);
    assert!((ground.middle.y + 30.0).abs() < 1e-3, "{:?}", ground.middle);
    let open = ground.open(&surface);
    let n = SHADE as usize;
    assert!(open[n / 2 * n + n / 2] < 0.05, "under it: {}", open[n / 2 * n + n / 2]);
    assert!(open[0] > 0.97, "in the corner: {}", open[0]);
    assert!(ground.cover(ground.middle) == 1.0 && ground.cover(ground.middle + Vec3::X * ground.fades[1]) == 0.0);
    // Beside a wall of a cube half of what comes from above its foot is kept off; the closed form of a tall wall is ½.
    let beside = ((31.5 / ground.fades[1] * 0.5 + 0.5) * n as f32) as usize;
    assert!((0.35..0.75).contains(&open[n / 2 * n + beside]), "{}", open[n / 2 * n + beside]);
    let e = evaluated(&document(vec![]), &surface);
    let sky = Sky::even(1.0);
    let scene = Scene::new(&surface, &e, &sky).before(Vec3::ZERO).on_ground();
    let far = Camera { eye: Vec3::new(0.0, 300.0, 200.0), target: Vec3::new(0.0, -30.0, 110.0), fov: 2.0 };
    let seen = mean(&traced(&scene, far, 6, 128));
    assert!((seen.x - GREY).abs() < 0.03, "matt grey in an even sky: {seen}");
}

#[test]
fn the_tone_curve_keeps_order_and_ends_below_white() {
    let mut before = -1.0;
    for k in 0..400 {
        let c = neutral(Vec3::splat(k as f32 * 0.05)).x;
        assert!(c > before && c < 1.0, "{k}: {c}");
        before = c;
    }
    // Its specification: greys from 0.08 to 0.8 go down by 0.04 and keep their distances.
    assert!((neutral(Vec3::splat(0.5)) - Vec3::splat(0.46)).length() < 1e-6);
    let bright = neutral(Vec3::new(40.0, 2.0, 1.0));
    assert!(bright.x > bright.y && bright.y > 0.4, "bright colours go towards white: {bright}");
}

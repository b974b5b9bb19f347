//! The harbour lamp of the sluice at Wrack Point: a ribbed brass housing on a bolted foot, a thick lens in a cage, a cap with a bail, and a gland with its cable.
//! The foot stands at y = 0; 220 mm wide without its cable and 420 mm tall. Two sheets: the housing; cap, lens, cage, gland and cable.

use std::f32::consts::{FRAC_PI_2, PI, TAU};

use dustcoat_core::mesh::Piece;
use glam::{Mat4, Quat, Vec2, Vec3};

use crate::kit::{Kit, Section, Unfold, points, round, smooth};

const ROUND: Section = Section::Circle(80);
/// The cage's bars stand on this circle.
const CAGE: f32 = 84.0;
const BARS: u32 = 6;

/// Builds the lamp.
pub fn build() -> Piece {
    let mut kit = Kit::default();
    housing(&mut kit);
    // What is seen first has a sheet of its own.
    kit.on_sheet(1);
    cap(&mut kit);
    lens(&mut kit);
    cage(&mut kit);
    gland(&mut kit);
    kit.finish("Harbour lamp")
}

fn bolts(kit: &mut Kit, count: u32, circle: f32, y: f32, size: f32) {
    for i in 0..count {
        let angle = (i as f32 + 0.5) / count as f32 * TAU;
        let at = Mat4::from_rotation_y(angle) * Mat4::from_translation(Vec3::new(circle, y, 0.0));
        let place = at * Mat4::from_rotation_y(i as f32 * 1.3) * Mat4::from_scale(Vec3::splat(size));
        let washer = round(&points(&[(10.0, -1.0), (10.0, 1.8), (6.0, 1.8)]), 0.6);
        kit.sweep("bolts", &washer, &Section::Circle(28), Unfold::Flower, place);
        let head = round(&points(&[(7.4, 1.2), (7.4, 8.0), (6.2, 9.0), (0.0, 9.0)]), 0.8);
        kit.sweep("bolts", &head, &Section::Hex, Unfold::Flower, place);
    }
}

fn housing(kit: &mut Kit) {
    let foot = points(&[(0.0, 0.0), (104.0, 0.0), (104.0, 13.0), (72.0, 13.0), (68.0, 18.0), (66.0, 20.0)]);
    kit.sweep("housing", &round(&foot, 2.4), &ROUND, Unfold::Parts, Mat4::IDENTITY);
    bolts(kit, 4, 90.0, 13.0, 1.0);
    // Five cooling ribs, each a ring that thins outwards.
    let mut wall = points(&[(64.0, 17.0), (62.0, 26.0)]);
    for k in 0..5 {
        let y = 32.0 + k as f32 * 14.0;
        wall.extend(points(&[(61.0, y), (78.0, y + 1.4), (78.0, y + 5.0), (61.0, y + 6.4)]));
    }
    wall.extend(points(&[(61.0, 106.0), (64.0, 111.0)]));
    kit.sweep("housing", &round(&wall, 1.6), &ROUND, Unfold::Parts, Mat4::IDENTITY);
    let collar = points(&[(60.0, 108.0), (96.0, 108.0), (96.0, 121.0), (70.0, 121.0), (66.0, 121.0)]);
    kit.sweep("housing", &round(&collar, 2.2), &ROUND, Unfold::Parts, Mat4::IDENTITY);
    bolts(kit, 6, 84.0, 121.0, 0.55);
    kit.torus("gasket", 71.0, 4.6, Mat4::from_translation(Vec3::new(0.0, 122.0, 0.0)));
}

fn lens(kit: &mut Kit) {
    // A barrel of thick glass with rings pressed into it, that gather the light.
    let mut profile = points(&[(64.0, 118.0), (66.0, 126.0)]);
    for k in 0..7 {
        let y = 134.0 + k as f32 * 15.0;
        let bulge = |y: f32| 60.0 + 8.0 * libm::sqrtf((1.0 - libm::powf((y - 179.0) / 62.0, 2.0)).max(0.0));
        profile.extend(points(&[
            (bulge(y) - 1.2, y),
            (bulge(y + 3.0) + 2.2, y + 3.0),
            (bulge(y + 9.0) + 1.4, y + 10.0),
        ]));
    }
    profile.extend(points(&[(66.0, 238.0), (64.0, 246.0)]));
    kit.sweep("lens", &round(&profile, 2.6), &Section::Circle(96), Unfold::Parts, Mat4::IDENTITY);
}

fn cage(kit: &mut Kit) {
    for i in 0..BARS {
        let spin = Mat4::from_rotation_y(i as f32 / BARS as f32 * TAU);
        let through =
            [(CAGE, 114.0), (CAGE + 1.0, 140.0), (CAGE + 5.0, 179.0), (CAGE + 1.0, 220.0), (CAGE - 2.0, 250.0)];
        let path = smooth(&through.map(|(x, y)| Vec3::new(x, y, 0.0)), 6, false);
        kit.tube("cage", &path, 4.4, false, spin);
    }
    for y in [160.0, 198.0] {
        kit.torus("cage", CAGE + 4.0, 3.4, Mat4::from_translation(Vec3::new(0.0, y, 0.0)));
    }
}

fn cap(kit: &mut Kit) {
    let mut profile = points(&[(60.0, 242.0), (98.0, 242.0), (102.0, 246.0), (102.0, 252.0), (90.0, 258.0)]);
    for k in 0..10 {
        let t = k as f32 / 9.0 * FRAC_PI_2 * 0.92;
        profile.push(Vec2::new(20.0 + 64.0 * libm::cosf(t), 260.0 + 36.0 * libm::sinf(t)));
    }
    // A vent sits on it, with a small roof.
    profile.extend(points(&[(22.0, 298.0), (22.0, 308.0), (30.0, 310.0), (30.0, 315.0), (10.0, 322.0), (0.0, 322.0)]));
    kit.sweep("cap", &round(&profile, 1.8), &ROUND, Unfold::Parts, Mat4::IDENTITY);
    for side in [1.0, -1.0] {
        let turn = Quat::from_rotation_z(-FRAC_PI_2 * side);
        let ear = round(&points(&[(11.0, -18.0), (11.0, 8.0), (8.0, 11.0), (0.0, 11.0)]), 1.8);
        let place = Mat4::from_rotation_translation(turn, Vec3::new(84.0 * side, 268.0, 0.0));
        kit.sweep("cap", &ear, &Section::Circle(32), Unfold::Flower, place);
    }
    let bail: Vec<Vec3> = (0..=40)
        .map(|k| {
            let t = PI * k as f32 / 40.0;
            Vec3::new(
                88.0 * libm::cosf(t),
                268.0 + 148.0 * libm::powf(libm::sinf(t).max(0.0), 0.8),
                26.0 * libm::sinf(t),
            )
        })
        .collect();
    kit.tube("bail", &bail, 5.0, false, Mat4::IDENTITY);
}

fn gland(kit: &mut Kit) {
    let out = Mat4::from_rotation_translation(Quat::from_rotation_z(FRAC_PI_2), Vec3::new(-52.0, 66.0, 0.0));
    let boss = round(&points(&[(19.0, 0.0), (19.0, 34.0), (14.0, 34.0)]), 1.6);
    kit.sweep("gland", &boss, &Section::Circle(40), Unfold::Flower, out);
    let nut = round(&points(&[(16.0, 32.0), (16.0, 50.0), (13.5, 53.0), (8.0, 53.0)]), 1.4);
    kit.sweep("gland", &nut, &Section::Hex, Unfold::Flower, out);
    let through =
        [(-98.0, 66.0, 0.0), (-122.0, 65.0, 2.0), (-146.0, 50.0, 10.0), (-152.0, 24.0, 26.0), (-140.0, 8.0, 56.0)];
    let on = [(-108.0, 7.5, 92.0), (-60.0, 7.5, 118.0), (4.0, 7.5, 124.0)];
    let path = smooth(&through.into_iter().chain(on).map(Vec3::from).collect::<Vec<_>>(), 8, false);
    kit.tube("cable", &path, 7.0, false, Mat4::IDENTITY);
    let end = Mat4::from_rotation_translation(Quat::from_rotation_z(-FRAC_PI_2), Vec3::new(3.0, 7.5, 124.0));
    let plug = round(&points(&[(7.6, 0.0), (7.6, 3.0), (0.0, 3.0)]), 0.8);
    kit.sweep("cable", &plug, &Section::Circle(24), Unfold::Flower, end);
}

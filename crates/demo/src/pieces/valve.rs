//! The gate valve of Tidegate 7: a cast body between two bolted flanges, a bonnet, a yoke, and a handwheel on the stem.
//! The pipe's axis lies along x at y = 0; about 260 mm long and 390 mm tall.

use std::f32::consts::{FRAC_PI_2, TAU};

use dustcoat_core::mesh::Piece;
use glam::{Mat4, Quat, Vec2, Vec3};

use crate::kit::{Kit, Section, Unfold, points, round};

const ROUND: Section = Section::Circle(72);

/// Builds the valve.
pub fn build() -> Piece {
    let mut kit = Kit::default();
    body(&mut kit);
    for side in [1.0, -1.0] {
        end(&mut kit, side);
    }
    bonnet(&mut kit);
    yoke(&mut kit);
    handwheel(&mut kit);
    plate(&mut kit);
    kit.finish("Gate valve")
}

/// The radius of the body's belly in mm at a height: a superellipse between the foot and the neck.
pub fn belly(y: f32) -> f32 {
    let t = ((y + 8.0) / 72.0).abs().min(0.985);
    64.0 * libm::powf(1.0 - libm::powf(t, 2.6), 1.0 / 2.6).max(0.66)
}

fn body(kit: &mut Kit) {
    let mut profile = points(&[(0.0, -84.0), (22.0, -84.0), (24.0, -79.0)]);
    // The belly: a superellipse between the foot and the neck.
    for k in 1..22 {
        let y = -78.0 + 136.0 * k as f32 / 22.0;
        profile.push(Vec2::new(belly(y), y));
    }
    profile.extend(points(&[(42.0, 62.0), (42.0, 74.0), (74.0, 74.0), (74.0, 89.0), (60.0, 89.0), (60.0, 91.0)]));
    kit.sweep("body", &round(&profile, 3.0), &ROUND, Unfold::Parts, Mat4::IDENTITY);
}

fn end(kit: &mut Kit, side: f32) {
    let turn = Quat::from_rotation_z(-FRAC_PI_2 * side);
    let place = Mat4::from_quat(turn);
    let profile = points(&[
        (36.0, 30.0),
        (36.0, 96.0),
        (44.0, 104.0),
        (76.0, 104.0),
        (76.0, 122.0),
        (50.0, 122.0),
        (50.0, 125.0),
        (33.0, 125.0),
        (33.0, 112.0),
        (0.0, 112.0),
    ]);
    kit.sweep("body", &round(&profile, 2.2), &ROUND, Unfold::Parts, place);
    bolts(kit, 8, 62.5, 0.5, |spin| place * spin * Mat4::from_translation(Vec3::new(0.0, 122.0, 0.0)), 1.0);
    // The nuts behind the flange look the other way.
    let back = Mat4::from_quat(Quat::from_rotation_x(TAU / 2.0));
    bolts(kit, 8, 62.5, 0.5, |spin| place * spin * Mat4::from_translation(Vec3::new(0.0, 104.0, 0.0)) * back, 0.85);
}

/// A circle of hexagon bolts; `base` turns a spin around the axis into the place of one bolt's foot before it is moved outwards.
fn bolts(kit: &mut Kit, count: u32, circle: f32, phase: f32, base: impl Fn(Mat4) -> Mat4, size: f32) {
    for i in 0..count {
        let angle = (i as f32 + phase) / count as f32 * TAU;
        let spin = Mat4::from_rotation_y(angle) * Mat4::from_translation(Vec3::new(circle, 0.0, 0.0));
        let own = Mat4::from_rotation_y(angle * 2.7 + circle);
        let place = base(spin) * own * Mat4::from_scale(Vec3::splat(size));
        let washer = round(&points(&[(11.0, -1.0), (11.0, 2.0), (7.0, 2.0)]), 0.7);
        kit.sweep("bolts", &washer, &Section::Circle(32), Unfold::Flower, place);
        let head = round(&points(&[(8.2, 1.5), (8.2, 9.0), (6.9, 10.2), (0.0, 10.2)]), 0.8);
        kit.sweep("bolts", &head, &Section::Hex, Unfold::Flower, place);
    }
}

fn bonnet(kit: &mut Kit) {
    let mut profile = points(&[(60.0, 90.5), (60.0, 92.0), (74.0, 92.0), (74.0, 105.0), (52.0, 105.0), (50.0, 109.0)]);
    for k in 1..8 {
        let t = k as f32 / 8.0;
        profile.push(Vec2::new(23.0 + 27.0 * libm::cosf(t * FRAC_PI_2), 109.0 + 24.0 * libm::sinf(t * FRAC_PI_2)));
    }
    profile.extend(points(&[
        (22.0, 134.0),
        (22.0, 150.0),
        (31.0, 150.0),
        (31.0, 159.0),
        (17.0, 159.0),
        (16.0, 166.0),
        (9.0, 166.0),
    ]));
    kit.sweep("bonnet", &round(&profile, 2.0), &ROUND, Unfold::Parts, Mat4::IDENTITY);
    bolts(kit, 8, 62.5, 0.0, |spin| Mat4::from_translation(Vec3::new(0.0, 105.0, 0.0)) * spin, 0.95);
    bolts(kit, 2, 25.0, 0.25, |spin| Mat4::from_translation(Vec3::new(0.0, 159.0, 0.0)) * spin, 0.5);
    let stem = round(&points(&[(8.5, 150.0), (8.5, 300.0), (6.5, 304.0), (0.0, 304.0)]), 1.0);
    kit.sweep("stem", &stem, &Section::Circle(40), Unfold::Parts, Mat4::IDENTITY);
}

fn yoke(kit: &mut Kit) {
    for side in [1.0, -1.0] {
        let foot = Vec3::new(33.0 * side, 112.0, 0.0);
        let lean = Quat::from_rotation_z(0.05 * side);
        let arm = Section::Rect { half: Vec2::new(6.0, 11.0), corner: 3.0 };
        let profile = round(&points(&[(3.0, 0.0), (1.0, 12.0), (0.0, 30.0), (0.0, 108.0)]), 6.0);
        kit.sweep("bonnet", &profile, &arm, Unfold::Parts, Mat4::from_rotation_translation(lean, foot));
    }
    let bridge = Section::Rect { half: Vec2::new(42.0, 15.0), corner: 12.0 };
    let profile = round(&points(&[(-14.0, 212.0), (0.0, 212.0), (0.0, 226.0), (-14.0, 226.0)]), 2.2);
    kit.sweep("bonnet", &profile, &bridge, Unfold::Parts, Mat4::IDENTITY);
    let boss = round(&points(&[(19.0, 224.0), (19.0, 240.0), (15.0, 244.0), (9.0, 244.0)]), 1.8);
    kit.sweep("bonnet", &boss, &Section::Circle(56), Unfold::Parts, Mat4::IDENTITY);
}

/// The rim of the handwheel.
pub struct Wheel {
    /// From the stem to the middle of the rim, in mm.
    pub radius: f32,
    /// Of the rim's section.
    pub rim: f32,
    /// Its middle above the piece's own zero.
    pub height: f32,
}

/// Where hands go.
pub const WHEEL: Wheel = Wheel { radius: 88.0, rim: 9.0, height: 272.0 };

fn handwheel(kit: &mut Kit) {
    let lift = Mat4::from_translation(Vec3::new(0.0, WHEEL.height, 0.0));
    kit.torus("handwheel", WHEEL.radius, WHEEL.rim, lift);
    let hub = round(&points(&[(9.0, -16.0), (20.0, -16.0), (22.0, -6.0), (22.0, 8.0), (17.0, 16.0), (9.0, 16.0)]), 2.2);
    kit.sweep("handwheel", &hub, &Section::Circle(56), Unfold::Parts, lift);
    for i in 0..5 {
        let spin = Quat::from_rotation_y(i as f32 / 5.0 * TAU + 0.3);
        let along = Quat::from_rotation_z(-FRAC_PI_2);
        let place = lift * Mat4::from_quat(spin * along);
        let spoke = round(&points(&[(7.5, 16.0), (6.0, 40.0), (5.4, 62.0), (6.8, 84.0)]), 8.0);
        kit.sweep("handwheel", &spoke, &Section::Circle(28), Unfold::Parts, place);
    }
    let nut = round(&points(&[(12.5, 16.0), (12.5, 25.0), (10.5, 27.0), (0.0, 27.0)]), 1.2);
    kit.sweep("bolts", &nut, &Section::Hex, Unfold::Flower, lift);
}

fn plate(kit: &mut Kit) {
    // On the belly, facing front, bowed surfaces behind it: it stands off on its rim.
    let place = Mat4::from_translation(Vec3::new(0.0, -14.0, 60.5)) * Mat4::from_rotation_x(FRAC_PI_2);
    let section = Section::Rect { half: Vec2::new(30.0, 19.0), corner: 4.0 };
    let profile = [(0.0, -6.0), (0.0, 5.0), (-2.6, 5.0), (-3.4, 3.8), (-18.5, 3.8)];
    kit.sweep("name plate", &round(&points(&profile), 0.6), &section, Unfold::Flower, place);
    for (x, y) in [(-23.0, -12.5), (23.0, -12.5), (-23.0, 12.5), (23.0, 12.5)] {
        let rivet = round(&points(&[(3.0, 3.0), (2.6, 4.6), (1.4, 5.5), (0.0, 5.6)]), 1.0);
        let at = place * Mat4::from_translation(Vec3::new(x, 0.0, y));
        kit.sweep("name plate", &rivet, &Section::Circle(20), Unfold::Flower, at);
    }
    for (row, half) in [(-6.5, 15.0), (0.0, 18.0), (6.5, 11.0)] {
        // Raised bars where the cast letters have worn down to ridges.
        let bar = Section::Rect { half: Vec2::new(half, 1.7), corner: 1.2 };
        let profile = round(&points(&[(0.0, 3.2), (0.0, 4.6), (-1.6, 4.6)]), 0.4);
        let at = place * Mat4::from_translation(Vec3::new(0.0, 0.0, row));
        kit.sweep("name plate", &profile, &bar, Unfold::Flower, at);
    }
}

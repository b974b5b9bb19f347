//! A louvre shutter of the keeper's house at Wrack Point: a jointed frame, slats that lean, one of them broken, two hinges and a latch. It stands on y = 0;
//! 420 mm wide and 620 mm tall.

use std::f32::consts::{FRAC_PI_2, TAU};

use dustcoat_core::mesh::Piece;
use glam::{Mat4, Quat, Vec2, Vec3};

use crate::kit::{Kit, Section, Unfold, round};

/// Half the width, the height, half the thickness of the frame, half the width of a stile.
const WIDE: f32 = 210.0;
const TALL: f32 = 620.0;
const THICK: f32 = 17.0;
const STILE: f32 = 27.0;
const SLATS: u32 = 15;
/// The slat that is broken off.
const BROKEN: u32 = 9;

/// Builds the shutter.
pub fn build() -> Piece {
    let mut kit = Kit::default();
    frame(&mut kit);
    slats(&mut kit);
    for y in [120.0, 500.0] {
        hinge(&mut kit, y);
    }
    latch(&mut kit);
    kit.finish("Louvre shutter")
}

fn frame(kit: &mut Kit) {
    for side in [1.0, -1.0] {
        let at = Mat4::from_translation(Vec3::new(side * (WIDE - STILE), 0.0, 0.0));
        kit.slab("stiles", Vec2::new(STILE, THICK), [0.0, TALL], 2.2, at);
        // The ends of the tenons stand through the stiles, a little proud.
        for y in [42.0, 318.0, TALL - 34.0] {
            let out = Mat4::from_rotation_translation(
                Quat::from_rotation_z(-FRAC_PI_2 * side),
                Vec3::new(side * (WIDE - 12.0), y, 0.0),
            );
            kit.slab("rails", Vec2::new(15.0, 5.5), [0.0, 13.2], 0.8, out);
        }
    }
    let inner = WIDE - 2.0 * STILE + 3.0;
    for (low, high) in [(0.0, 84.0), (300.0, 336.0), (TALL - 68.0, TALL)] {
        kit.slab("rails", Vec2::new(inner, THICK - 2.5), [low + 1.5, high - 1.5], 2.0, Mat4::IDENTITY);
    }
}

fn slats(kit: &mut Kit) {
    let inner = WIDE - 2.0 * STILE + 4.0;
    let places = (0..SLATS).map(|k| if k < 7 { 104.0 + k as f32 * 29.0 } else { 356.0 + (k - 7) as f32 * 26.6 });
    for (k, y) in places.enumerate() {
        // A slat is a board: it lies across, leans outwards, and none lies quite as its neighbour does.
        let lean = 0.86 + 0.03 * libm::sinf(k as f32 * 2.3);
        let skew = 0.004 * libm::sinf(k as f32 * 1.7);
        let turn = Quat::from_rotation_z(skew) * Quat::from_rotation_x(lean);
        let board = |from: f32, to: f32, part: &str, kit: &mut Kit, turn: Quat, y: f32| {
            let along = Mat4::from_quat(Quat::from_rotation_z(-FRAC_PI_2));
            let place = Mat4::from_rotation_translation(turn, Vec3::new(0.0, y, 0.0)) * along;
            kit.slab(part, Vec2::new(4.2, 19.0), [from, to], 1.8, place);
        };
        if k as u32 == BROKEN {
            // Half of it is gone; what is left has dropped at its free end.
            board(-inner, -28.0, "slats", kit, Quat::from_rotation_z(-0.09) * turn, y - 13.0);
            board(104.0, inner, "slats", kit, Quat::from_rotation_z(0.02) * turn, y - 2.0);
        } else {
            board(-inner, inner, "slats", kit, turn, y);
        }
    }
    // The rod that moves them, held by staples.
    let rod = Mat4::from_translation(Vec3::new(0.0, 0.0, 21.0));
    kit.slab("rod", Vec2::new(6.5, 5.0), [92.0, 296.0], 1.6, rod);
    kit.slab("rod", Vec2::new(6.5, 5.0), [344.0, 548.0], 1.6, rod);
}

fn screw(kit: &mut Kit, part: &str, at: Vec3) {
    let place = Mat4::from_rotation_translation(Quat::from_rotation_x(FRAC_PI_2), at);
    let profile = [(5.6, -0.6), (5.2, 0.9), (3.2, 1.9), (0.0, 2.1)].map(Vec2::from);
    kit.sweep(part, &round(&profile, 0.6), &Section::Circle(24), Unfold::Flower, place);
}

/// A strap over the face of the left stile and a knuckle beside it.
fn hinge(kit: &mut Kit, y: f32) {
    let face =
        Mat4::from_rotation_translation(Quat::from_rotation_x(FRAC_PI_2), Vec3::new(-WIDE + 62.0, y, THICK - 0.5));
    kit.slab("hinges", Vec2::new(68.0, 13.0), [0.0, 4.0], 1.4, face);
    for x in [-46.0, -8.0, 34.0] {
        screw(kit, "hinges", Vec3::new(-WIDE + 62.0 + x, y, THICK + 3.4));
    }
    let knuckle = round(&[(0.0, -22.0), (8.0, -22.0), (8.0, 22.0), (0.0, 22.0)].map(Vec2::from), 1.6);
    let place = Mat4::from_translation(Vec3::new(-WIDE - 7.0, y, THICK + 2.0));
    kit.sweep("hinges", &knuckle, &Section::Circle(32), Unfold::Parts, place);
    let pin = round(&[(0.0, 20.0), (5.0, 20.0), (5.0, 27.0), (3.0, 29.0), (0.0, 29.0)].map(Vec2::from), 1.2);
    kit.sweep("hinges", &pin, &Section::Circle(24), Unfold::Flower, place);
}

/// A plate with a turning bar on the right stile, and the ring it is turned by.
fn latch(kit: &mut Kit) {
    let at = Vec3::new(WIDE - 28.0, 318.0, THICK - 0.5);
    let face = Mat4::from_rotation_translation(Quat::from_rotation_x(FRAC_PI_2), at);
    kit.slab("latch", Vec2::new(17.0, 36.0), [0.0, 3.4], 1.4, face);
    for dy in [-27.0, 27.0] {
        screw(kit, "latch", at + Vec3::new(0.0, dy, 3.2));
    }
    let boss = round(&[(11.0, 2.0), (11.0, 10.0), (8.0, 13.0), (0.0, 13.0)].map(Vec2::from), 1.4);
    kit.sweep("latch", &boss, &Section::Circle(32), Unfold::Flower, face);
    let bar = Mat4::from_rotation_translation(Quat::from_rotation_z(0.5), at + Vec3::new(0.0, 0.0, 8.0));
    kit.slab("latch", Vec2::new(5.0, 4.0), [-16.0, 44.0], 1.6, bar);
    let ring =
        Mat4::from_rotation_translation(Quat::from_rotation_x(FRAC_PI_2 - 0.25), at + Vec3::new(0.0, -19.0, 11.0));
    kit.torus("latch", 17.0, 3.2, ring * Mat4::from_rotation_y(TAU / 8.0));
}

//! The buoy that marks the sluice's sill: a painted float with a rubbing band and an iron weight and eye, in a harness of laid rope with grab lines; its mooring line
//! lies coiled beside it. The ground is y = 0; 640 mm wide with the coil and 560 mm tall. Float and irons lie on one sheet, the ropes on another.

use std::f32::consts::TAU;

use dustcoat_core::mesh::Piece;
use glam::{Mat4, Quat, Vec2, Vec3};

use crate::ids::Id;
use crate::kit::{Kit, Section, Unfold, points, round, smooth};

/// What tells its parts apart in its ID picture.
pub const IDS: &[Id] = &[
    Id { part: "float", called: "Red", color: [208, 52, 40] },
    Id { part: "band", called: "Blue", color: [52, 84, 200] },
    Id { part: "irons", called: "Green", color: [44, 160, 70] },
    Id { part: "rope", called: "Yellow", color: [226, 196, 48] },
];

/// Middle of the float, and its half axes.
const MIDDLE: f32 = 262.0;
const ACROSS: f32 = 196.0;
const UPRIGHT: f32 = 212.0;
/// Radius of the rope.
const ROPE: f32 = 9.0;
/// Ropes of the harness that run up the float.
const HARNESS: usize = 6;

/// Builds the buoy.
pub fn build() -> Piece {
    let mut kit = Kit::default();
    float(&mut kit);
    irons(&mut kit);
    kit.on_sheet(1);
    harness(&mut kit);
    grab_lines(&mut kit);
    mooring_line(&mut kit);
    kit.finish("Buoy")
}

/// Radius of the float at a height.
fn girth(y: f32) -> f32 {
    ACROSS * libm::sqrtf((1.0 - libm::powf((y - MIDDLE) / UPRIGHT, 2.0)).max(0.0))
}

fn around(turn: f32, radius: f32, y: f32) -> Vec3 {
    Vec3::new(libm::cosf(turn) * radius, y, libm::sinf(turn) * radius)
}

fn float(kit: &mut Kit) {
    // From pole to pole, without the seams that a die would leave but with a weld that stands up a little at a third.
    let profile: Vec<Vec2> = (0..=44)
        .map(|k| {
            let t = (k as f32 / 44.0 - 0.5) * TAU / 2.0;
            let weld = 1.6 * libm::expf(-libm::powf((t - 0.42) / 0.012, 2.0));
            let r = if k % 44 == 0 { 0.0 } else { ACROSS * libm::cosf(t) + weld };
            Vec2::new(r, MIDDLE + UPRIGHT * libm::sinf(t))
        })
        .collect();
    kit.sweep("float", &profile, &Section::Circle(88), Unfold::Parts, Mat4::IDENTITY);
    let band = points(&[
        (ACROSS - 8.0, 236.0),
        (ACROSS + 6.0, 236.0),
        (ACROSS + 13.0, 243.0),
        (ACROSS + 13.0, 281.0),
        (ACROSS + 6.0, 288.0),
        (ACROSS - 8.0, 288.0),
    ]);
    kit.sweep("band", &round(&band, 5.0), &Section::Circle(96), Unfold::Parts, Mat4::IDENTITY);
}

fn irons(kit: &mut Kit) {
    let weight = points(&[(0.0, 0.0), (98.0, 0.0), (98.0, 16.0), (84.0, 30.0), (60.0, 44.0), (52.0, 74.0)]);
    kit.sweep("irons", &round(&weight, 4.0), &Section::Circle(72), Unfold::Parts, Mat4::IDENTITY);
    let top = MIDDLE + UPRIGHT;
    let collar =
        points(&[(64.0, top - 26.0), (64.0, top - 10.0), (56.0, top - 2.0), (24.0, top + 4.0), (20.0, top + 18.0)]);
    let collar: Vec<Vec2> = collar.into_iter().chain(points(&[(12.0, top + 22.0), (0.0, top + 22.0)])).collect();
    kit.sweep("irons", &round(&collar, 3.0), &Section::Circle(56), Unfold::Parts, Mat4::IDENTITY);
    for k in 0..6 {
        let at = around((k as f32 + 0.5) / 6.0 * TAU, 46.0, top - 3.0);
        let place = Mat4::from_rotation_translation(Quat::from_rotation_y(k as f32 * 1.7), at);
        let head = round(&points(&[(8.5, 0.0), (8.5, 8.0), (7.0, 9.5), (0.0, 9.5)]), 0.9);
        kit.sweep("irons", &head, &Section::Hex, Unfold::Flower, place);
    }
    let eye = Mat4::from_rotation_translation(Quat::from_rotation_x(TAU / 4.0), Vec3::new(0.0, top + 46.0, 0.0));
    kit.torus("irons", 30.0, 9.0, eye);
}

/// Turns of twine around a rope at a place of it.
fn seizing(kit: &mut Kit, at: Vec3, along: Vec3, turns: usize) {
    let along = along.normalize();
    for k in 0..turns {
        let shift = along * (k as f32 - (turns - 1) as f32 / 2.0) * 3.4;
        let place = Mat4::from_rotation_translation(Quat::from_rotation_arc(Vec3::Y, along), at + shift);
        let turn: Vec<Vec3> = (0..20).map(|i| around(i as f32 / 20.0 * TAU, ROPE + 0.6, 0.0)).collect();
        kit.twine("rope", &turn, 1.9, place);
    }
}

fn harness(kit: &mut Kit) {
    let (low, high) = (MIDDLE - 136.0, MIDDLE + 136.0);
    for y in [low, high] {
        let ring: Vec<Vec3> = (0..96).map(|k| around(k as f32 / 96.0 * TAU, girth(y) + ROPE * 0.8, y)).collect();
        kit.rope("rope", &ring, ROPE, true, Mat4::IDENTITY);
    }
    for k in 0..HARNESS {
        let turn = k as f32 / HARNESS as f32 * TAU;
        // Over the ring below, out over the band, over the ring above.
        let path: Vec<Vec3> = (0..=32)
            .map(|i| {
                let y = low - 14.0 + (high - low + 28.0) * i as f32 / 32.0;
                let band = 15.0 * libm::expf(-libm::powf((y - MIDDLE) / 46.0, 4.0));
                let ring = |at: f32| 15.0 * libm::expf(-libm::powf((y - at) / 17.0, 2.0));
                around(turn, girth(y) + ROPE * 0.9 + band + ring(low) + ring(high), y)
            })
            .collect();
        kit.rope("rope", &path, ROPE, false, Mat4::IDENTITY);
        seizing(kit, path[16], path[17] - path[15], 7);
        seizing(kit, path[2] + (path[2] - path[3]) * 0.4, path[3] - path[1], 5);
        seizing(kit, path[30] + (path[30] - path[29]) * 0.4, path[31] - path[29], 5);
    }
}

/// Lines to hold on to, hung from one rope of the harness to the next.
fn grab_lines(kit: &mut Kit) {
    for k in 0..HARNESS {
        let path: Vec<Vec3> = (0..=24)
            .map(|i| {
                let t = i as f32 / 24.0;
                let hang = libm::sinf(t * TAU / 2.0).max(0.0);
                let sag = 44.0 + 9.0 * libm::sinf(k as f32 * 2.3);
                around(
                    (k as f32 + t) / HARNESS as f32 * TAU,
                    ACROSS + 27.0 + 4.0 * hang,
                    MIDDLE + 9.0 - sag * libm::powf(hang, 0.8),
                )
            })
            .collect();
        kit.rope("rope", &path, ROPE * 0.72, false, Mat4::IDENTITY);
    }
}

/// From the eye down over the float, and three turns flat on the ground.
fn mooring_line(kit: &mut Kit) {
    let top = MIDDLE + UPRIGHT;
    let turn = 0.62;
    let mut through = vec![
        around(turn + 1.0, 10.0, top + 26.0),
        around(turn, 16.0, top + 27.0),
        around(turn, 44.0, top + 18.0),
        around(turn, 82.0, top - 2.0),
    ];
    for y in [430.0, 390.0, 345.0] {
        through.push(around(turn, girth(y) + ROPE * 2.8, y));
    }
    through.extend([
        around(turn, 226.0, 296.0),
        around(turn, 233.0, 252.0),
        around(turn, 236.0, 190.0),
        around(turn, 240.0, 120.0),
        around(turn, 252.0, 56.0),
        around(turn + 0.05, 284.0, 18.0),
    ]);
    let middle = around(turn + 0.36, 318.0, ROPE);
    for k in 0..=54 {
        let t = k as f32 / 18.0;
        let a = turn - 1.9 + t * TAU;
        let r = 104.0 - t * ROPE * 2.05;
        let lift = if t < 0.18 { 10.0 * (1.0 - t / 0.18) } else { 0.0 };
        through.push(middle + Vec3::new(libm::cosf(a) * r, lift, libm::sinf(a) * r));
    }
    kit.rope("rope", &smooth(&through, 6, false), ROPE, false, Mat4::IDENTITY);
}

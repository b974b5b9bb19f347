//! The mooring post of the quay at Wrack Point: a cast post with a worn neck and a broad cap, ribs at its foot, a base plate with anchor bolts, and an eye with
//! some links of its chain. The ground is y = 0; 360 mm wide and 520 mm tall.

use std::f32::consts::{FRAC_PI_2, TAU};

use dustcoat_core::mesh::Piece;
use glam::{Mat4, Quat, Vec2, Vec3};

use crate::kit::{Kit, Section, Unfold, points, round};

/// Top of the base plate.
const PLATE: f32 = 22.0;
/// Radius of the bar of a link.
const LINK: f32 = 6.5;

/// Builds the post.
pub fn build() -> Piece {
    let mut kit = Kit::default();
    plate(&mut kit);
    post(&mut kit);
    ribs(&mut kit);
    eye(&mut kit);
    kit.finish("Mooring post")
}

fn plate(kit: &mut Kit) {
    kit.sweep(
        "base plate",
        &round(&points(&[(-160.0, 0.0), (0.0, 0.0), (0.0, PLATE), (-160.0, PLATE)]), 3.0),
        &Section::Rect { half: Vec2::splat(160.0), corner: 22.0 },
        Unfold::Parts,
        Mat4::IDENTITY,
    );
    for (k, (x, z)) in [(-128.0, -128.0), (128.0, -128.0), (128.0, 128.0), (-128.0, 128.0)].into_iter().enumerate() {
        let place =
            Mat4::from_rotation_translation(Quat::from_rotation_y(0.4 + k as f32 * 1.9), Vec3::new(x, PLATE, z));
        let washer = round(&points(&[(24.0, -1.0), (24.0, 4.0), (14.0, 4.0)]), 1.2);
        kit.sweep("bolts", &washer, &Section::Circle(40), Unfold::Flower, place);
        let nut = round(&points(&[(18.0, 3.0), (18.0, 19.0), (16.0, 21.0), (10.0, 21.0)]), 1.6);
        kit.sweep("bolts", &nut, &Section::Hex, Unfold::Flower, place);
        let stud = round(&points(&[(10.5, 18.0), (10.5, 34.0), (9.0, 36.0), (0.0, 36.0)]), 1.5);
        kit.sweep("bolts", &stud, &Section::Circle(28), Unfold::Flower, place);
    }
}

fn post(kit: &mut Kit) {
    // A foot with a broad fillet, a body that narrows to the neck where lines have worn it, and the shoulder below the cap.
    let mut profile = points(&[(118.0, PLATE - 1.0), (118.0, 40.0), (112.0, 46.0)]);
    for k in 0..9 {
        let t = k as f32 / 8.0 * FRAC_PI_2;
        profile.push(Vec2::new(106.0 - 28.0 * libm::sinf(t), 52.0 + 34.0 * (1.0 - libm::cosf(t))));
    }
    for k in 1..=24 {
        let t = k as f32 / 24.0;
        // The neck: narrowest at two thirds of the way, with a second, shallower groove above it.
        let worn = libm::expf(-libm::powf((t - 0.62) / 0.17, 2.0)) * 17.0
            + libm::expf(-libm::powf((t - 0.86) / 0.07, 2.0)) * 7.0;
        profile.push(Vec2::new(78.0 + 8.0 * t - worn, 86.0 + 300.0 * t));
    }
    profile.extend(points(&[(92.0, 394.0), (100.0, 402.0)]));
    kit.sweep("post", &profile, &Section::Circle(96), Unfold::Parts, Mat4::IDENTITY);
    let mut cap = points(&[(84.0, 398.0), (126.0, 404.0), (134.0, 412.0), (134.0, 438.0), (128.0, 446.0)]);
    for k in 1..=12 {
        let t = k as f32 / 12.0 * FRAC_PI_2;
        cap.push(Vec2::new(122.0 * libm::cosf(t), 450.0 + 62.0 * libm::sinf(t)));
    }
    if let Some(pole) = cap.last_mut() {
        pole.x = 0.0;
    }
    kit.sweep("cap", &round(&cap, 5.0), &Section::Circle(96), Unfold::Parts, Mat4::IDENTITY);
}

/// Four ribs between the foot and the plate.
fn ribs(kit: &mut Kit) {
    for k in 0..4 {
        let spin = Quat::from_rotation_y(k as f32 / 4.0 * TAU);
        let lean = Quat::from_rotation_z(0.62);
        let place = Mat4::from_quat(spin) * Mat4::from_rotation_translation(lean, Vec3::new(132.0, 6.0, 0.0));
        kit.slab("post", Vec2::new(20.0, 9.0), [0.0, 108.0], 2.5, place);
    }
}

/// An eye in the side of the post, a ring in it, and links that hang down and lie on the plate.
fn eye(kit: &mut Kit) {
    let at = Vec3::new(0.0, 190.0, 78.0);
    let out = Mat4::from_rotation_translation(Quat::from_rotation_x(FRAC_PI_2), at);
    let boss = round(&points(&[(30.0, -14.0), (30.0, 8.0), (25.0, 14.0), (0.0, 14.0)]), 3.0);
    kit.sweep("eye", &boss, &Section::Circle(48), Unfold::Parts, out);
    // The lug is half of a ring, sunk into the boss.
    let arc: Vec<Vec3> = (0..=20)
        .map(|k| {
            let t = (k as f32 / 20.0 * 1.2 - 0.1) * TAU / 2.0;
            Vec3::new(0.0, 17.0 * libm::cosf(t), 12.0 + 24.0 * libm::sinf(t))
        })
        .collect();
    kit.tube("eye", &arc, 7.5, false, Mat4::from_translation(at));
    // Where a link's middle is, which way it runs, and how it is turned around that.
    let links = [
        (Vec3::new(0.0, 168.0, 109.0), Vec3::new(0.05, -1.0, 0.12), 0.0),
        (Vec3::new(2.0, 131.0, 113.0), Vec3::new(0.04, -1.0, 0.1), 1.5),
        (Vec3::new(3.5, 94.0, 117.0), Vec3::new(0.1, -1.0, 0.1), 0.1),
        (Vec3::new(9.0, 58.0, 122.0), Vec3::new(0.35, -0.9, 0.1), 1.6),
        (Vec3::new(33.0, PLATE + LINK + 3.0, 127.0), Vec3::new(1.0, -0.1, 0.1), 1.45),
        (Vec3::new(70.0, PLATE + LINK + 8.0, 129.0), Vec3::new(1.0, 0.0, -0.12), 0.5),
    ];
    for (middle, along, turn) in links {
        let turned = Quat::from_rotation_arc(Vec3::X, along.normalize()) * Quat::from_rotation_x(turn);
        kit.tube("chain", &link(), LINK, true, Mat4::from_rotation_translation(turned, middle));
    }
}

/// The middle line of a link, long along x: two straights and two bows.
pub fn link() -> Vec<Vec3> {
    const BOW: usize = 12;
    let bow = |side: f32| {
        (0..=BOW).map(move |k| {
            let t = (k as f32 / BOW as f32 - 0.5) * TAU / 2.0;
            Vec3::new(side * (13.0 + 13.0 * libm::cosf(t)), side * 13.0 * libm::sinf(t), 0.0)
        })
    };
    bow(1.0).chain(bow(-1.0)).collect()
}

//! The cleat of the quay's edge: two legs on a plate, a bar that runs out into horns, two bolts. Few polygons that are shaded smooth, as a thing for a game is. The
//! ground is y = 0; 300 mm long and 100 mm tall.

use std::f32::consts::FRAC_PI_2;

use dustcoat_core::mesh::Piece;
use glam::{Mat4, Quat, Vec2, Vec3};

use crate::kit::{Kit, Section, Unfold, points, round};

/// Sides of what is round.
const SIDES: u32 = 14;

/// Builds the cleat.
pub fn build() -> Piece {
    let mut kit = Kit::default();
    let plate = Section::Rect { half: Vec2::new(92.0, 34.0), corner: 26.0 };
    let profile = round(&points(&[(-34.0, 0.0), (0.0, 0.0), (0.0, 12.0), (-5.0, 16.0), (-34.0, 16.0)]), 2.0);
    kit.sweep("plate", &profile, &plate, Unfold::Parts, Mat4::IDENTITY);
    for side in [1.0, -1.0] {
        // A leg that spreads into the plate and into the bar, and ends within both.
        let leg = points(&[
            (30.0, 9.0),
            (27.0, 16.0),
            (21.5, 25.0),
            (18.5, 34.0),
            (17.0, 46.0),
            (18.0, 60.0),
            (18.0, 72.0),
            (14.0, 80.0),
        ]);
        let lean = Quat::from_rotation_z(-0.1 * side);
        let place = Mat4::from_rotation_translation(lean, Vec3::new(38.0 * side, 0.0, 0.0));
        kit.sweep("cleat", &leg, &Section::Circle(SIDES), Unfold::Parts, place);
        let washer = round(&points(&[(13.0, -1.0), (13.0, 2.4), (8.0, 2.4)]), 0.8);
        let at = Mat4::from_translation(Vec3::new(74.0 * side, 16.0, 0.0));
        kit.sweep("bolts", &washer, &Section::Circle(SIDES), Unfold::Flower, at);
        let head = round(&points(&[(9.5, 2.0), (9.5, 9.0), (8.0, 10.5), (0.0, 10.5)]), 1.0);
        let turned = at * Mat4::from_rotation_y(0.3 + side);
        kit.sweep("bolts", &head, &Section::Hex, Unfold::Flower, turned);
    }
    bar(&mut kit);
    kit.finish("Dock cleat")
}

/// The bar: thickest between the legs, drawn out to horns that rise a little, with round tips.
fn bar(kit: &mut Kit) {
    let half =
        points(&[(22.5, 0.0), (22.5, 26.0), (21.5, 54.0), (18.5, 84.0), (15.0, 110.0), (12.5, 130.0), (11.0, 142.0)]);
    let tip = points(&[(9.0, 147.5), (5.5, 150.5), (0.0, 151.5)]);
    let upper: Vec<Vec2> = half.into_iter().chain(tip).collect();
    let lower = upper[1..].iter().rev().map(|p| Vec2::new(p.x, -p.y));
    let profile: Vec<Vec2> = lower.chain(upper.iter().copied()).collect();
    let lying = Mat4::from_rotation_translation(Quat::from_rotation_z(FRAC_PI_2), Vec3::new(0.0, 78.0, 0.0));
    kit.sweep("cleat", &profile, &Section::Circle(SIDES), Unfold::Parts, lying);
    kit.bend(|p| {
        let out = (p.x.abs() - 40.0).max(0.0);
        Vec3::new(p.x, p.y + out * out * 0.0016, p.z)
    });
}

//! The swatch ball: 150 mm across on a turned foot, with a groove around its middle to see dirt settle in.

use std::f32::consts::PI;

use dustcoat_core::mesh::Piece;
use glam::{Mat4, Vec2};

use crate::kit::{Kit, Section, Unfold, round};

const RADIUS: f32 = 75.0;
const MIDDLE: f32 = 92.0;

/// Builds the ball, its foot at height 0.
pub fn build() -> Piece {
    let mut kit = Kit::default();
    let foot = [(-100.0, 0.0), (46.0, 0.0), (46.0, 7.0), (38.0, 10.0), (27.0, 16.0), (22.0, 26.0)];
    let foot = foot.map(|(x, y): (f32, f32)| Vec2::new(x.max(0.0), y));
    let mut profile = round(&foot, 2.0);
    let arc = |from: f32, to: f32, steps: u32| {
        (0..=steps).map(move |k| {
            let a = from + (to - from) * k as f32 / steps as f32;
            Vec2::new(RADIUS * libm::sinf(a), MIDDLE - RADIUS * libm::cosf(a))
        })
    };
    // From where the foot meets it up to the groove, through the groove, and on to the pole.
    let half = 0.5 * PI;
    profile.extend(arc(0.40, half - 0.035, 28));
    profile.extend([Vec2::new(RADIUS - 3.2, MIDDLE - 1.4), Vec2::new(RADIUS - 3.2, MIDDLE + 1.4)]);
    profile.extend(arc(half + 0.035, PI - 1e-3, 34).take(34));
    profile.push(Vec2::new(0.0, MIDDLE + RADIUS));
    kit.sweep("ball", &profile, &Section::Circle(128), Unfold::Parts, Mat4::IDENTITY);
    kit.finish("Swatch ball")
}

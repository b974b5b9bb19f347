//! Paint that ran: a band along the upper border, and drips of unlike length that end in a drop.

use dustcoat_core::lattice::{hash, unit};
use glam::Vec2;

use super::Paint;
use super::shapes::{cloud, joined, ramp, sin, stick, within};

/// From one drip to the next, in mm.
const APART: f32 = 8.0;

pub fn paint(p: Vec2, pixel: f32) -> Paint {
    let edge = 101.0 - 3.0 * cloud(Vec2::new(p.x, 0.0), 22.0, 81);
    let mut d = edge - p.y;
    let here = (p.x / APART).floor() as i32;
    for k in here - 1..=here + 1 {
        let chance = |n: u32| unit(hash(k as u32, n, 5, 83));
        if !(0..=14).contains(&k) || chance(1) < 0.28 {
            continue;
        }
        let x = (k as f32 + 0.2 + 0.6 * chance(2)) * APART;
        let long = 8.0 + 82.0 * chance(3).powi(2);
        let wander = |y: f32| x + 1.1 * sin(y * 0.09 + chance(4) * 6.0);
        let (top, foot) = (edge, (edge - long).max(5.0));
        let width = 0.9 + 1.3 * chance(5);
        let run = stick(Vec2::new(p.x - wander(p.y) + x, p.y), Vec2::new(x, top), Vec2::new(x, foot), width);
        // It widens where it leaves the band and where it stopped.
        let root = ramp(edge - 7.0, edge + 1.0, p.y) * 2.2;
        let drop = Vec2::new(p.x - wander(foot), (p.y - foot) * 0.72).length() - width * 1.4;
        d = joined(d, (run - root).min(drop), 2.0);
    }
    // Thin paint lets light through; it gathers where it stopped, and dries darkest along its border.
    let thin = ramp(0.35, 0.75, cloud(Vec2::new(p.x * 2.4, p.y * 0.5), 14.0, 85)) * ramp(0.3, 1.6, -d);
    let rim = ramp(1.1, 0.2, -d);
    let mix = |a: f32, b: f32, t: f32| a + (b - a) * t;
    let color = [0.33, 0.165, 0.08].map(|c| mix(mix(c, c * 1.45 + 0.03, thin), c * 0.62, 0.8 * rim));
    (color, within(d, pixel) * (1.0 - ramp(108.5, 110.0, p.y)))
}

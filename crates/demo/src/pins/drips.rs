//! Paint that ran: a band along the upper border, and drips of unlike length that end in a drop.

use dustcoat_core::pattern::lattice::{hash, unit};
use glam::Vec2;

use super::Paint;
use super::shapes::{cloud, ramp, sin, stick, within};

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
        let joined = (run - root).min(drop);
        // Met smoothly.
        let h = (0.5 + 0.5 * (d - joined) / 2.0).clamp(0.0, 1.0);
        d = d + (joined - d) * h - 2.0 * h * (1.0 - h);
    }
    ([0.34, 0.17, 0.08], within(d, pixel) * (1.0 - ramp(108.5, 110.0, p.y)))
}

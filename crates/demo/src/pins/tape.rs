//! A strip of cloth tape: a weave, torn ends, a few creases.

use glam::Vec2;

use super::Paint;
use super::shapes::{cloud, noise, ramp, within};

pub fn paint(p: Vec2, pixel: f32) -> Paint {
    // Torn from thread to thread: both ends are jagged, and differently so.
    let thread = (p.y / 1.1).floor();
    let torn = |seed: u32| {
        let jag = noise(Vec2::new(thread, 0.5), 1.0, seed) * 2.2 + noise(Vec2::new(thread, 0.5), 6.0, seed + 1) * 5.0;
        jag + 0.5
    };
    let ends = (torn(3) - p.x).max(p.x - (120.0 - torn(9)));
    let sides = (p.y - 19.0).abs() - 18.4 + 0.25 * noise(p, 3.0, 15);
    let there = within(ends.max(sides), pixel);
    let weave = |along: f32, across: f32| {
        let over = (along / 1.1).floor() as i64 + (across / 1.1).floor() as i64;
        let round = ((along / 1.1).fract() - 0.5).abs();
        if over.rem_euclid(2) == 0 { 1.0 - round * 0.5 } else { 0.86 - round * 0.3 }
    };
    let cloth = 0.5 * (weave(p.x, p.y) + weave(p.y, p.x));
    let creases = [(31.0, 0.21), (83.0, -0.12), (97.0, 0.3)].map(|(x, lean): (f32, f32)| {
        let d = (p.x - x - lean * p.y + 1.5 * noise(p, 9.0, 27)).abs();
        ramp(0.7, 0.1, d)
    });
    let crease = creases.into_iter().fold(0.0, f32::max);
    let soiled = ramp(0.45, 0.85, cloud(p, 26.0, 33));
    let light = cloth * (1.0 - 0.3 * crease) * (1.0 - 0.25 * soiled);
    ([0.70 * light, 0.68 * light, 0.62 * light], there)
}

//! What is sprayed through a cut sheet, and stripes that warn.

use glam::Vec2;

use super::shapes::{bar, cloud, exp, noise, ramp, within};
use super::{Paint, letters};

const WHITE: [f32; 3] = [0.88, 0.87, 0.82];

/// Paint within a distance, and the little that blew under the sheet around it.
fn sprayed(d: f32, at: Vec2, pixel: f32) -> Paint {
    // The sheet doesn't lie on everywhere: there the border is soft, and paint blows under it.
    let lifted = ramp(0.5, 0.85, cloud(at, 55.0, 5));
    let soft = pixel + lifted * 1.6;
    let core = within(d, soft);
    let blown = exp(-d.max(0.0) / (0.6 + 2.6 * lifted)) * ramp(0.45, 0.9, noise(at, 0.45, 11)) * (0.08 + 0.4 * lifted);
    // Thinner where the can was far.
    let thin = 1.0 - 0.22 * ramp(0.55, 0.9, cloud(at, 24.0, 7)) * ramp(0.3, 0.7, noise(at, 0.6, 13));
    (WHITE, (core * thin).max(blown).min(1.0))
}

/// The distance to a text whose lower left corner lies at a place, of letters that high in mm.
fn text(p: Vec2, at: Vec2, height: f32, what: &str) -> f32 {
    let unit = height / letters::HEIGHT;
    letters::text((p - at) / unit, what) * unit
}

/// The same around a middle.
fn centred(p: Vec2, middle: Vec2, height: f32, what: &str) -> f32 {
    let unit = height / letters::HEIGHT;
    text(p, middle - Vec2::new(letters::width(what) * unit, height) * 0.5, height, what)
}

pub fn name(p: Vec2, pixel: f32) -> Paint {
    let d = centred(p, Vec2::new(120.0, 43.0), 27.0, "TIDEGATE 7").min(centred(
        p,
        Vec2::new(120.0, 15.0),
        13.0,
        "WRACK POINT",
    ));
    sprayed(d, p, pixel)
}

pub fn number(p: Vec2, pixel: f32) -> Paint {
    let middle = Vec2::splat(40.0);
    let from = p - middle;
    let ring = (from.length() - 34.0).abs() - 2.6;
    // Held by bridges at four sides.
    let bridges = from.x.abs().min(from.y.abs()) - 1.5;
    sprayed(ring.max(-bridges).min(centred(p, middle, 33.0, "04")), p, pixel)
}

pub fn arrow(p: Vec2, pixel: f32) -> Paint {
    let word = centred(p, Vec2::new(70.0, 16.0), 20.0, "OPEN");
    let shaft = bar(p, Vec2::new(22.0, 50.0), Vec2::new(92.0, 50.0), 4.2, [0.0, 0.0]);
    let q = p - Vec2::new(122.0, 50.0);
    // A triangle whose point lies at its right.
    let slope = Vec2::new(0.5, 0.866);
    let head = Vec2::new(q.x, q.y.abs()).dot(slope).max(-26.0 - q.x);
    let gap = (p.x - 78.0).abs() - 1.6;
    sprayed(word.min(shaft.max(-gap)).min(head), p, pixel)
}

pub fn stripes(p: Vec2, pixel: f32) -> Paint {
    let (ochre, black) = ([0.80, 0.58, 0.12], [0.07, 0.07, 0.07]);
    let along = (p.x + p.y) / 2f32.sqrt();
    let period = 240.0 / 2f32.sqrt() / 6.0;
    let t = (along / period).rem_euclid(1.0);
    let d = ((t - 0.5).abs() - 0.25) * period;
    let share = within(d, pixel);
    // The hand's brush: black doesn't cover everywhere.
    let share = share * (1.0 - 0.18 * ramp(0.55, 0.8, cloud(p, 9.0, 21)));
    let faded = 1.0 - 0.14 * cloud(p, 40.0, 23);
    ([0, 1, 2].map(|c| (ochre[c] * (1.0 - share) + black[c] * share) * faded), 1.0)
}

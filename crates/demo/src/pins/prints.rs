//! What soles and hands leave.

use glam::Vec2;

use super::Paint;
use super::shapes::{cloud, exp, noise, ramp, rounded, sin, stick, within};

const MUD: [f32; 3] = [0.20, 0.16, 0.11];

/// How much a wet thing left at a place: less towards its borders and in patches.
fn left(d: f32, p: Vec2, pixel: f32, seed: u32) -> f32 {
    let patchy = ramp(0.22, 0.62, cloud(p, 34.0, seed)) * (0.55 + 0.45 * ramp(0.3, 0.7, noise(p, 1.4, seed + 9)));
    // Squeezed out along the border.
    let wall = exp(-((d + 1.2) / 1.1).powi(2)) * 0.5;
    within(d + 1.6 * (cloud(p, 5.0, seed + 4) - 0.5), pixel.max(1.0)) * (patchy + wall).min(1.0)
}

/// A boot's sole, its toe up.
pub fn boot(p: Vec2, pixel: f32) -> Paint {
    // Half its width along its length: toe, ball, waist, heel.
    let y = p.y / 290.0;
    let half = if p.y > 103.0 { 25.0 + 25.0 * ramp(0.36, 0.72, y) } else { 33.0 };
    let bent = 6.0 * ramp(0.4, 0.9, y);
    let sole = {
        let toe = Vec2::new(55.0 + bent, 236.0);
        let body = (p.x - 55.0 - bent).abs() - half;
        let ends = (104.0 - p.y).max(if p.y > toe.y { p.distance(toe) - 49.0 } else { -1.0 });
        if p.y > toe.y { ends.max(104.0 - p.y) } else { body.max(ends) }
    };
    let heel = rounded(p, Vec2::new(55.0, 46.0), Vec2::new(35.0, 41.0), 26.0);
    // Lugs: slanted bars from a middle groove, and a rim of them.
    let side = (p.x - 55.0 - bent).abs();
    let slanted = ((p.y - side * 0.45) / 17.0).rem_euclid(1.0);
    let bars = ((slanted - 0.5).abs() - 0.31) * 17.0;
    let groove = 2.6 - side;
    let d = sole.min(heel).max(bars).max(groove);
    (MUD, left(d, p, pixel, 50))
}

/// A right hand, its fingers up.
pub fn hand(p: Vec2, pixel: f32) -> Paint {
    let v = Vec2::new;
    let palm = rounded(p, v(78.0, 56.0), v(40.0, 42.0), 26.0);
    // The hollow of the palm hardly touches.
    let hollow = ramp(8.0, 27.0, p.distance(v(84.0, 54.0)) + 16.0 * (cloud(p, 16.0, 71) - 0.5));
    let finger = |a: Vec2, b: Vec2, r: f32| {
        let way = (b - a).normalize();
        let far = (p - a).dot(way) / a.distance(b);
        // Joints leave a gap.
        let joint = [0.36f32, 0.68].map(|j| 1.3 - (far - j).abs() * a.distance(b));
        stick(p, a, b, r).max(joint[0]).max(joint[1])
    };
    let fingers = [
        finger(v(46.0, 106.0), v(30.0, 158.0), 8.4),
        finger(v(67.0, 110.0), v(62.0, 180.0), 9.2),
        finger(v(89.0, 110.0), v(94.0, 176.0), 9.0),
        finger(v(109.0, 100.0), v(122.0, 152.0), 7.8),
        finger(v(30.0, 62.0), v(16.0, 92.0), 10.0).min(finger(v(38.0, 48.0), v(20.0, 84.0), 10.0)),
    ];
    let d = fingers.into_iter().fold(palm, f32::min);
    // The lines of the skin.
    let bent = p + v(6.0 * noise(p, 30.0, 75), 6.0 * noise(p, 30.0, 77));
    let ridges = 0.5 + 0.5 * sin((bent.y + 0.35 * bent.x) * 4.6);
    ([0.12, 0.11, 0.09], left(d, p, pixel, 60) * (0.62 + 0.38 * ridges) * (0.1 + 0.9 * hollow))
}

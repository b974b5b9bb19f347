//! What soles and hands leave.

use glam::Vec2;

use super::Paint;
use super::shapes::{cloud, exp, joined, noise, ramp, rounded, sin, stick, within};

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
    // The mounds of the thumb and of the little finger, and the pads below the fingers; between them a hollow hardly touches.
    let mound = |at: Vec2, across: Vec2| (((p - at) / across).length() - 1.0) * across.min_element();
    let palm = [
        mound(v(55.0, 50.0), v(20.0, 34.0)),
        mound(v(101.0, 47.0), v(19.0, 36.0)),
        mound(v(52.0, 88.0), v(15.0, 12.0)),
        mound(v(76.0, 93.0), v(17.0, 12.0)),
        mound(v(101.0, 86.0), v(17.0, 13.0)),
    ];
    let palm = palm.into_iter().fold(f32::INFINITY, |a, b| joined(a, b, 9.0));
    let hollow = ramp(6.0, 25.0, p.distance(v(80.0, 62.0)) + 18.0 * (cloud(p, 16.0, 71) - 0.5));
    // Of each finger where it begins and ends and how thick it is; its joints leave gaps where each hand has its own.
    let fingers = [
        (v(45.0, 106.0), v(31.0, 158.0), 8.0, [0.38, 0.70]),
        (v(67.0, 111.0), v(62.0, 181.0), 8.6, [0.33, 0.65]),
        (v(90.0, 110.0), v(95.0, 175.0), 8.4, [0.35, 0.67]),
        (v(112.0, 100.0), v(125.0, 150.0), 7.2, [0.40, 0.69]),
        (v(34.0, 66.0), v(14.0, 98.0), 9.6, [0.30, 0.62]),
    ];
    let finger = |(a, b, r, joints): (Vec2, Vec2, f32, [f32; 2])| {
        let (along, way) = (a.distance(b), (b - a).normalize());
        let (far, beside) = ((p - a).dot(way), (p - a).perp_dot(way));
        // Pads swell between the joints, and a joint's crease bends.
        let swell = 0.9 * sin(far / along * 9.4 + r) + 0.8 * (noise(p, 7.0, 78) - 0.5);
        let crease = joints.map(|j| 1.5 + 0.9 * noise(p, 4.0, 79) - (far - j * along + 0.02 * beside * beside).abs());
        stick(p, a, b, r + swell).max(crease[0]).max(crease[1])
    };
    let d = fingers.into_iter().map(finger).fold(palm, f32::min);
    // The lines of the skin: whorls on the tips, slanted over the rest.
    let bent = p + v(6.0 * noise(p, 30.0, 75), 6.0 * noise(p, 30.0, 77));
    let tip = fingers.into_iter().map(|f| p.distance(f.1 + v(2.0, -3.0))).fold(f32::INFINITY, f32::min);
    let lines = if tip < 14.0 { tip + 1.5 * noise(p, 5.0, 76) } else { bent.y + 0.35 * bent.x };
    let ridges = 0.5 + 0.5 * sin(lines * 4.6);
    ([0.12, 0.11, 0.09], left(d, p, pixel, 60) * (0.62 + 0.38 * ridges) * (0.1 + 0.9 * hollow))
}

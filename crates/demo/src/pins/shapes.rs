//! Distances to shapes, in mm, below 0 within them; and noise.

use dustcoat_core::lattice::value_noise;
use glam::Vec2;

/// How much of a pixel lies within a shape that is `d` mm away from its middle.
pub fn within(d: f32, pixel: f32) -> f32 {
    (0.5 - d / pixel).clamp(0.0, 1.0)
}

/// A box around `middle`, with rounded corners.
pub fn rounded(p: Vec2, middle: Vec2, half: Vec2, radius: f32) -> f32 {
    let q = (p - middle).abs() - half + radius;
    q.max(Vec2::ZERO).length() + q.x.max(q.y).min(0.0) - radius
}

/// A stick with round ends.
pub fn stick(p: Vec2, a: Vec2, b: Vec2, radius: f32) -> f32 {
    let along = b - a;
    let t = ((p - a).dot(along) / along.length_squared().max(1e-9)).clamp(0.0, 1.0);
    p.distance(a + along * t) - radius
}

/// A stick with straight ends, which go on beyond `a` and `b` by so much.
pub fn bar(p: Vec2, a: Vec2, b: Vec2, half: f32, [before, after]: [f32; 2]) -> f32 {
    let along = (b - a).normalize_or(Vec2::X);
    let (from, to) = (-before, a.distance(b) + after);
    let q = Vec2::new((p - a).dot(along), (p - a).perp_dot(along));
    let d = Vec2::new((q.x - 0.5 * (from + to)).abs() - 0.5 * (to - from), q.y.abs() - half);
    d.max(Vec2::ZERO).length() + d.x.max(d.y).min(0.0)
}

/// Two shapes in one, which flow together within `soft` mm.
pub fn joined(a: f32, b: f32, soft: f32) -> f32 {
    if a == f32::INFINITY {
        return b;
    }
    let h = (0.5 + 0.5 * (a - b) / soft).clamp(0.0, 1.0);
    a + (b - a) * h - soft * h * (1.0 - h)
}

/// Value noise, 0…1, whose lattice is `size` mm wide.
pub fn noise(p: Vec2, size: f32, seed: u32) -> f32 {
    let q = p / size;
    value_noise(q.x, q.y, 3.0, seed)
}

/// The same in four octaves.
pub fn cloud(p: Vec2, size: f32, seed: u32) -> f32 {
    let octave = |k: u32| noise(p, size / f32::from(1u16 << k), seed + k) * 0.5f32.powi(k as i32);
    (0..4).map(octave).sum::<f32>() / 1.875
}

/// 0 up to `a`, 1 from `b` on.
pub fn ramp(a: f32, b: f32, v: f32) -> f32 {
    let t = ((v - a) / (b - a)).clamp(0.0, 1.0);
    t * t * (3.0 - 2.0 * t)
}

/// The sine, the same on every machine.
pub fn sin(x: f32) -> f32 {
    libm::sinf(x)
}

/// The cosine, likewise.
pub fn cos(x: f32) -> f32 {
    libm::cosf(x)
}

/// e to the power of x, likewise.
pub fn exp(x: f32) -> f32 {
    libm::expf(x)
}

//! From radiance to bytes: exposure, the Khronos PBR Neutral tone mapper (2024), sRGB.

use glam::Vec3;

use crate::raster::quantise::unorm8;
use crate::raster::srgb::encode_u8;

/// Khronos PBR Neutral: keeps colours up to 0.8 as they are but for the reflection of a clear surface, and rolls off what is brighter.
pub fn neutral(c: Vec3) -> Vec3 {
    const START: f32 = 0.8 - 0.04;
    const GREYS: f32 = 0.15;
    let least = c.min_element();
    let c = c - Vec3::splat(if least < 0.08 { least - 6.25 * least * least } else { 0.04 });
    let peak = c.max_element();
    if peak < START {
        return c;
    }
    let d = 1.0 - START;
    let lower = 1.0 - d * d / (peak + d - START);
    let grey = 1.0 - 1.0 / (GREYS * (peak - lower) + 1.0);
    (c * (lower / peak)).lerp(Vec3::splat(lower), grey)
}

/// RGBA8 of traced pixels, `stops` brighter, over a surround (linear, as displayed), or transparent where nothing is seen.
pub fn bytes(pixels: &[[f32; 4]], stops: f32, surround: Option<Vec3>) -> Vec<u8> {
    let gain = libm::exp2f(stops);
    let one = |p: &[f32; 4]| {
        let c = neutral(Vec3::new(p[0], p[1], p[2]) * (gain / p[3].max(1e-6)));
        let (c, alpha) = match surround {
            Some(s) => (s.lerp(c, p[3]), 1.0),
            None => (c, p[3]),
        };
        [encode_u8(c.x), encode_u8(c.y), encode_u8(c.z), unorm8(alpha)]
    };
    pixels.iter().flat_map(one).collect()
}

//! The sRGB transfer function (IEC 61966-2-1), by tables where it runs per texel.
//!
//! `libm` is used instead of the platform's own maths so that the same document gives the same bytes on every machine.

use std::sync::LazyLock;

/// sRGB 0…1 to linear 0…1.
pub fn decode(v: f32) -> f32 {
    if v <= 0.04045 { v / 12.92 } else { libm::powf((v + 0.055) / 1.055, 2.4) }
}

/// Linear 0…1 to sRGB 0…1.
pub fn encode(v: f32) -> f32 {
    let v = v.clamp(0.0, 1.0);
    if v <= 0.003_130_8 { v * 12.92 } else { 1.055 * libm::powf(v, 1.0 / 2.4) - 0.055 }
}

static ENCODE: LazyLock<Vec<u8>> =
    LazyLock::new(|| (0..=65535u32).map(|i| (encode(i as f32 / 65535.0) * 255.0 + 0.5) as u8).collect());

/// Linear 0…1 to an sRGB byte. Values outside are clamped; NaN gives 0. The table's step is a twentieth of a level at most.
#[inline]
pub fn encode_u8(v: f32) -> u8 {
    ENCODE[(v.clamp(0.0, 1.0) * 65535.0 + 0.5) as usize]
}

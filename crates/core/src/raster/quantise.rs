//! Rounding to integers as file formats and textures want them.

/// 0…1 to a byte, rounded to nearest; values outside are clamped, NaN gives 0.
#[inline]
pub fn unorm8(v: f32) -> u8 {
    (v.clamp(0.0, 1.0) * 255.0 + 0.5) as u8
}

/// 0…1 to 16 bits, rounded to nearest; values outside are clamped, NaN gives 0.
#[inline]
pub fn unorm16(v: f32) -> u16 {
    (v.clamp(0.0, 1.0) * 65535.0 + 0.5) as u16
}

//! Picture sheets for the docs: pictures of one size side by side on the view's grey.

use std::path::Path;

use dustcoat_core::handoff::png;

/// Writes square RGBA pictures of `side` pixels as one PNG, `across` to a row.
///
/// # Panics
/// When the file can't be written: this serves the examples alone.
pub fn write(file: impl AsRef<Path>, side: u32, across: u32, pictures: &[Vec<u8>]) {
    let (width, rows) = (side * across, (pictures.len() as u32).div_ceil(across));
    let mut sheet = [0x77, 0x77, 0x77, 255].repeat((width * side * rows) as usize);
    for (k, picture) in pictures.iter().enumerate() {
        let (left, top) = (k as u32 % across * side, k as u32 / across * side);
        for (p, pixel) in picture.chunks_exact(4).enumerate() {
            let (x, y) = (left + p as u32 % side, top + p as u32 / side);
            let (at, alpha) = (((y * width + x) * 4) as usize, u32::from(pixel[3]));
            for c in 0..3 {
                sheet[at + c] = ((u32::from(pixel[c]) * alpha + 0x77 * (255 - alpha)) / 255) as u8;
            }
        }
    }
    std::fs::write(file, png::rgba8(&sheet, width, side * rows)).expect("the file can be written");
}

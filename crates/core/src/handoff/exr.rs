//! OpenEXR files through `image`. Sizes are square; rows run from the top.

use std::io::Cursor;

use image::{ImageFormat, Rgb, Rgb32FImage};

/// RGB in 32-bit float of three planes of size × size values.
pub fn rgb([r, g, b]: [&[f32]; 3], size: u32) -> Vec<u8> {
    let at = |x: u32, y: u32| (y * size + x) as usize;
    let picture = Rgb32FImage::from_fn(size, size, |x, y| Rgb([r[at(x, y)], g[at(x, y)], b[at(x, y)]]));
    let mut out = Cursor::new(Vec::new());
    picture.write_to(&mut out, ImageFormat::OpenExr).expect("writing to memory does not fail");
    out.into_inner()
}

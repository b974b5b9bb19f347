//! PNG files through the `png` crate. Sizes are square; rows run from the top.

use png::{BitDepth, ColorType, Compression, Encoder};

/// How a picture's values are to be read.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Space {
    /// Colours.
    Srgb,
    /// Everything else.
    Linear,
}

fn encode(data: &[u8], (width, height): (u32, u32), color: ColorType, depth: BitDepth, space: Space) -> Vec<u8> {
    let mut out = Vec::new();
    let mut encoder = Encoder::new(&mut out, width, height);
    encoder.set_color(color);
    encoder.set_depth(depth);
    encoder.set_compression(Compression::Fast);
    if space == Space::Srgb {
        encoder.set_source_srgb(png::SrgbRenderingIntent::Perceptual);
    }
    let mut writer = encoder.write_header().expect("the header is valid and memory does not fail");
    writer.write_image_data(data).expect("the data has the header's size");
    writer.finish().expect("memory does not fail");
    out
}

/// RGB8 of an RGBA8 square, alpha dropped.
pub fn rgb8(rgba: &[u8], size: u32, space: Space) -> Vec<u8> {
    let rgb: Vec<u8> = rgba.chunks_exact(4).flat_map(|p| [p[0], p[1], p[2]]).collect();
    encode(&rgb, (size, size), ColorType::Rgb, BitDepth::Eight, space)
}

/// RGBA8 of any proportions.
pub fn rgba8(rgba: &[u8], width: u32, height: u32) -> Vec<u8> {
    encode(rgba, (width, height), ColorType::Rgba, BitDepth::Eight, Space::Srgb)
}

/// Grey 16-bit of little-endian values; PNG wants them big-endian.
pub fn grey16(little: &[u8], size: u32) -> Vec<u8> {
    let big: Vec<u8> = little.chunks_exact(2).flat_map(|p| [p[1], p[0]]).collect();
    encode(&big, (size, size), ColorType::Grayscale, BitDepth::Sixteen, Space::Linear)
}

/// RGB 16-bit of three planes of little-endian values.
pub fn rgb16([r, g, b]: [&[u8]; 3], size: u32) -> Vec<u8> {
    let pairs = r.chunks_exact(2).zip(g.chunks_exact(2)).zip(b.chunks_exact(2));
    let big: Vec<u8> = pairs.flat_map(|((r, g), b)| [r[1], r[0], g[1], g[0], b[1], b[0]]).collect();
    encode(&big, (size, size), ColorType::Rgb, BitDepth::Sixteen, Space::Linear)
}

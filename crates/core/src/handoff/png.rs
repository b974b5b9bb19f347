//! PNG files through the `png` crate. Sizes are square; rows run from the top.

use std::borrow::Cow;
use std::cell::RefCell;
use std::io::Write;
use std::rc::Rc;

use png::{BitDepth, ColorType, Compression, Encoder, StreamWriter};

/// How the bytes of a texture become a PNG.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Form {
    /// Channels: grey, grey and alpha, RGB, RGBA.
    pub channels: usize,
    /// Whether they have 16 bits, which come little-endian, rather than 8.
    pub sixteen: bool,
    /// Whether they are colours, rather than numbers.
    pub srgb: bool,
}

impl Form {
    fn types(self) -> (ColorType, BitDepth, Space) {
        let color = match self.channels {
            1 => ColorType::Grayscale,
            2 => ColorType::GrayscaleAlpha,
            3 => ColorType::Rgb,
            _ => ColorType::Rgba,
        };
        let depth = if self.sixteen { BitDepth::Sixteen } else { BitDepth::Eight };
        (color, depth, if self.srgb { Space::Srgb } else { Space::Linear })
    }

    /// As PNG wants them.
    fn turned(self, bytes: &[u8]) -> Cow<'_, [u8]> {
        if self.sixteen { Cow::Owned(big(bytes)) } else { Cow::Borrowed(bytes) }
    }
}

/// How a picture's values are to be read.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Space {
    /// Colours.
    Srgb,
    /// Everything else.
    Linear,
}

fn encoder<W: Write>(
    out: W,
    (width, height): (u32, u32),
    color: ColorType,
    depth: BitDepth,
    space: Space,
) -> Encoder<'static, W> {
    let mut encoder = Encoder::new(out, width, height);
    encoder.set_color(color);
    encoder.set_depth(depth);
    encoder.set_compression(Compression::Fast);
    if space == Space::Srgb {
        encoder.set_source_srgb(png::SrgbRenderingIntent::Perceptual);
    }
    encoder
}

fn encode(data: &[u8], size: (u32, u32), color: ColorType, depth: BitDepth, space: Space) -> Vec<u8> {
    let mut out = Vec::new();
    let mut writer = encoder(&mut out, size, color, depth, space)
        .write_header()
        .expect("the header is valid and memory does not fail");
    writer.write_image_data(data).expect("the data has the header's size");
    writer.finish().expect("memory does not fail");
    out
}

/// A picture that is written some rows at a time, from the top.
pub struct Rows {
    form: Form,
    out: Shared,
    writer: StreamWriter<'static, Shared>,
}

/// What a stream writes to, so that it can be taken out at the end.
#[derive(Clone, Default)]
struct Shared(Rc<RefCell<Vec<u8>>>);

impl Write for Shared {
    fn write(&mut self, bytes: &[u8]) -> std::io::Result<usize> {
        self.0.borrow_mut().extend_from_slice(bytes);
        Ok(bytes.len())
    }

    fn flush(&mut self) -> std::io::Result<()> {
        Ok(())
    }
}

impl Rows {
    /// A square, with words about it by their keywords.
    pub fn new(size: u32, form: Form, words: &[(&str, String)]) -> Rows {
        let (out, (color, depth, space)) = (Shared::default(), form.types());
        let mut encoder = encoder(out.clone(), (size, size), color, depth, space);
        for (key, word) in words {
            encoder.add_text_chunk((*key).into(), word.clone()).expect("keywords and words are Latin-1");
        }
        let writer = encoder.write_header();
        let writer = writer.and_then(|w| w.into_stream_writer()).expect("the header is valid and memory does not fail");
        Rows { form, out, writer }
    }

    /// Further rows of the texture.
    pub fn add(&mut self, bytes: &[u8]) {
        self.writer.write_all(&self.form.turned(bytes)).expect("no more rows than the header says");
    }

    /// The file, once all rows are in.
    pub fn finish(self) -> Vec<u8> {
        self.writer.finish().expect("as many rows as the header says");
        self.out.0.take()
    }
}

fn big(little: &[u8]) -> Vec<u8> {
    little.chunks_exact(2).flat_map(|p| [p[1], p[0]]).collect()
}

/// RGBA8 of any proportions.
pub fn rgba8(rgba: &[u8], width: u32, height: u32) -> Vec<u8> {
    encode(rgba, (width, height), ColorType::Rgba, BitDepth::Eight, Space::Srgb)
}

/// Grey 16-bit of little-endian values; PNG wants them big-endian.
pub fn grey16(little: &[u8], size: u32) -> Vec<u8> {
    encode(&big(little), (size, size), ColorType::Grayscale, BitDepth::Sixteen, Space::Linear)
}

/// RGB 16-bit of three planes of little-endian values.
pub fn rgb16([r, g, b]: [&[u8]; 3], size: u32) -> Vec<u8> {
    let pairs = r.chunks_exact(2).zip(g.chunks_exact(2)).zip(b.chunks_exact(2));
    let big: Vec<u8> = pairs.flat_map(|((r, g), b)| [r[1], r[0], g[1], g[0], b[1], b[0]]).collect();
    encode(&big, (size, size), ColorType::Rgb, BitDepth::Sixteen, Space::Linear)
}

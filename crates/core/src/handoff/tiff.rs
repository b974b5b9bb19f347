//! TIFF files through the `tiff` crate, packed by Deflate with differences from texel to texel. Sizes are square; rows run from the top.

use std::io::Cursor;

use tiff::encoder::colortype::{ColorType, Gray8, Gray16, RGB8, RGB16, RGBA8, RGBA16};
use tiff::encoder::{Compression, DeflateLevel, Predictor, TiffEncoder, TiffValue};
use tiff::tags::Tag;

/// A file of one, three or four channels of 8 or 16 bits, the latter little-endian; `words` describe it.
pub fn write(bytes: &[u8], size: u32, channels: usize, sixteen: bool, words: &str) -> Vec<u8> {
    let wide = || -> Vec<u16> { bytes.chunks_exact(2).map(|b| u16::from_le_bytes([b[0], b[1]])).collect() };
    match (channels, sixteen) {
        (1, false) => of::<Gray8>(bytes, size, words),
        (1, true) => of::<Gray16>(&wide(), size, words),
        (3, false) => of::<RGB8>(bytes, size, words),
        (3, true) => of::<RGB16>(&wide(), size, words),
        (_, false) => of::<RGBA8>(bytes, size, words),
        (_, true) => of::<RGBA16>(&wide(), size, words),
    }
}

fn of<C: ColorType>(values: &[C::Inner], size: u32, words: &str) -> Vec<u8>
where
    [C::Inner]: TiffValue,
{
    let mut out = Cursor::new(Vec::new());
    let write = |out| -> tiff::TiffResult<()> {
        let mut encoder = TiffEncoder::new(out)?
            .with_compression(Compression::Deflate(DeflateLevel::Fast))
            .with_predictor(Predictor::Horizontal);
        let mut image = encoder.new_image::<C>(size, size)?;
        image.encoder().write_tag(Tag::Software, "Dust Coat")?;
        if !words.is_empty() {
            image.encoder().write_tag(Tag::ImageDescription, words)?;
        }
        image.write_data(values)
    };
    write(&mut out).expect("writing to memory does not fail");
    out.into_inner()
}

//! OpenEXR files of one channel, luminance (`Y`) or a layer by itself, which `image` doesn't take: as grey in floats.

use std::io::Cursor;

use exr::prelude::{MetaData, ReadChannels, ReadLayers, read};
use image::{DynamicImage, ImageBuffer};

/// Bytes of a texel as it is held.
const TEXEL: u64 = 12;

/// The picture, where the file is one of one channel of at most `side` texels along a side and `bytes` in memory.
pub fn read_grey(file: &[u8], side: u32, bytes: u64) -> Option<DynamicImage> {
    let meta = MetaData::read_from_buffered(Cursor::new(file), false).ok()?;
    let header = meta.headers.first()?;
    let (width, height) = (header.layer_size.0 as u64, header.layer_size.1 as u64);
    let fits = width.max(height) <= u64::from(side) && width * height * TEXEL <= bytes;
    if header.channels.list.len() != 1 || !fits {
        return None;
    }
    let reader = read().no_deep_data().largest_resolution_level().all_channels().first_valid_layer();
    let layer = reader.all_attributes().from_buffered(Cursor::new(file)).ok()?.layer_data;
    let values = layer.channel_data.list.first()?.sample_data.values_as_f32().flat_map(|v| [v; 3]).collect();
    ImageBuffer::from_raw(width as u32, height as u32, values).map(DynamicImage::ImageRgb32F)
}

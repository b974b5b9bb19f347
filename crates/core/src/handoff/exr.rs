//! OpenEXR files through the `exr` crate. Sizes are square; rows run from the top; PIZ, which is quick and loses nothing.

use std::io::Cursor;

use exr::prelude::{
    AnyChannel, AnyChannels, AttributeValue, Compression, Encoding, FlatSamples, Image, Layer, LayerAttributes,
    LineOrder, SmallVec, Text, WritableImage, f16,
};

/// A channel of a file.
pub struct Plane<'a> {
    /// Its name: `R`, `G`, `B`, `A`, `Y`, or `layer.R`.
    pub name: &'a str,
    /// Its numbers.
    pub values: Vec<f32>,
}

/// A file of channels with names of their own, in floats of 16 bits where `half` says so, otherwise of 32. Words go with it by their keys.
pub fn write(planes: Vec<Plane>, size: u32, half: bool, words: &[(&str, String)]) -> Vec<u8> {
    let channel = |plane: Plane| {
        let samples = if half {
            FlatSamples::F16(plane.values.iter().map(|v| f16::from_f32(*v)).collect())
        } else {
            FlatSamples::F32(plane.values)
        };
        AnyChannel::new(plane.name, samples)
    };
    let channels: SmallVec<[_; 4]> = planes.into_iter().map(channel).collect();
    let mut attributes = LayerAttributes { software_name: Some(Text::from("Dust Coat")), ..LayerAttributes::default() };
    for (key, word) in words {
        attributes.other.insert(Text::from(*key), AttributeValue::Text(Text::from(word.as_str())));
    }
    let encoding = Encoding { compression: Compression::PIZ, line_order: LineOrder::Increasing, ..Encoding::default() };
    let side = size as usize;
    let layer = Layer::new((side, side), attributes, encoding, AnyChannels::sort(channels));
    let mut out = Cursor::new(Vec::new());
    Image::from_layer(layer).write().to_buffered(&mut out).expect("writing to memory does not fail");
    out.into_inner()
}

/// RGB in 32-bit float of three planes of size × size values.
pub fn rgb(planes: [&[f32]; 3], size: u32) -> Vec<u8> {
    let named = ["R", "G", "B"].into_iter().zip(planes).map(|(name, values)| Plane { name, values: values.to_vec() });
    write(named.collect(), size, false, &[])
}

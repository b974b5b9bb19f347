//! Values per texel without any notion of a mesh: pictures from files, colour spaces, 8- and 16-bit quantisation.

mod luminance;
pub mod main_colors;
pub mod oklab;
pub mod picture;
pub mod pyramid;
pub mod quantise;
pub mod srgb;
pub mod tone;

/// The largest texture that is worked out whole; larger ones are written in bands.
pub const LARGEST_WHOLE: u32 = 4096;

/// Whether a piece can be laid out at that many texels along a side: a power of two from 64 to 4096.
pub fn is_texture_size(size: u32) -> bool {
    size.is_power_of_two() && (64..=LARGEST_WHOLE).contains(&size)
}

/// One value per covered texel, in the order of the atlas's texels.
pub type Plane = Vec<f32>;

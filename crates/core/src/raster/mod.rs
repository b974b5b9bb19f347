//! Values per texel without any notion of a mesh: colour transfer and 8- and 16-bit quantisation.

pub mod quantise;
pub mod srgb;

/// One value per covered texel, in the order of the atlas's texels.
pub type Plane = Vec<f32>;

//! The pictures that the front door shows of the demo's projects before anything was measured: shipped beside this file, taken by `make gallery`.

use dustcoat_core::still::shoot::{StillSettings, Surround};

/// Pixels of a picture.
pub const SIZE: [u32; 2] = [400, 300];

/// How they are taken.
pub fn settings(samples: u32) -> StillSettings {
    let [width, height] = SIZE;
    StillSettings { width, height, samples, surround: Surround::Clear, denoise: true, ..StillSettings::default() }
}

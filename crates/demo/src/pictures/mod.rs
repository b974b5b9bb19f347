//! The pictures that the front door shows of the demo's projects before anything was measured: shipped beside this file, taken by `make gallery`.

use dustcoat_core::still::shoot::{StillSettings, Surround};

/// Pixels of a picture.
pub const SIZE: [u32; 2] = [400, 300];

/// How they are taken.
pub fn settings(samples: u32) -> StillSettings {
    let [width, height] = SIZE;
    StillSettings { width, height, samples, surround: Surround::Clear, denoise: true, ..StillSettings::default() }
}

#[cfg(test)]
mod tests {
    use dustcoat_core::handoff::png;
    use dustcoat_core::raster::picture::Picture;

    use crate::PIECES;
    use crate::studio::Studio;

    #[test]
    fn the_pictures_that_are_shipped_are_those_of_the_projects() {
        for demo in PIECES {
            let Some(dress) = demo.dress else { continue };
            let shipped = Picture::decode("picture.png", dress.picture).expect("it is a PNG");
            assert_eq!(shipped.size(), super::SIZE, "{}", demo.key);
            let fresh = Studio::of(demo.key, 256, Some(6.0)).take(&(dress.document)(), &super::settings(4));
            let [w, h] = super::SIZE;
            let fresh = Picture::decode("fresh.png", &png::rgba8(&fresh, w, h)).expect("it is a PNG");
            let (a, b) = (shipped.quadruples().values, fresh.quadruples().values);
            let off = |(a, b): (&[f32; 4], &[f32; 4])| (0..3).map(|c| (a[c] - b[c]).abs()).sum::<f32>() / 3.0;
            let mean = a.iter().zip(&b).map(off).sum::<f32>() / a.len() as f32;
            assert!(mean < 0.05, "{}: {mean}; take them anew with `make gallery`", demo.key);
        }
    }
}

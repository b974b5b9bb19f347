//! Any bytes as a picture: read or refused, never a panic.
#![no_main]

#[allow(dead_code)]
mod whole;

use dustcoat_core::raster::picture::{Picture, PictureChannel};

libfuzzer_sys::fuzz_target!(|bytes: &[u8]| {
    whole::let_caught_panics_pass();
    let Ok(picture) = Picture::decode("picture", bytes) else { return };
    let [w, h] = picture.size();
    if u64::from(w) * u64::from(h) > 1 << 18 {
        return;
    }
    let numbers = picture.numbers(PictureChannel::Grey);
    assert_eq!(numbers.values.len(), (w * h) as usize);
    assert!(numbers.values.iter().all(|v| v.is_finite()));
});

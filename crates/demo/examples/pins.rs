//! Writes the sheet of made-up pictures in `docs/guide.md`: each of them on painted metal's grey, three to a row.
//! `cargo run --release -p dustcoat-demo --example pins -- docs/pins.png`

use dustcoat_core::raster::picture::Picture;
use dustcoat_demo::pins::{MadePicture, PICTURES};
use dustcoat_demo::sheet;

const TILE: u32 = 300;
/// Clear around a picture, in pixels.
const ROOM: u32 = 14;
/// sRGB of what it lies on.
const GROUND: [f32; 3] = [118.0, 128.0, 126.0];

fn main() {
    let out = std::env::args().nth(1).expect("a file");
    sheet::write(&out, TILE, 3, PICTURES.iter().map(|made| (made.label.to_owned(), on_ground(made))));
}

fn on_ground(made: &MadePicture) -> Vec<u8> {
    let picture = Picture::decode(&made.file(), &made.small(TILE - 2 * ROOM)).expect("it is a PNG");
    let [width, height] = picture.size();
    let mut out = [GROUND.map(|c| c as u8).as_slice(), &[255]].concat().repeat((TILE * TILE) as usize);
    for i in 0..picture.len() as u32 {
        let (x, y) = (i % width + (TILE - width) / 2, i / width + (TILE - height) / 2);
        let [r, g, b, a] = picture.texel(i as usize);
        let at = ((y * TILE + x) * 4) as usize;
        for (k, c) in [r, g, b].into_iter().enumerate() {
            out[at + k] = (GROUND[k] + (c * 255.0 - GROUND[k]) * a + 0.5) as u8;
        }
    }
    out
}

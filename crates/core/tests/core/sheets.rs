//! Sheets of pictures: their sizes, what lies where, and words that fit.

use std::io::Cursor;

use dustcoat_core::handoff::sheet::{Cell, sheet};

fn cell(color: [u8; 4], words: &[&str]) -> Cell {
    Cell { picture: color.repeat(40 * 30), words: words.iter().map(|w| (*w).to_owned()).collect() }
}

fn read(bytes: &[u8]) -> (u32, u32, Vec<u8>) {
    let mut reader = png::Decoder::new(Cursor::new(bytes)).read_info().unwrap();
    let mut pixels = vec![0; reader.output_buffer_size().unwrap()];
    let info = reader.next_frame(&mut pixels).unwrap();
    (info.width, info.height, pixels)
}

#[test]
fn pictures_stand_in_rows_with_their_words_under_them() {
    let cells = [cell([255, 0, 0, 255], &["Wear 0"]), cell([0, 255, 0, 255], &["Wear 1"]), cell([0, 0, 255, 0], &[])];
    let (width, height, pixels) = read(&sheet(&cells, (40, 30), 2));
    assert_eq!((width, height), (2 * 50 + 10, 2 * (30 + 20 + 10) + 10));
    let at = |x: u32, y: u32| &pixels[((y * width + x) * 4) as usize..][..3];
    assert_eq!((at(12, 12), at(62, 12)), (&[255, 0, 0][..], &[0, 255, 0][..]));
    let paper = at(2, 2).to_vec();
    assert_eq!(at(12, 72), paper, "what is clear shows the paper");
    // Dark pixels below a picture with words, none below one without.
    let ink = |x: std::ops::Range<u32>, y: std::ops::Range<u32>| {
        y.flat_map(|y| x.clone().map(move |x| (x, y))).filter(|(x, y)| at(*x, *y)[0] < 100).count()
    };
    assert!(ink(10..50, 41..60) > 20, "words are drawn");
    assert_eq!(ink(10..50, 102..120), 0);
    assert_eq!(sheet(&cells, (40, 30), 2), sheet(&cells, (40, 30), 2), "the same bytes every time");
}

#[test]
fn words_that_are_longer_than_a_picture_end_in_dots_within_it() {
    let long = cell([255, 255, 255, 255], &["a dial with an endless name, turned to 0.5"]);
    let (width, _, pixels) = read(&sheet(&[long], (40, 30), 1));
    let dark = |x: u32| (0..20).any(|y| pixels[(((41 + y) * width + x) * 4) as usize] < 100);
    assert!((10..50).any(dark) && !(0..9).chain(51..width).any(dark));
}

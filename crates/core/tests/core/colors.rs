//! Colours: sRGB, OKLab, and the main colours of a picture.

use dustcoat_core::raster::main_colors::main_colors;
use dustcoat_core::raster::oklab::{distance, of_linear, oklab, to_linear};
use dustcoat_core::raster::picture::Grid;
use dustcoat_core::raster::srgb::{decode, encode_u8};

#[test]
fn every_byte_survives_the_round_trip() {
    for b in 0..=255u8 {
        assert_eq!(encode_u8(decode(f32::from(b) / 255.0)), b);
    }
}

fn picture(values: Vec<[u8; 4]>) -> Grid<[u8; 4]> {
    Grid { width: values.len() as u32, height: 1, values }
}

#[test]
fn a_picture_of_few_colours_gives_them_with_their_shares() {
    let of = |c: [u8; 3], n: usize| vec![[c[0], c[1], c[2], 255]; n];
    let (rust, sea, chalk) = ([150, 60, 30], [40, 90, 100], [230, 226, 214]);
    let found = main_colors(&picture([of(sea, 600), of(rust, 300), of(chalk, 100)].concat()), 3);
    assert_eq!(found.len(), 3);
    for ((c, share), (wanted, part)) in found.iter().zip([(sea, 0.6), (rust, 0.3), (chalk, 0.1)]) {
        assert!(c.iter().zip(wanted).all(|(a, b)| a.abs_diff(b) <= 2), "{c:?} for {wanted:?}");
        assert!((share - part).abs() < 1e-6, "{share} of {part}");
    }
    assert!(main_colors(&picture(of(rust, 50)), 6).len() == 1, "one colour stands for one");
}

#[test]
fn noise_around_colours_is_gathered_and_what_is_cut_away_is_not_counted() {
    let mut dice = 7u32;
    let mut near = |c: [u8; 3]| {
        let c = c.map(|v| {
            dice = dice.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
            v - 4 + ((dice >> 24) % 9) as u8
        });
        [c[0], c[1], c[2], 255]
    };
    let mut texels: Vec<[u8; 4]> =
        (0..800).map(|i| near(if i % 4 == 0 { [200, 60, 40] } else { [60, 110, 60] })).collect();
    texels.extend(vec![[0, 0, 255, 0]; 2000]);
    let found = main_colors(&picture(texels), 2);
    assert_eq!(found.len(), 2, "the transparent blue is none of them");
    assert!((found[0].1 - 0.75).abs() < 0.01 && found[0].0[1] > found[0].0[0], "{found:?}");
    assert!(main_colors(&picture(vec![[9, 9, 9, 0]; 20]), 4).is_empty());
}

#[test]
fn the_known_values_come_out() {
    // Ottosson's table: white, and sRGB's pure red.
    let near = |a: [f32; 3], b: [f32; 3]| assert!(distance(a, b) < 2e-3, "{a:?} {b:?}");
    near(oklab([255, 255, 255]), [1.0, 0.0, 0.0]);
    near(oklab([255, 0, 0]), [0.628, 0.2249, 0.1258]);
    near(oklab([0, 0, 0]), [0.0, 0.0, 0.0]);
    for c in [[0.2, 0.5, 0.9], [0.9, 0.1, 0.0], [0.01, 0.02, 0.3]] {
        let back = to_linear(of_linear(c));
        assert!(c.iter().zip(back).all(|(a, b)| (a - b).abs() < 1e-5), "{c:?} {back:?}");
    }
}

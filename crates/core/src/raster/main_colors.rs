//! The few colours that stand for a picture: means of clusters in OKLab, with the share that each has of it.

use okolors::{KmeansOptions, Okolors, PaletteSize};

use super::oklab::{distance, oklab};
use super::picture::Grid;

/// What is more transparent than this is not part of the picture.
const THERE: u8 = 128;

/// At most `count` (2 to 16) sRGB colours and their shares, which add up to 1, the most frequent first; none of a picture that is all transparent. Lightness counts
/// for less than hue and chroma, so that the colours of a picture come before its shadows. The same picture gives the same colours.
pub fn main_colors(picture: &Grid<[u8; 4]>, count: u8) -> Vec<([u8; 3], f32)> {
    let there = |p: &&[u8; 4]| p[3] >= THERE;
    let texels: Vec<[u8; 3]> = picture.values.iter().filter(there).map(|[r, g, b, _]| [*r, *g, *b]).collect();
    let colors: Vec<okolors::deps::palette::Srgb<u8>> = texels.iter().map(|c| (*c).into()).collect();
    let Some(finder) = Okolors::new(&colors) else { return vec![] };
    let found = finder
        .palette_size(PaletteSize::from_u8_clamped(count.clamp(2, 16)))
        .kmeans_options(KmeansOptions::new().sampling_factor(1.0))
        .srgb8_palette();
    let mut shares: Vec<([u8; 3], usize)> = found.into_iter().map(|c| (c.into(), 0)).collect();
    shares.sort_unstable();
    shares.dedup_by_key(|c| c.0);
    let middles: Vec<[f32; 3]> = shares.iter().map(|(c, _)| oklab(*c)).collect();
    for texel in &texels {
        let at = oklab(*texel);
        let nearest = (0..middles.len()).min_by(|a, b| distance(at, middles[*a]).total_cmp(&distance(at, middles[*b])));
        if let Some(k) = nearest {
            shares[k].1 += 1;
        }
    }
    // Two that look alike can leave one without a texel of its own.
    shares.retain(|(_, n)| *n > 0);
    shares.sort_by_key(|(_, n)| std::cmp::Reverse(*n));
    shares.into_iter().map(|(c, n)| (c, n as f32 / texels.len() as f32)).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

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
}

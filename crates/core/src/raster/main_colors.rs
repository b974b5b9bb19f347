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

//! A screenshot, for looking at pixels.

use std::collections::{BTreeMap, BTreeSet};

/// RGBA8 pixels, row by row.
#[derive(Debug, Clone, PartialEq)]
pub struct Picture {
    /// Pixels across.
    pub width: u32,
    /// Pixels down.
    pub height: u32,
    pixels: Vec<[u8; 4]>,
}

impl Picture {
    /// Decodes a PNG of 8 bits per channel.
    ///
    /// # Panics
    /// When it is none: the browser wrote it.
    pub fn decode(png: &[u8]) -> Picture {
        let mut reader = png::Decoder::new(std::io::Cursor::new(png)).read_info().expect("the browser writes PNG");
        let mut bytes = vec![0; reader.output_buffer_size().expect("it fits into memory")];
        let info = reader.next_frame(&mut bytes).expect("the picture is whole");
        let per = info.color_type.samples();
        let pixel = |p: &[u8]| match per {
            1 => [p[0], p[0], p[0], 255],
            3 => [p[0], p[1], p[2], 255],
            _ => [p[0], p[1], p[2], p[3]],
        };
        let pixels = bytes[..info.buffer_size()].chunks_exact(per).map(pixel).collect();
        Picture { width: info.width, height: info.height, pixels }
    }

    /// The middle three quarters, without what lies over the borders of the view.
    pub fn middle(&self) -> Picture {
        let (x, y) = (self.width / 8, self.height / 8);
        self.part([x, y], [self.width - 2 * x, self.height - 2 * y])
    }

    /// A part of it: its upper left corner and its size.
    pub fn part(&self, [x, y]: [u32; 2], [width, height]: [u32; 2]) -> Picture {
        let row = |r: u32| {
            let start = ((y + r) * self.width + x) as usize;
            self.pixels[start..start + width as usize].iter().copied()
        };
        Picture { width, height, pixels: (0..height).flat_map(row).collect() }
    }

    /// Share of the pixels that differ from another picture by more than `by` in some channel.
    ///
    /// # Panics
    /// When the sizes differ.
    pub fn difference(&self, other: &Picture, by: u8) -> f64 {
        assert_eq!((self.width, self.height), (other.width, other.height), "pictures of one size are compared");
        let differs = |(a, b): &(&[u8; 4], &[u8; 4])| a.iter().zip(*b).any(|(x, y)| x.abs_diff(*y) > by);
        self.pixels.iter().zip(&other.pixels).filter(differs).count() as f64 / self.pixels.len() as f64
    }

    /// Share of the pixels for which `is` holds.
    pub fn share(&self, is: impl Fn([u8; 4]) -> bool) -> f64 {
        self.pixels.iter().filter(|p| is(**p)).count() as f64 / self.pixels.len() as f64
    }

    /// Share of the pixels that differ from the one to the right by more than `by` in some channel: where edges are sharp.
    pub fn steps(&self, by: u8) -> f64 {
        let rows = self.pixels.chunks_exact(self.width as usize);
        let apart = |p: &&[[u8; 4]]| p[0].iter().zip(&p[1]).any(|(a, b)| a.abs_diff(*b) > by);
        rows.map(|row| row.windows(2).filter(apart).count()).sum::<usize>() as f64 / self.pixels.len() as f64
    }

    /// The colours that at least that share of the pixels have, to the bit, but for the view's neutral surround.
    pub fn shades(&self, least: f64) -> BTreeSet<[u8; 3]> {
        let mut counts: BTreeMap<[u8; 3], usize> = BTreeMap::new();
        for [r, g, b, _] in &self.pixels {
            *counts.entry([*r, *g, *b]).or_default() += 1;
        }
        let often = |n: usize| n as f64 >= least * self.pixels.len() as f64;
        counts.into_iter().filter(|(c, n)| often(*n) && *c != [0x77; 3]).map(|(c, _)| c).collect()
    }

    /// Mean of red, green and blue over the pixels that are not the view's neutral surround.
    pub fn mean_of_piece(&self) -> [f64; 3] {
        let piece: Vec<_> = self.pixels.iter().filter(|p| p[..3] != [0x77; 3]).collect();
        [0, 1, 2].map(|c| piece.iter().map(|p| f64::from(p[c])).sum::<f64>() / piece.len().max(1) as f64)
    }
}

/// Whether a pixel is plainly red.
pub fn red([r, g, b, _]: [u8; 4]) -> bool {
    r > 60 && f32::from(r) > 1.8 * f32::from(g.max(b))
}

/// Whether a pixel is plainly blue.
pub fn blue([r, g, b, _]: [u8; 4]) -> bool {
    b > 60 && f32::from(b) > 1.8 * f32::from(r.max(g))
}

//! Pictures that masks and finishes are made of: numbers per texel, at ever coarser sizes, so that what is finer than a texel of the piece is evened out.
//!
//! A picture is held as it was decoded; what is read of it is made when first asked for, in as few bits as it needs: a grey of 8 bits stays one.

use std::sync::{Arc, OnceLock};

use rayon::prelude::*;

use super::picture::{Picture, PictureChannel, around};
use super::srgb::decode;

/// A picture for masks.
pub struct MaskPicture {
    picture: Picture,
    /// Red, green, blue, alpha and grey as they are stored; red, green and blue as linear colours; and the components of normals, green up and green down.
    made: [OnceLock<Arc<Levels>>; 14],
}

impl std::fmt::Debug for MaskPicture {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "MaskPicture {:?}", self.picture.size())
    }
}

impl PartialEq for MaskPicture {
    fn eq(&self, other: &Self) -> bool {
        self.picture == other.picture
    }
}

/// One number per texel of a picture, and ever coarser versions.
#[derive(Debug)]
pub struct Levels {
    /// The finest first, each half of the one before.
    pub levels: Vec<Level>,
    /// The mean of all numbers.
    pub mean: f32,
    /// The least and the greatest that there can be.
    pub range: (f32, f32),
}

/// Numbers of a picture at one size, row by row from the top.
#[derive(Debug, PartialEq)]
pub struct Level {
    /// Texels along u.
    pub width: u32,
    /// Texels along v.
    pub height: u32,
    stored: Stored,
    /// A stored number times the first, plus the second, is what is meant.
    scale: (f32, f32),
}

#[derive(Debug, PartialEq)]
enum Stored {
    Bytes(Vec<u8>),
    Words(Vec<u16>),
}

/// The greatest stored number of 16 bits: even, so that there is one in the middle.
const MOST: f32 = 65534.0;

impl Level {
    /// Numbers from `low` to `high` in 16 bits, worked out texel by texel.
    pub fn words(
        (width, height): (u32, u32),
        (low, high): (f32, f32),
        number: impl Fn(usize) -> f32 + Sync + Send,
    ) -> Level {
        let span = high - low;
        let word = |i: usize| (((number(i) - low) / span).clamp(0.0, 1.0) * MOST + 0.5) as u16;
        let all = (0..width as usize * height as usize).into_par_iter().with_min_len(1 << 14).map(word);
        Level { width, height, stored: Stored::Words(all.collect()), scale: (span / MOST, low) }
    }

    /// The number of a texel.
    #[inline]
    pub fn at(&self, i: usize) -> f32 {
        let raw = match &self.stored {
            Stored::Bytes(all) => f32::from(all[i]),
            Stored::Words(all) => f32::from(all[i]),
        };
        raw * self.scale.0 + self.scale.1
    }

    /// The mean of the four texels around a place of the unit square; places outside are drawn to the border.
    pub fn smooth(&self, uv: [f32; 2]) -> f32 {
        around(self.width, self.height, uv).iter().map(|(i, w)| self.at(*i) * w).sum()
    }

    /// Bytes that it takes in memory.
    pub fn bytes(&self) -> usize {
        match &self.stored {
            Stored::Bytes(all) => all.len(),
            Stored::Words(all) => all.len() * 2,
        }
    }

    /// Each of four texels' mean; an odd last row or column is left out.
    fn halved(&self, range: (f32, f32)) -> Level {
        let (width, height) = (self.width / 2, self.height / 2);
        let at = |x: usize, y: usize| self.at(y * self.width as usize + x);
        Level::words((width, height), range, |i| {
            let (x, y) = (2 * (i % width as usize), 2 * (i / width as usize));
            0.25 * (at(x, y) + at(x + 1, y) + at(x, y + 1) + at(x + 1, y + 1))
        })
    }
}

impl Levels {
    /// The number at a place of the unit square, evened out over about `texels` of the finest level's texels.
    pub fn evened(&self, uv: [f32; 2], texels: f32) -> f32 {
        let level = libm::log2f(texels.max(1.0));
        let (low, between) = (level.floor(), level - level.floor());
        let at = |l: f32| self.levels[(l as usize).min(self.levels.len() - 1)].smooth(uv);
        let fine = at(low);
        if between > 0.0 { fine + (at(low + 1.0) - fine) * between } else { fine }
    }
}

impl MaskPicture {
    /// Of a decoded picture.
    pub fn new(picture: Picture) -> Self {
        Self { picture, made: Default::default() }
    }

    /// About how many bytes it takes in memory: itself, and what has been made of it so far or soon will be.
    pub fn bytes(&self) -> usize {
        let made = self.made.iter().filter_map(|m| m.get()).flat_map(|m| &m.levels).map(Level::bytes).sum::<usize>();
        self.picture.bytes_held() + made.max(self.picture.len() * 8 / 3)
    }

    /// Height over width.
    pub fn aspect(&self) -> f32 {
        let [width, height] = self.picture.size();
        height as f32 / width.max(1) as f32
    }

    /// One of its numbers, clamped to 0…1: `red`, `green`, `blue`, `alpha`, or its grey.
    pub fn levels(&self, channel: &str) -> Arc<Levels> {
        use PictureChannel::{Alpha, Blue, Green, Grey, Red};
        let at = ["red", "green", "blue", "alpha"].iter().position(|c| *c == channel).unwrap_or(4);
        let channel = [Red, Green, Blue, Alpha, Grey][at];
        self.made(at, (0.0, 1.0), |i| self.picture.number(i, channel))
    }

    /// Red, green or blue of its colours, linear, clamped to 0…1.
    pub fn linear(&self, component: usize) -> Arc<Levels> {
        let linear = self.picture.is_linear();
        let number = |i: usize| {
            let v = self.picture.texel(i)[component];
            if linear { v } else { decode(v.clamp(0.0, 1.0)) }
        };
        self.made(5 + component, (0.0, 1.0), number)
    }

    /// A component of its normals, −1…1, y up the picture: averaged as vectors, so that they get shorter where they scatter.
    pub fn direction(&self, component: usize, green_down: bool) -> Arc<Levels> {
        let at = 8 + component + if green_down { 3 } else { 0 };
        let number = |i: usize| {
            let [x, y, z] = self.picture.normal(i, green_down);
            let length = (x * x + y * y + z * z).sqrt().max(1e-6);
            [x, y, z][component] / length
        };
        self.made(at, (-1.0, 1.0), number)
    }

    fn made(&self, at: usize, range: (f32, f32), number: impl Fn(usize) -> f32 + Sync + Send) -> Arc<Levels> {
        let make = || {
            let [width, height] = self.picture.size();
            let finest = if at < 5 && self.picture.is_grey_byte() {
                // As it is stored, and one byte a texel.
                let bytes = (0..self.picture.len()).map(|i| (number(i) * 255.0 + 0.5) as u8).collect();
                Level { width, height, stored: Stored::Bytes(bytes), scale: (1.0 / 255.0, 0.0) }
            } else {
                Level::words((width, height), range, number)
            };
            let mean = (0..self.picture.len()).map(|i| f64::from(finest.at(i))).sum::<f64>();
            let mean = (mean / self.picture.len().max(1) as f64) as f32;
            let mut levels = vec![finest];
            while let Some(last) = levels.last().filter(|g| g.width > 1 && g.height > 1) {
                let half = last.halved(range);
                levels.push(half);
            }
            Arc::new(Levels { levels, mean, range })
        };
        self.made[at].get_or_init(make).clone()
    }
}

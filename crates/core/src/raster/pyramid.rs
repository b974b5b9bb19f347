//! Pictures that masks are made of: a number per texel, at ever coarser sizes, so that what is finer than a texel of the piece is evened out.

use std::sync::{Arc, OnceLock};

use super::picture::Grid;
use super::srgb::decode;

/// A picture for masks. What is read of it is worked out once per channel, when first asked for.
#[derive(Debug, Clone, PartialEq)]
pub struct MaskPicture {
    rgba: Grid<[f32; 4]>,
    /// Whether its numbers are linear, and not sRGB.
    linear: bool,
    /// Red, green, blue, alpha and grey as they are stored, and red, green and blue as linear colours.
    channels: [OnceLock<Arc<Levels>>; 8],
}

/// One number per texel of a picture, and ever coarser versions.
#[derive(Debug, PartialEq)]
pub struct Levels {
    /// The finest first, each half of the one before.
    pub grids: Vec<Grid<f32>>,
    /// The mean of all numbers.
    pub mean: f32,
}

impl MaskPicture {
    /// Of a picture's numbers: red, green, blue, alpha; and whether they are linear.
    pub fn new(rgba: Grid<[f32; 4]>, linear: bool) -> Self {
        Self { rgba, linear, channels: Default::default() }
    }

    /// About how many bytes it takes in memory once its channels are read.
    pub fn bytes(&self) -> usize {
        self.rgba.values.len() * 24
    }

    /// Height over width.
    pub fn aspect(&self) -> f32 {
        self.rgba.height as f32 / self.rgba.width.max(1) as f32
    }

    /// One of its numbers, clamped to 0…1: `red`, `green`, `blue`, `alpha`, or its grey.
    pub fn levels(&self, channel: &str) -> Arc<Levels> {
        let at = ["red", "green", "blue", "alpha"].iter().position(|c| *c == channel).unwrap_or(4);
        let number = |t: &[f32; 4]| if at < 4 { t[at] } else { 0.2126 * t[0] + 0.7152 * t[1] + 0.0722 * t[2] };
        self.made(at, number)
    }

    /// Red, green or blue of its colours, linear, clamped to 0…1.
    pub fn linear(&self, component: usize) -> Arc<Levels> {
        let linear = self.linear;
        self.made(5 + component, |t| if linear { t[component] } else { decode(t[component].clamp(0.0, 1.0)) })
    }

    fn made(&self, at: usize, number: impl Fn(&[f32; 4]) -> f32) -> Arc<Levels> {
        let make = || {
            let values: Vec<f32> = self.rgba.values.iter().map(|t| number(t).clamp(0.0, 1.0)).collect();
            let mean = values.iter().map(|v| f64::from(*v)).sum::<f64>() / values.len().max(1) as f64;
            let mut grids = vec![Grid { width: self.rgba.width, height: self.rgba.height, values }];
            while let Some(last) = grids.last().filter(|g| g.width > 1 && g.height > 1) {
                let half = halved(last);
                grids.push(half);
            }
            Arc::new(Levels { grids, mean: mean as f32 })
        };
        self.channels[at].get_or_init(make).clone()
    }
}

/// Each of four texels' mean; an odd last row or column is left out.
fn halved(grid: &Grid<f32>) -> Grid<f32> {
    let (width, height) = (grid.width / 2, grid.height / 2);
    let at = |x: u32, y: u32| grid.values[(y * grid.width + x) as usize];
    let mean = |x: u32, y: u32| 0.25 * (at(x, y) + at(x + 1, y) + at(x, y + 1) + at(x + 1, y + 1));
    let values = (0..height).flat_map(|y| (0..width).map(move |x| (2 * x, 2 * y))).map(|(x, y)| mean(x, y)).collect();
    Grid { width, height, values }
}

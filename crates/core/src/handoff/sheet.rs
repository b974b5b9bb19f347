//! Sheets: pictures side by side in rows, each with a line of words under it.

use std::convert::Infallible;

use embedded_graphics::mono_font::MonoTextStyle;
use embedded_graphics::mono_font::iso_8859_1::FONT_7X13;
use embedded_graphics::pixelcolor::Rgb888;
use embedded_graphics::prelude::*;
use embedded_graphics::text::{Alignment, Text};

use super::png;

/// Pixels between pictures, and around all of them.
const GAP: u32 = 10;
/// Pixels of a line of words.
const LINE: u32 = 20;
/// The sheet's own colour, and that of words.
const PAPER: [u8; 3] = [0xee, 0xec, 0xe6];
const INK: [u8; 3] = [0x26, 0x2a, 0x2c];

/// A picture of a sheet.
#[derive(Debug, Clone)]
pub struct Cell {
    /// RGBA8, rows from the top.
    pub picture: Vec<u8>,
    /// What stands under it, a line each.
    pub words: Vec<String>,
}

struct Canvas {
    width: u32,
    height: u32,
    pixels: Vec<u8>,
}

impl OriginDimensions for Canvas {
    fn size(&self) -> Size {
        Size::new(self.width, self.height)
    }
}

impl DrawTarget for Canvas {
    type Color = Rgb888;
    type Error = Infallible;

    fn draw_iter<I: IntoIterator<Item = Pixel<Rgb888>>>(&mut self, pixels: I) -> Result<(), Infallible> {
        for Pixel(at, color) in pixels {
            if let (Ok(x), Ok(y)) = (u32::try_from(at.x), u32::try_from(at.y))
                && x < self.width
                && y < self.height
            {
                let i = ((y * self.width + x) * 4) as usize;
                self.pixels[i..i + 3].copy_from_slice(&[color.r(), color.g(), color.b()]);
            }
        }
        Ok(())
    }
}

/// Draws pictures of one size, `across` to a row, as one PNG.
pub fn sheet(cells: &[Cell], (width, height): (u32, u32), across: u32) -> Vec<u8> {
    let across = across.clamp(1, cells.len().max(1) as u32);
    let rows = (cells.len() as u32).div_ceil(across);
    let lines = cells.iter().map(|c| c.words.len()).max().unwrap_or(0) as u32;
    let (step_x, step_y) = (width + GAP, height + lines * LINE + GAP);
    let size = (across * step_x + GAP, rows * step_y + GAP);
    let paper = [PAPER[0], PAPER[1], PAPER[2], 255];
    let mut canvas = Canvas { width: size.0, height: size.1, pixels: paper.repeat((size.0 * size.1) as usize) };
    for (k, cell) in cells.iter().enumerate() {
        let (left, top) = (GAP + k as u32 % across * step_x, GAP + k as u32 / across * step_y);
        canvas.lay(&cell.picture, width, (left, top));
        for (i, words) in cell.words.iter().enumerate() {
            let at = Point::new((left + width / 2) as i32, (top + height + i as u32 * LINE + LINE * 3 / 4) as i32);
            let style = MonoTextStyle::new(&FONT_7X13, Rgb888::new(INK[0], INK[1], INK[2]));
            let fits = (width / FONT_7X13.character_size.width) as usize;
            let Ok(_) = Text::with_alignment(&cut(words, fits), at, style, Alignment::Center).draw(&mut canvas);
        }
    }
    png::rgba8(&canvas.pixels, size.0, size.1)
}

impl Canvas {
    fn lay(&mut self, picture: &[u8], width: u32, (left, top): (u32, u32)) {
        for (p, pixel) in picture.chunks_exact(4).enumerate() {
            let (x, y) = (left + p as u32 % width, top + p as u32 / width);
            let (i, alpha) = (((y * self.width + x) * 4) as usize, u32::from(pixel[3]));
            for c in 0..3 {
                let below = u32::from(self.pixels[i + c]);
                self.pixels[i + c] = ((u32::from(pixel[c]) * alpha + below * (255 - alpha)) / 255) as u8;
            }
        }
    }
}

/// Words that fit. The last of them, which is the value, stays; dots stand for the end of what is before it.
pub fn cut(words: &str, fits: usize) -> String {
    if words.chars().count() <= fits {
        return words.to_owned();
    }
    let value = words.rsplit_once(' ').map_or("", |(_, value)| value);
    let room = fits.saturating_sub(value.chars().count() + 3);
    let (kept, end) = if value.is_empty() || room == 0 {
        (fits.saturating_sub(2), String::new())
    } else {
        (room, format!(" {value}"))
    };
    let kept: String = words.chars().take(kept).collect();
    format!("{}..{end}", kept.trim_end())
}

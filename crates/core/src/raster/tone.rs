//! What a spot of a photograph says: its colour, and against a grey that is named, how much light it gives back.

use super::picture::Grid;
use super::srgb::{decode, encode_u8};

/// Half the side of the square around a spot whose mean is taken, as a share of the picture's longer side.
const REACH: f32 = 0.004;
/// Rec. 709.
const LUMINANCE: [f32; 3] = [0.2126, 0.7152, 0.0722];

/// What a spot of a picture looks like.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Tone {
    /// Linear Rec. 709.
    pub linear: [f32; 3],
}

impl Tone {
    /// The mean of what lies around a place of the unit square, v down, in linear light, by how opaque it is; none where all of it is clear.
    pub fn of(picture: &Grid<[u8; 4]>, [u, v]: [f32; 2]) -> Option<Tone> {
        let (w, h) = (picture.width as i64, picture.height as i64);
        let reach = (REACH * w.max(h) as f32).round() as i64;
        let at = |t: f32, n: i64| ((t.clamp(0.0, 1.0) * n as f32) as i64).min(n - 1);
        let (x, y) = (at(u, w), at(v, h));
        let (mut sum, mut weight) = ([0.0; 3], 0.0);
        for y in (y - reach).max(0)..=(y + reach).min(h - 1) {
            for x in (x - reach).max(0)..=(x + reach).min(w - 1) {
                let texel = picture.values[(y * w + x) as usize];
                let there = f32::from(texel[3]) / 255.0;
                weight += there;
                (0..3).for_each(|c| sum[c] += decode(f32::from(texel[c]) / 255.0) * there);
            }
        }
        (weight > 0.0).then(|| Tone { linear: sum.map(|v| v / weight) })
    }

    /// As sRGB bytes.
    pub fn color(&self) -> [u8; 3] {
        self.linear.map(encode_u8)
    }

    /// Relative luminance, 0…1 of the file's white.
    pub fn luminance(&self) -> f32 {
        self.linear.iter().zip(LUMINANCE).map(|(v, w)| v * w).sum()
    }

    /// The share of the light that it gives back, in each primary, where another spot under the same light is a grey that gives back `is` of it. What that is tinted by is the light's
    /// colour, and goes (scaling of each primary, after von Kries).
    pub fn against(&self, grey: &Tone, is: f32) -> Tone {
        // Black gives no measure.
        Tone { linear: std::array::from_fn(|c| self.linear[c] / grey.linear[c].max(1e-4) * is) }
    }
}

//! Pictures from files: PNG (8 and 16 bits), JPEG, WebP, TIFF, OpenEXR and Radiance HDR, through `image`.
//!
//! What a picture is used for decides how its numbers are taken: as a measured value they stand as they are, as a colour they are sRGB.

use std::io::Cursor;

use image::{DynamicImage, ImageDecoder, ImageEncoder, ImageReader, Limits};

use super::luminance::read_grey;
use super::srgb::encode_u8;

/// The most texels along a side.
pub const MAX_SIDE: u32 = 16_384;
const MAX_BYTES: u64 = 1 << 30;
/// The most bytes that a picture and what is made of it may take in memory.
const MAX_HELD: u64 = 3 << 29;
/// What is made of a picture for masks, in bytes a texel: numbers of 16 bits, and half of them, a quarter and so on.
const MADE: f64 = 2.0 * 4.0 / 3.0;

/// Why a picture was refused.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum PictureError {
    /// Not a picture, damaged, or of a kind that is not read.
    #[error(
        "“{name}” can't be read as a picture: {why}. Give a PNG, JPEG, WebP, TIFF, EXR or HDR, exported again if it was one already."
    )]
    Unreadable {
        /// File name.
        name: String,
        /// The reader's words.
        why: String,
    },
    /// Past a limit.
    #[error(
        "“{name}” is larger than {MAX_SIDE} texels along a side, or needs more than 1.5 GB of memory. Scale it down, or keep one channel of it, and give it again."
    )]
    TooLarge {
        /// File name.
        name: String,
    },
}

/// A decoded picture. Row by row from the top.
#[derive(Debug, Clone, PartialEq)]
pub struct Picture(DynamicImage);

/// Which number of each texel is meant.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, Default, serde::Serialize, serde::Deserialize, ts_rs::TS, schemars::JsonSchema,
)]
#[serde(rename_all = "snake_case")]
pub enum PictureChannel {
    /// The luminance (Rec. 709 weights), or the one channel of a grey picture.
    #[default]
    Grey,
    /// Red.
    Red,
    /// Green.
    Green,
    /// Blue.
    Blue,
    /// Alpha.
    Alpha,
}

/// One number per texel.
#[derive(Debug, Clone, PartialEq)]
pub struct Grid<T> {
    /// Texels along u.
    pub width: u32,
    /// Texels along v.
    pub height: u32,
    /// Row by row from the top.
    pub values: Vec<T>,
}

impl Picture {
    /// Decodes a file; the kind is told by content.
    ///
    /// # Errors
    /// [`PictureError`]; sizes are checked before anything is allocated for them.
    pub fn decode(name: &str, bytes: &[u8]) -> Result<Picture, PictureError> {
        let unreadable = |why: String| PictureError::Unreadable { name: name.into(), why };
        let open = || ImageReader::new(Cursor::new(bytes)).with_guessed_format();
        let mut reader = open().map_err(|e| unreadable(e.to_string()))?;
        let mut limits = Limits::default();
        limits.max_image_width = Some(MAX_SIDE);
        limits.max_image_height = Some(MAX_SIDE);
        limits.max_alloc = Some(MAX_BYTES);
        reader.limits(limits);
        // Damaged files have made decoders panic before; what was read so far is only a new value.
        let decoded = std::panic::catch_unwind(std::panic::AssertUnwindSafe(|| {
            let decoder = reader.into_decoder()?;
            let (width, height) = decoder.dimensions();
            let made = f64::from(width) * f64::from(height) * MADE;
            if decoder.total_bytes() as f64 + made > MAX_HELD as f64 {
                return Ok(None);
            }
            DynamicImage::from_decoder(decoder).map(Some)
        }));
        let grey = || read_grey(bytes, MAX_SIDE, MAX_BYTES);
        match decoded {
            Ok(Ok(Some(image))) => Ok(Picture(image)),
            Ok(Ok(None)) => Err(PictureError::TooLarge { name: name.into() }),
            Ok(Err(image::ImageError::Limits(_))) => Err(PictureError::TooLarge { name: name.into() }),
            Ok(Err(e)) => match std::panic::catch_unwind(grey) {
                Ok(Some(image)) => Ok(Picture(image)),
                _ => Err(unreadable(e.to_string())),
            },
            Err(_) => Err(unreadable("it is damaged".into())),
        }
    }

    /// Width and height in texels.
    pub fn size(&self) -> [u32; 2] {
        [self.0.width(), self.0.height()]
    }

    /// Whether its numbers are stored in bytes.
    pub fn is_eight_bit(&self) -> bool {
        let color = self.0.color();
        color.bytes_per_pixel() == color.channel_count()
    }

    /// Whether its colours are linear: those of floating-point files are.
    pub fn is_linear(&self) -> bool {
        matches!(self.0.color(), image::ColorType::Rgb32F | image::ColorType::Rgba32F)
    }

    /// Whether it holds one number a texel, stored in a byte.
    pub fn is_grey_byte(&self) -> bool {
        matches!(self.0, DynamicImage::ImageLuma8(_))
    }

    /// Bytes that it takes in memory.
    pub fn bytes_held(&self) -> usize {
        self.0.as_bytes().len()
    }

    /// Number of texels.
    pub fn len(&self) -> usize {
        self.0.width() as usize * self.0.height() as usize
    }

    /// Whether it has no texels.
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// The numbers of a texel as they are stored, red, green, blue and alpha: 0…1 for integer pictures, as they stand for float ones; NaN becomes 0. Nothing is unpacked but this texel.
    pub fn texel(&self, i: usize) -> [f32; 4] {
        use DynamicImage as D;
        let byte = |v: u8| f32::from(v) / 255.0;
        let word = |v: u16| f32::from(v) / 65535.0;
        let float = |v: f32| if v.is_finite() { v } else { 0.0 };
        macro_rules! of {
            ($b:expr, 1, $f:expr) => {{
                let v = $f($b.as_raw()[i]);
                [v, v, v, 1.0]
            }};
            ($b:expr, 2, $f:expr) => {{
                let s = &$b.as_raw()[2 * i..2 * i + 2];
                [$f(s[0]), $f(s[0]), $f(s[0]), $f(s[1])]
            }};
            ($b:expr, 3, $f:expr) => {{
                let s = &$b.as_raw()[3 * i..3 * i + 3];
                [$f(s[0]), $f(s[1]), $f(s[2]), 1.0]
            }};
            ($b:expr, 4, $f:expr) => {{
                let s = &$b.as_raw()[4 * i..4 * i + 4];
                [$f(s[0]), $f(s[1]), $f(s[2]), $f(s[3])]
            }};
        }
        match &self.0 {
            D::ImageLuma8(b) => of!(b, 1, byte),
            D::ImageLumaA8(b) => of!(b, 2, byte),
            D::ImageRgb8(b) => of!(b, 3, byte),
            D::ImageRgba8(b) => of!(b, 4, byte),
            D::ImageLuma16(b) => of!(b, 1, word),
            D::ImageLumaA16(b) => of!(b, 2, word),
            D::ImageRgb16(b) => of!(b, 3, word),
            D::ImageRgba16(b) => of!(b, 4, word),
            D::ImageRgb32F(b) => of!(b, 3, float),
            D::ImageRgba32F(b) => of!(b, 4, float),
            // The list is open; a kind to come is read the long way.
            other => {
                let (x, y) = (i as u32 % other.width(), i as u32 / other.width());
                image::GenericImageView::get_pixel(other, x, y).0.map(byte)
            }
        }
    }

    /// One number of a texel as it is stored.
    pub fn number(&self, i: usize, channel: PictureChannel) -> f32 {
        let [r, g, b, a] = self.texel(i);
        match channel {
            PictureChannel::Grey => 0.2126 * r + 0.7152 * g + 0.0722 * b,
            PictureChannel::Red => r,
            PictureChannel::Green => g,
            PictureChannel::Blue => b,
            PictureChannel::Alpha => a,
        }
    }

    /// A texel of a picture of tangent-space normals, y up the texture: −1…1 as glTF holds them, by their length as they are stored. Numbers of normals are no colours: they are
    /// never sRGB.
    pub fn normal(&self, i: usize, green_down: bool) -> [f32; 3] {
        let [x, y, z, _] = self.texel(i);
        // The middle of what 8-bit pictures are written with is 128 of 255.
        let straight = |c: f32| if self.is_eight_bit() { (c * 255.0 - 128.0) / 127.0 } else { c * 2.0 - 1.0 };
        let [x, y, z] = [x, y, z].map(straight);
        [x, if green_down { -y } else { y }, z]
    }

    fn grid<T>(&self, values: Vec<T>) -> Grid<T> {
        Grid { width: self.0.width(), height: self.0.height(), values }
    }

    /// One number per texel as it is stored.
    pub fn numbers(&self, channel: PictureChannel) -> Grid<f32> {
        self.grid((0..self.len()).map(|i| self.number(i, channel)).collect())
    }

    /// Four numbers per texel, red, green, blue and alpha, as they are stored.
    pub fn quadruples(&self) -> Grid<[f32; 4]> {
        self.grid((0..self.len()).map(|i| self.texel(i)).collect())
    }

    /// The picture drawn down to at most `side` texels along each side, as sRGB bytes with alpha. What is transparent lends no colour to what is beside it.
    pub fn preview(&self, side: u32) -> Grid<[u8; 4]> {
        let mut whole = self.0.to_rgba8();
        let clear = self.0.color().has_alpha();
        let times = |v: u8, a: u8| ((u32::from(v) * u32::from(a) + 127) / 255) as u8;
        let over = |v: u8, a: u8| ((u32::from(v) * 255 + u32::from(a) / 2) / u32::from(a).max(1)).min(255) as u8;
        if self.0.width().max(self.0.height()) > side {
            if clear {
                whole.pixels_mut().for_each(|p| (0..3).for_each(|c| p.0[c] = times(p.0[c], p.0[3])));
            }
            whole = DynamicImage::ImageRgba8(whole).thumbnail(side, side).to_rgba8();
            if clear {
                whole.pixels_mut().for_each(|p| (0..3).for_each(|c| p.0[c] = over(p.0[c], p.0[3])));
            }
        }
        Grid { width: whole.width(), height: whole.height(), values: whole.pixels().map(|p| p.0).collect() }
    }

    /// The same as it looks: linear colours are encoded.
    pub fn shown(&self, side: u32) -> Grid<[u8; 4]> {
        let mut small = self.preview(side);
        if self.is_linear() {
            // Through floats, so that darks aren't banded.
            let fine =
                self.0.resize_exact(small.width, small.height, image::imageops::FilterType::Triangle).to_rgba32f();
            for (texel, linear) in small.values.iter_mut().zip(fine.pixels()) {
                (0..3).for_each(|c| texel[c] = encode_u8(linear.0[c]));
            }
        }
        small
    }

    /// The same as a JPEG, for what is seen large; none where something of it is clear, which JPEG has no place for.
    pub fn jpeg(&self, side: u32) -> Option<Vec<u8>> {
        if self.0.color().has_alpha() {
            return None;
        }
        let small = self.shown(side);
        let rgb: Vec<u8> = small.values.iter().flat_map(|t| [t[0], t[1], t[2]]).collect();
        let mut out = vec![];
        let encoder = image::codecs::jpeg::JpegEncoder::new_with_quality(&mut out, 90);
        let written = encoder.write_image(&rgb, small.width, small.height, image::ExtendedColorType::Rgb8);
        written.is_ok().then_some(out)
    }

    /// sRGB bytes per texel.
    pub fn bytes(&self) -> Grid<[u8; 3]> {
        self.grid(self.0.to_rgb8().pixels().map(|p| p.0).collect())
    }
}

impl<T: Copy> Grid<T> {
    /// The texel at a place of the unit square, without mixing; places outside are drawn to the border.
    pub fn nearest(&self, [u, v]: [f32; 2]) -> T {
        let at = |t: f32, n: u32| ((t * n as f32) as i64).clamp(0, i64::from(n) - 1) as usize;
        self.values[at(v, self.height) * self.width as usize + at(u, self.width)]
    }

    /// The four texels around a place of the unit square and their weights (bilinear); places outside are drawn to the border.
    pub fn around(&self, uv: [f32; 2]) -> [(T, f32); 4] {
        around(self.width, self.height, uv).map(|(i, w)| (self.values[i], w))
    }
}

/// The indices of the four texels around a place of the unit square and their weights (bilinear); places outside are drawn to the border.
pub fn around(width: u32, height: u32, [u, v]: [f32; 2]) -> [(usize, f32); 4] {
    let axis = |t: f32, n: u32| {
        let t = (t * n as f32 - 0.5).clamp(0.0, n as f32 - 1.0);
        let low = t as u32;
        (low as usize, (low + 1).min(n - 1) as usize, t - low as f32)
    };
    let ((x0, x1, fx), (y0, y1, fy)) = (axis(u, width), axis(v, height));
    let at = |x: usize, y: usize| y * width as usize + x;
    [
        (at(x0, y0), (1.0 - fx) * (1.0 - fy)),
        (at(x1, y0), fx * (1.0 - fy)),
        (at(x0, y1), (1.0 - fx) * fy),
        (at(x1, y1), fx * fy),
    ]
}

impl Grid<f32> {
    /// The mean of the four texels around a place.
    pub fn smooth(&self, uv: [f32; 2]) -> f32 {
        self.around(uv).iter().map(|(v, w)| v * w).sum()
    }
}

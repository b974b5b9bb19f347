//! Finishes from pictures: what was set aside, what it was told to be, and what is to be laid.

use dustcoat_core::document::pictured::{Shows, Span};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// A picture that was given and is not used yet.
#[derive(Debug, Clone, Serialize, Deserialize, TS)]
pub struct SetAside {
    /// blake3 of the file.
    pub hash: String,
    /// Its name.
    pub file: String,
    /// Width and height in texels.
    #[serde(default)]
    pub size: [u32; 2],
}

/// A picture of a set.
#[derive(Debug, Clone, Serialize, TS)]
pub struct ToldPicture {
    /// The picture.
    pub picture: SetAside,
    /// What it was taken to be.
    pub shows: Shows,
    /// Why.
    pub why: String,
}

/// A set of pictures, told apart.
#[derive(Debug, Clone, Serialize, TS)]
pub struct ToldPictures {
    /// What the finish may be called.
    pub name: String,
    /// Each of them, as given.
    pub pictures: Vec<ToldPicture>,
    /// All that a picture can be, with what the artist reads.
    pub shows: Vec<(Shows, String)>,
    /// How wide it can lie, in mm.
    pub width: Span,
    /// How deep its height can go, in mm.
    pub relief: Span,
}

/// Asks what a spot of a picture says.
#[derive(Debug, Clone, Deserialize, TS)]
pub struct ToneRequest {
    /// A place of the unit square, from the upper left corner.
    pub at: [f32; 2],
    /// The grey that its brightness is told against.
    #[serde(default)]
    #[ts(optional)]
    pub grey: Option<KnownGrey>,
}

/// A spot whose brightness is known.
#[derive(Debug, Clone, Deserialize, TS)]
pub struct KnownGrey {
    /// A place of the unit square, from the upper left corner.
    pub at: [f32; 2],
    /// The share of the light that it gives back, above 0 to 1.
    pub is: f32,
}

/// What a spot of a picture says.
#[derive(Debug, Clone, Serialize, TS)]
pub struct ToneView {
    /// Its colour as it is, sRGB hex.
    pub color: String,
    /// Its luminance, 0…1 of the picture's white.
    pub luminance: f32,
    /// The share of the light that it gives back, against the grey.
    pub given_back: Option<f32>,
    /// Its colour as it would be under white light that shows that grey as it is, sRGB hex.
    pub neutral: Option<String>,
}

/// A finish to be laid.
#[derive(Debug, Clone, Deserialize, TS)]
pub struct LayPictured {
    /// The revision it is laid on.
    #[ts(type = "number")]
    pub revision: i64,
    /// What the layer is called.
    pub name: String,
    /// The group it is laid in; the section itself if none is named.
    #[serde(default)]
    #[ts(optional)]
    pub inside: Option<String>,
    /// Its place there, from below.
    #[ts(type = "number")]
    pub index: usize,
    /// The pictures and what they show.
    pub pictures: Vec<(SetAside, Shows)>,
    /// How wide they lie on the piece, in mm.
    pub width: f64,
    /// Between black and white of the height, in mm.
    pub relief: f64,
    /// Whether they go on as tiles, which keeps rows and courses whole; otherwise without a repeat that is seen.
    pub tiles: bool,
}

//! Made-up pictures for pins, drawn in code: stencils, stripes, tags, tape, prints and drips of the station.
//!
//! Each is a function from a place in millimetres to a colour and how much of it is there, made of distances to shapes, so that its edges are as soft as a pixel is long.

mod drips;
pub mod letters;
mod prints;
mod shapes;
mod stencils;
mod tag;
mod tape;

use std::collections::BTreeMap;
use std::sync::{Arc, Mutex, PoisonError};

use dustcoat_core::handoff::png;
use glam::Vec2;

/// sRGB, and 0…1 how much of it is there. Where nothing is there the colour still counts: what is evened out over a clear border must not darken.
pub type Paint = ([f32; 3], f32);

/// A made-up picture.
pub struct MadePicture {
    /// Key, also the stem of its file.
    pub key: &'static str,
    /// What the artist reads.
    pub label: &'static str,
    /// One sentence of help.
    pub help: &'static str,
    /// Width and height in mm as it would be in the world.
    pub size: [f32; 2],
    /// Pixels along its width.
    pub pixels: u32,
    /// What is at a place, in mm from the lower left corner; the last number is how long a pixel is.
    pub paint: fn(Vec2, f32) -> Paint,
}

/// All of them, in the order they are offered.
pub static PICTURES: &[MadePicture] = &[
    MadePicture {
        key: "stencil-tidegate",
        label: "Stencil: name",
        help: "The station’s name in stencilled letters, with what blew under the sheet.",
        size: [240.0, 66.0],
        pixels: 1440,
        paint: stencils::name,
    },
    MadePicture {
        key: "stencil-number",
        label: "Stencil: number",
        help: "A number in a ring, sprayed through a cut sheet.",
        size: [80.0, 80.0],
        pixels: 800,
        paint: stencils::number,
    },
    MadePicture {
        key: "stencil-arrow",
        label: "Stencil: open",
        help: "Which way it opens: an arrow and a word.",
        size: [140.0, 70.0],
        pixels: 1120,
        paint: stencils::arrow,
    },
    MadePicture {
        key: "warning-stripes",
        label: "Warning stripes",
        help: "A band of slanted stripes, ochre and black.",
        size: [240.0, 40.0],
        pixels: 1440,
        paint: stencils::stripes,
    },
    MadePicture {
        key: "inspection-tag",
        label: "Inspection tag",
        help: "A card with a hole, a red head, lines and a stamp.",
        size: [60.0, 96.0],
        pixels: 720,
        paint: tag::paint,
    },
    MadePicture {
        key: "tape",
        label: "Tape",
        help: "A strip of cloth tape with torn ends.",
        size: [120.0, 38.0],
        pixels: 1200,
        paint: tape::paint,
    },
    MadePicture {
        key: "boot-print",
        label: "Boot print",
        help: "What a wet sole left: lugs and a heel, not quite whole.",
        size: [110.0, 290.0],
        pixels: 550,
        paint: prints::boot,
    },
    MadePicture {
        key: "hand-print",
        label: "Hand print",
        help: "What a greasy hand left: a palm and five fingers.",
        size: [170.0, 200.0],
        pixels: 680,
        paint: prints::hand,
    },
    MadePicture {
        key: "drips",
        label: "Drips",
        help: "Paint that ran from an edge, in drips of unlike length.",
        size: [120.0, 110.0],
        pixels: 720,
        paint: drips::paint,
    },
];

/// The picture of that key.
pub fn find(key: &str) -> Option<&'static MadePicture> {
    PICTURES.iter().find(|p| p.key == key)
}

impl MadePicture {
    /// Its file name.
    pub fn file(&self) -> String {
        format!("{}.png", self.key)
    }

    /// As a PNG. It is drawn once and held.
    pub fn png(&self) -> Arc<[u8]> {
        static HELD: Mutex<BTreeMap<&str, Arc<[u8]>>> = Mutex::new(BTreeMap::new());
        let mut held = HELD.lock().unwrap_or_else(PoisonError::into_inner);
        held.entry(self.key).or_insert_with(|| self.png_of(self.pixels).into()).clone()
    }

    /// As a small PNG, at most `side` pixels wide and high.
    pub fn small(&self, side: u32) -> Vec<u8> {
        let [width, height] = self.size;
        self.png_of((side as f32 * (width / height).min(1.0)).floor().max(1.0) as u32)
    }

    /// Pixels along its width and its height.
    pub fn pixel_size(&self) -> [u32; 2] {
        [self.pixels, self.rows(self.pixels)]
    }

    fn rows(&self, columns: u32) -> u32 {
        let [width, height] = self.size;
        (height / width * columns as f32).round().max(1.0) as u32
    }

    fn png_of(&self, columns: u32) -> Vec<u8> {
        let (pixel, rows) = (self.size[0] / columns as f32, self.rows(columns));
        let byte = |v: f32| (v.clamp(0.0, 1.0) * 255.0 + 0.5) as u8;
        let mut out = Vec::with_capacity((columns * rows * 4) as usize);
        for row in 0..rows {
            for column in 0..columns {
                let at = Vec2::new(column as f32 + 0.5, (rows - row) as f32 - 0.5) * pixel;
                let (color, alpha) = (self.paint)(at, pixel);
                out.extend(color.map(byte));
                out.push(byte(alpha));
            }
        }
        png::rgba8(&out, columns, rows)
    }
}

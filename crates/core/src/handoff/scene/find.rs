//! Which picture holds what a material wants, and how its numbers are read.

use super::super::picture::{Picture, Slot};
use crate::document::FileKind;
use crate::evaluate::Highest;
use crate::finish::channel;

/// What a material wants.
pub struct Input {
    /// The kind of the channel, `normal` for finished normals, or `occlusion`.
    pub of: &'static str,
    /// What the material calls it.
    pub called: &'static str,
    /// How many numbers it has.
    pub shape: Shape,
}

/// How many numbers something has, and what they are.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Shape {
    /// Three, which sRGB may encode.
    Color,
    /// One.
    Number,
    /// Three, from −1 to 1.
    Direction,
}

impl Input {
    /// Whether a piece with such channels has it. Occlusion is in no channel: the finished one is wanted.
    pub fn is_wanted(&self, highest: &Highest) -> bool {
        ["normal", "occlusion"].contains(&self.of)
            || highest.contains_key(self.of)
            || channel::find(self.of).is_some_and(|c| c.always)
    }
}

/// Where it was found.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Found {
    /// Which of the pictures.
    pub picture: usize,
    /// Its first channel.
    pub channel: usize,
    /// How many channels the picture has.
    pub of: usize,
    /// What a number of the file is multiplied by.
    pub scale: f32,
    /// What is added then.
    pub bias: f32,
    /// Whether sRGB encodes it.
    pub encoded: bool,
}

/// How a slot's numbers are got back from those in the file.
fn back(slot: &Slot) -> (f32, f32) {
    match (slot.range, slot.invert) {
        (Some([low, high]), false) => (high - low, low),
        (Some([low, high]), true) => (low - high, high),
        (None, false) => (1.0, 0.0),
        (None, true) => (-1.0, slot.usual[0] + slot.usual[1]),
    }
}

/// The picture that holds what is wanted.
pub fn find(input: &Input, pictures: &[Picture]) -> Option<Found> {
    pictures.iter().enumerate().find_map(|(picture, p)| {
        // Layers of an EXR are read by few.
        if p.slots.len() > 4 || (p.slots.len() == 2 && p.kind != FileKind::Exr) {
            return None;
        }
        let of = p.slots.len();
        if input.shape == Shape::Number {
            let channel = p.slots.iter().position(|s| s.from == input.of)?;
            let (scale, bias) = back(&p.slots[channel]);
            return Some(Found { picture, channel, of, scale, bias, encoded: false });
        }
        let parts = if input.shape == Shape::Color { ["r", "g", "b"] } else { ["x", "y", "z"] };
        let first: [&Slot; 3] = [p.slots.first()?, p.slots.get(1)?, p.slots.get(2)?];
        let is = |(slot, part): (&&Slot, &str)| !slot.invert && slot.from == format!("{}.{part}", input.of);
        if !first.iter().zip(parts).all(is) || first.iter().any(|s| back(s) != back(first[0])) {
            return None;
        }
        let (scale, bias) = back(first[0]);
        Some(Found { picture, channel: 0, of, scale, bias, encoded: first[0].encoded })
    })
}

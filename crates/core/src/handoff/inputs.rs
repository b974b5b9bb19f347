//! What materials want of a piece, which picture holds it, and how its numbers are read.

use super::picture::{Picture, Slot};
use super::ready;
use crate::document::{FileKind, FileRow};
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

/// What a standard surface takes of a piece.
const MATERIALX: &[Input] = &[
    Input { of: "base_color", called: "base_color", shape: Shape::Color },
    Input { of: "metallic", called: "metalness", shape: Shape::Number },
    Input { of: "roughness", called: "specular_roughness", shape: Shape::Number },
    Input { of: "normal", called: "normal", shape: Shape::Direction },
    Input { of: "opacity", called: "opacity", shape: Shape::Number },
    Input { of: "emissive", called: "emission_color", shape: Shape::Color },
    Input { of: "emissive_strength", called: "emission", shape: Shape::Number },
    Input { of: "clearcoat", called: "coat", shape: Shape::Number },
    Input { of: "clearcoat_roughness", called: "coat_roughness", shape: Shape::Number },
    Input { of: "sheen_color", called: "sheen_color", shape: Shape::Color },
    Input { of: "sheen_roughness", called: "sheen_roughness", shape: Shape::Number },
    Input { of: "anisotropy", called: "specular_anisotropy", shape: Shape::Number },
    Input { of: "anisotropy_rotation", called: "specular_rotation", shape: Shape::Number },
    Input { of: "specular", called: "specular", shape: Shape::Number },
    Input { of: "specular_color", called: "specular_color", shape: Shape::Color },
    Input { of: "ior", called: "specular_IOR", shape: Shape::Number },
    Input { of: "transmission", called: "transmission", shape: Shape::Number },
    Input { of: "height", called: "displacement", shape: Shape::Number },
];

/// What a preview surface takes of a piece.
const USD: &[Input] = &[
    Input { of: "base_color", called: "diffuseColor", shape: Shape::Color },
    Input { of: "metallic", called: "metallic", shape: Shape::Number },
    Input { of: "roughness", called: "roughness", shape: Shape::Number },
    Input { of: "normal", called: "normal", shape: Shape::Direction },
    Input { of: "occlusion", called: "occlusion", shape: Shape::Number },
    Input { of: "opacity", called: "opacity", shape: Shape::Number },
    Input { of: "emissive", called: "emissiveColor", shape: Shape::Color },
    Input { of: "clearcoat", called: "clearcoat", shape: Shape::Number },
    Input { of: "clearcoat_roughness", called: "clearcoatRoughness", shape: Shape::Number },
    Input { of: "ior", called: "ior", shape: Shape::Number },
    Input { of: "height", called: "displacement", shape: Shape::Number },
];

/// What the material of a kind of file takes.
pub fn of_kind(kind: FileKind) -> &'static [Input] {
    match kind {
        FileKind::MaterialX => MATERIALX,
        FileKind::Usd => USD,
        _ => &[],
    }
}

/// What such a file holds, in words.
pub fn told(kind: FileKind) -> &'static str {
    match kind {
        FileKind::Glb => "mesh with its material and maps inside",
        FileKind::Gltf => "mesh with its material, over pictures beside it",
        FileKind::MaterialX => "material (standard surface) over the pictures",
        FileKind::Usd => "mesh with its material (preview surface), over the pictures",
        _ => "",
    }
}

/// The pictures that a file wants and that none of those at hand is: they are written as well.
pub fn lacking(kind: FileKind, at_hand: &[Picture], highest: &Highest) -> Vec<FileRow> {
    if kind == FileKind::Gltf {
        let held = |row: &FileRow| at_hand.iter().any(|p| is_of(p, row, highest));
        return ready::inside(highest).into_iter().map(|i| i.row).filter(|row| !held(row)).collect();
    }
    let laid = of_kind(kind).iter().filter(|i| i.is_wanted(highest) && find(i, at_hand).is_none());
    laid.filter_map(|i| ready::alone(i.of)).collect()
}

/// Whether a picture is what glTF wants of a row.
pub fn is_of(picture: &Picture, row: &FileRow, highest: &Highest) -> bool {
    let alpha_goes = row.slots.len() == 4 && row.slots[3].from == "opacity" && !highest.contains_key("opacity");
    let slots = &row.slots[..row.slots.len() - usize::from(alpha_goes)];
    let plain = |s: &Slot| !s.invert && s.range == Some(s.usual);
    picture.kind == FileKind::Png
        && picture.bits == row.bits
        && picture.srgb == row.srgb
        && picture.slots.iter().map(|s| s.from.as_str()).eq(slots.iter().map(|s| s.from.as_str()))
        && picture.slots.iter().all(plain)
}

//! Pictures of a hand-off: numbers of contents rounded, encoded and packed as a layout says, and the files that they become.

use rayon::prelude::*;

use super::content::{Content, Laid};
use super::exr::{self, Plane};
use super::{PlannedSlot, png, tiff};
use crate::bake::Surface;
use crate::document::FileKind;
use crate::raster::quantise::{unorm8, unorm16};
use crate::raster::srgb::{encode, encode_u8};

/// A channel of a picture: where its numbers come from, and how they are laid on those of the file.
#[derive(Clone)]
pub(super) struct Slot {
    /// As the layout calls it.
    pub from: String,
    pub content: Content,
    /// The numbers that become 0 and 1; none where floats stay as they are.
    pub range: Option<[f32; 2]>,
    /// What `invert` turns about, where there is no range.
    pub usual: [f32; 2],
    pub invert: bool,
    /// Whether it is encoded as sRGB.
    pub encoded: bool,
}

impl Slot {
    /// The numbers that are 0 and 1 in the file, before those change places; none where all stay as they are. Floats that are inverted without a range have one all the same.
    fn told_range(&self) -> Option<[f32; 2]> {
        let mirrored = self.usual[0] + self.usual[1];
        self.range.or(self.invert.then_some([mirrored - 1.0, mirrored]))
    }

    /// The number that stands in the file, before it is rounded.
    fn placed(&self, v: f32) -> f32 {
        let Some([low, high]) = self.range else {
            return if self.invert { self.usual[0] + self.usual[1] - v } else { v };
        };
        // About its middle, where that is 0: neutral stays exactly half-way.
        let t = if low == -high { 0.5 + v / (high - low) } else { (v - low) / (high - low) };
        if self.invert { 1.0 - t } else { t }
    }
}

/// A picture as it is written.
#[derive(Clone)]
pub(super) struct Picture {
    pub kind: FileKind,
    pub bits: u32,
    pub srgb: bool,
    pub slots: Vec<Slot>,
    /// Words that go with the file, by their keys.
    pub words: Vec<(&'static str, String)>,
    /// Names of its channels, where the format has names.
    pub names: Vec<String>,
}

impl Picture {
    /// Puts numbers into the bytes of a channel.
    fn put(&self, slot: &Slot, v: f32, out: &mut [u8]) {
        let v = slot.placed(v);
        match (self.bits, self.kind) {
            (8, _) => out[0] = if slot.encoded { encode_u8(v) } else { unorm8(v) },
            (16, FileKind::Png | FileKind::Tiff) => {
                out.copy_from_slice(&unorm16(if slot.encoded { encode(v) } else { v }).to_le_bytes());
            }
            // Floats are rounded to their length when they are written.
            _ => out.copy_from_slice(&v.to_le_bytes()[..out.len()]),
        }
    }

    /// Its bytes over all rows that a surface holds, gutters filled. Floats are given in 32 bits.
    pub fn rows(&self, laid: &Laid) -> Vec<u8> {
        let (atlas, wide) = (&laid.surface.atlas, self.wide());
        let all: Vec<_> = self.slots.iter().map(|s| (s, laid.at(&s.content))).collect();
        let stride = self.texel();
        let mut values = vec![0u8; atlas.len() * stride];
        const RUN: usize = 4096;
        values.par_chunks_mut(RUN * stride).enumerate().for_each(|(run, chunk)| {
            for (k, texel) in chunk.chunks_exact_mut(stride).enumerate() {
                for ((slot, at), out) in all.iter().zip(texel.chunks_exact_mut(wide)) {
                    self.put(slot, at(run * RUN + k), out);
                }
            }
        });
        let mut empty = vec![0u8; stride];
        for (slot, out) in self.slots.iter().zip(empty.chunks_exact_mut(wide)) {
            self.put(slot, slot.content.bare(), out);
        }
        let mut out = empty.repeat(atlas.lookup.len());
        let mut copy = |to: usize, from: usize| {
            out[to * stride..(to + 1) * stride].copy_from_slice(&values[from * stride..(from + 1) * stride]);
        };
        atlas.texel.iter().enumerate().for_each(|(i, at)| copy(atlas.place(*at), i));
        atlas.gutter.iter().for_each(|(at, from)| copy(atlas.place(*at), *from as usize));
        out
    }

    /// Bytes of a channel as they are handed from here to the file.
    fn wide(&self) -> usize {
        if self.kind == FileKind::Exr { 4 } else { self.bits as usize / 8 }
    }

    /// A file that takes rows from the top on.
    pub fn begin(&self, size: u32) -> Writing<'_> {
        let form = png::Form { channels: self.slots.len(), sixteen: self.bits == 16, srgb: self.srgb };
        let png = (self.kind == FileKind::Png).then(|| png::Rows::new(size, form, &self.words));
        Writing { picture: self, size, png, held: vec![] }
    }

    /// The file of one sheet, out of the bytes of all.
    pub fn whole(&self, bytes: &[u8], sheet: usize, surface: &Surface) -> Vec<u8> {
        let size = surface.atlas.size;
        let one = (size * size) as usize * self.texel();
        let mut writing = self.begin(size);
        writing.add(&bytes[sheet * one..(sheet + 1) * one]);
        writing.finish()
    }

    /// Bytes of a texel as they are handed to the file.
    pub fn texel(&self) -> usize {
        self.wide() * self.slots.len()
    }

    /// What lies in its channels, to be told.
    pub fn told(&self) -> Vec<PlannedSlot> {
        let one = |(slot, name): (&Slot, &String)| PlannedSlot {
            channel: name.clone(),
            from: slot.from.clone(),
            range: slot.told_range(),
            invert: slot.invert,
            srgb: slot.encoded,
            unit: slot.content.unit(),
        };
        self.slots.iter().zip(&self.names).map(one).collect()
    }
}

/// A picture that is being written.
pub(super) struct Writing<'a> {
    picture: &'a Picture,
    size: u32,
    png: Option<png::Rows>,
    /// All rows, for formats that are written when they are complete.
    held: Vec<u8>,
}

impl Writing<'_> {
    /// Further rows of the texture.
    pub fn add(&mut self, bytes: &[u8]) {
        match &mut self.png {
            Some(png) => png.add(bytes),
            None => self.held.extend_from_slice(bytes),
        }
    }

    /// The file, once all rows are in.
    pub fn finish(self) -> Vec<u8> {
        let Picture { slots, words, names, bits, .. } = self.picture;
        if let Some(png) = self.png {
            return png.finish();
        }
        if self.picture.kind == FileKind::Tiff {
            let told: Vec<String> = words.iter().map(|(key, word)| format!("{key}: {word}")).collect();
            return tiff::write(&self.held, self.size, slots.len(), *bits == 16, &told.join("\n"));
        }
        let stride = 4 * slots.len();
        let plane = |c: usize| {
            let at = |texel: &[u8]| f32::from_le_bytes([0, 1, 2, 3].map(|k| texel[4 * c + k]));
            self.held.par_chunks_exact(stride).map(at).collect::<Vec<f32>>()
        };
        let planes = names.iter().enumerate().map(|(c, name)| Plane { name, values: plane(c) });
        exr::write(planes.collect(), self.size, *bits == 16, words)
    }
}

//! A list of what was written, for whoever checks it: files with their hashes, what lies in each channel, ranges and units. JSON, `dustcoat-manifest/1`.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::{Naming, Plan, PlannedFile};

/// The version of the format that is written.
pub const FORMAT: &str = "dustcoat-manifest/1";

/// A list of what was written.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Manifest {
    /// `dustcoat-manifest/1`.
    pub format: String,
    /// Name of the piece.
    pub piece: String,
    /// The variant that was taken; empty for none.
    pub variant: String,
    /// What was written: the number of the revision in the page, a hash of the document on the command line.
    pub revision: String,
    /// Side of the textures in texels.
    pub size: u32,
    /// The files.
    pub files: Vec<Written>,
}

/// A file that was written.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Written {
    /// Its name.
    pub name: String,
    /// The sheet that it belongs to; of a file for the whole piece, the first.
    pub sheet: String,
    /// What `{map}` is in its name.
    pub map: String,
    /// Bytes.
    pub bytes: u64,
    /// blake3 of these, in hex.
    pub blake3: String,
    /// Bits a channel; 0 where it is no picture.
    pub bits: u32,
    /// What lies in its channels.
    pub channels: Vec<Channel>,
}

/// A channel of a file that was written.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Channel {
    /// Its name in the file.
    pub channel: String,
    /// Where its numbers come from, as layouts say it.
    pub from: String,
    /// The numbers that are 0 and 1 in the file, the other way round where it is inverted; none where floats stay as they are.
    pub range: Option<[f32; 2]>,
    /// The unit of these; empty where they have none.
    pub unit: String,
    /// `srgb` or `linear`.
    pub encoding: String,
}

impl Manifest {
    /// An empty one.
    pub fn new(plan: &Plan, naming: Naming) -> Manifest {
        Manifest {
            format: FORMAT.into(),
            piece: naming.piece.into(),
            variant: naming.variant.into(),
            revision: naming.revision.into(),
            size: plan.size,
            files: vec![],
        }
    }

    /// Takes a file in.
    pub fn add(&mut self, file: &PlannedFile, bytes: &[u8]) {
        let channel = |s: &super::PlannedSlot| Channel {
            channel: s.channel.clone(),
            from: s.from.clone(),
            range: s.range.map(|[low, high]| if s.invert { [high, low] } else { [low, high] }),
            unit: s.unit.into(),
            encoding: if s.srgb { "srgb" } else { "linear" }.into(),
        };
        self.files.push(Written {
            name: file.name.clone(),
            sheet: file.sheet.clone(),
            map: file.map.clone(),
            bytes: bytes.len() as u64,
            blake3: blake3::hash(bytes).to_hex().to_string(),
            bits: file.bits,
            channels: file.slots.iter().map(channel).collect(),
        });
    }

    /// As a file.
    pub fn json(&self) -> Vec<u8> {
        serde_json::to_vec_pretty(self).expect("a manifest is plain data")
    }
}

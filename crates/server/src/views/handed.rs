//! What is written, and the lights and stills that it is judged by.

use dustcoat_core::document::{FileKind, FileRow, Layout};
use dustcoat_core::handoff::check::Check;
use dustcoat_core::handoff::{Offered, PlannedFile};
use dustcoat_core::still::light::{Lamp, Light};
use dustcoat_core::still::shoot::Surround;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// What is asked of a hand-off.
#[derive(Debug, Clone, Default, Deserialize, TS)]
pub struct HandoffRequest {
    /// The layout; none is the project's own.
    #[serde(default)]
    #[ts(optional)]
    pub layout: Option<Layout>,
    /// Whether all variants are written, each into a folder of its name.
    #[serde(default)]
    #[ts(as = "Option<bool>", optional)]
    pub variants: bool,
}

/// A layout that is ready to take, made for the project.
#[derive(Debug, Serialize, TS)]
pub struct ReadyLayout {
    /// Its key in the catalog.
    pub key: &'static str,
    /// The layout.
    pub layout: Layout,
}

/// A layout that is kept for any project.
#[derive(Debug, Serialize, TS)]
pub struct KeptLayout {
    /// Id.
    pub id: i64,
    /// The layout.
    pub layout: Layout,
}

/// A kind of file that a layout may list.
#[derive(Debug, Serialize, TS)]
pub struct FileKindView {
    /// Which.
    pub kind: FileKind,
    /// What the artist reads.
    pub label: &'static str,
    /// Bits a channel that it may have, the usual ones first; none where it is no picture.
    pub depths: &'static [u32],
    /// The most channels that it may have.
    pub most: usize,
    /// Whether its numbers are floats, which are never cut to a range nor encoded.
    pub float: bool,
}

impl FileKindView {
    /// All of them.
    pub fn all() -> Vec<FileKindView> {
        let view = |kind: FileKind| FileKindView {
            kind,
            label: kind.label(),
            depths: kind.depths(),
            most: kind.most(),
            float: kind.is_float(),
        };
        FileKind::ALL.into_iter().map(view).collect()
    }
}

/// What a hand-off would write, and what stands against it.
#[derive(Debug, Serialize, TS)]
pub struct HandoffView {
    /// The layout.
    pub layout: Layout,
    /// What another file of it would be, to begin with.
    pub fresh: FileRow,
    /// The files.
    pub files: Vec<PlannedFile>,
    /// Files of the layout, by their place in it, whose channels no coat lays.
    pub unlaid: Vec<usize>,
    /// Whether the layout can't be written as it is: the first problem says why.
    pub refused: bool,
    /// Problems to know of.
    pub problems: Vec<Check>,
    /// The height in mm that would have to be white for no relief to be cut off, where the layout's is too low.
    pub fits: Option<f32>,
    /// Layouts that are ready to take.
    pub ready: Vec<ReadyLayout>,
    /// What a channel of a file may hold.
    pub offered: Vec<Offered>,
    /// The kinds of files that there are.
    pub kinds: Vec<FileKindView>,
}

/// What a hand-off wrote.
#[derive(Debug, Serialize, TS)]
pub struct HandoffDone {
    /// Address of the ZIP.
    pub download: String,
    /// Name of the ZIP.
    pub name: String,
    /// The files in it.
    pub files: Vec<PlannedFile>,
    /// Bytes of the ZIP.
    #[ts(type = "number")]
    pub bytes: u64,
    /// How long it took.
    pub seconds: f64,
}

/// What the piece can stand under and before.
#[derive(Debug, Serialize, TS)]
pub struct LightsView {
    /// Set-ups of light.
    pub lights: &'static [Light],
    /// The light from behind, at full strength.
    pub rim: Lamp,
    /// What may surround the piece.
    pub surrounds: Vec<SurroundView>,
    /// Texels of a panorama across and down.
    pub panorama: [usize; 2],
}

/// A surround.
#[derive(Debug, Clone, Serialize, TS)]
pub struct SurroundView {
    /// Which.
    pub key: Surround,
    /// What the artist reads.
    pub label: &'static str,
    /// Its grey, sRGB; of the sky what stands for it where none is drawn.
    pub byte: u8,
}

/// What a piece stands on: a disc.
#[derive(Debug, Serialize, TS)]
pub struct GroundView {
    /// Its middle, in mm.
    pub middle: [f32; 3],
    /// Where it begins to fade, and where it is gone, in mm from the middle.
    pub fades: [f32; 2],
    /// Its grey, linear.
    pub grey: f32,
    /// Texels along each side of the picture of how open it is to the sky.
    pub size: u32,
    /// Address of that picture.
    pub pixels: String,
}

/// A still that was taken, or a turntable's.
#[derive(Debug, Serialize, TS)]
pub struct StillDone {
    /// Address of the PNG, or the ZIP of them.
    pub download: String,
    /// Its name.
    pub name: String,
    /// Its bytes.
    #[ts(type = "number")]
    pub bytes: u64,
    /// How long it took.
    pub seconds: f64,
}

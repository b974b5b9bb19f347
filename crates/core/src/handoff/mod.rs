//! Hand-off: what the renderer or engine gets. Pictures, each channel of which is said by a layout; the dressed piece, as glTF or USD; the material as MaterialX; and a list of
//! all that was written.

mod bands;
pub mod check;
mod content;
pub mod exr;
mod inputs;
pub mod manifest;
mod picture;
mod plan;
pub mod png;
pub mod ready;
mod scene;
pub mod sheet;
mod tiff;

use std::collections::BTreeMap;

pub use content::{Content, Offered};
pub use plan::{Naming, Plan, PlannedFile, PlannedSlot};

use crate::bake::{MeasurementKey, Surface, measurement};
use crate::document::{Document, FileKind, Layout};
use crate::evaluate::{self, Context, EvaluateError, Evaluation, LayerCoverage, Measured, evaluate_with_masks};
use crate::mesh::Piece;
use crate::raster::{LARGEST_WHOLE, Plane, is_texture_size};
use content::Laid;

/// Why nothing could be written.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum HandoffError {
    /// A size that isn't.
    #[error("{0} is not a texture size; take a power of two from 64 to 8192.")]
    Size(u32),
    /// More texels than can be counted.
    #[error("{0} sheets of {1} × {1} texels are too many for one hand-off. Take a smaller size.")]
    TooMany(usize, u32),
    /// Two files of one name.
    #[error(
        "The name pattern gives “{0}” to two files. Put {{map}} and {{sheet}} into the pattern, and call no two files alike."
    )]
    SameName(String),
    /// Nothing to write.
    #[error("Nothing is chosen to be written. Tick at least one file.")]
    Nothing,
    /// A range that isn't.
    #[error("The height range must be from 0.01 to 100 mm.")]
    Range,
    /// A pattern that says nothing.
    #[error("The name pattern “{0}” has no name in it. Put {{piece}} or {{map}} into it.")]
    Pattern(String),
    /// A content that isn't, or isn't any more.
    #[error(
        "A file asks for “{0}”, and there is no such thing in this project. Choose something else for that channel, or take the file off the list."
    )]
    UnknownContent(String),
    /// A depth that the format hasn't.
    #[error("“{map}” can't have {bits} bits a channel as {kind}; it may have: {may}.")]
    Depth {
        /// The file.
        map: String,
        /// What it asks for.
        bits: u32,
        /// Its kind.
        kind: &'static str,
        /// What there is.
        may: String,
    },
    /// A number of channels that the format hasn't.
    #[error("“{map}” has {found} channels, and {kind} takes {may}.")]
    Channels {
        /// The file.
        map: String,
        /// How many it has.
        found: usize,
        /// Its kind.
        kind: &'static str,
        /// How many there may be.
        may: &'static str,
    },
    /// A range of a slot that isn't one.
    #[error("“{map}” takes “{from}” from {low} to {high}: two different numbers are wanted.")]
    SlotRange {
        /// The file.
        map: String,
        /// The content.
        from: String,
        /// The one.
        low: f32,
        /// The other.
        high: f32,
    },
}

/// A text as a file or folder may be called on every system; empty if nothing of it can stay.
pub fn file_name(text: &str) -> String {
    let safe = |c: char| if c.is_alphanumeric() || "-_.+".contains(c) { c } else { '_' };
    let name: String = text.chars().map(safe).take(150).collect();
    name.trim_matches('.').to_owned()
}

/// Whether maps can be written at that many texels along a side: a power of two from 64 to 8192.
pub fn is_map_size(size: u32) -> bool {
    is_texture_size(size) || size == 2 * LARGEST_WHOLE
}

/// The size of the surface that maps of a size are worked out on: what looks around and what is measured is known there, and read between its texels.
///
/// That of the maps, but for the largest, which don't lie in memory whole, and for small ones: a corner that is sharper than a texel reads otherwise at every size
/// ([`Measurement::by_size`](measurement::Measurement)), and so a small map would be no smaller picture of a large one. Where many `sheets` would take more memory than one of the largest, small maps are worked out at
/// their own size.
pub fn surface_size(size: u32, sheets: usize) -> u32 {
    const FINER: u32 = 4;
    const ENOUGH: u32 = 2048;
    let texels = |side: u32| sheets as u64 * u64::from(side).pow(2);
    let finer = (FINER * size).min(ENOUGH).max(size);
    if texels(finer) <= u64::from(LARGEST_WHOLE).pow(2) { finer.min(LARGEST_WHOLE) } else { size.min(LARGEST_WHOLE) }
}

/// The height that is to be white so that none from the least to the greatest, in mm, is cut off: rounded up to two places.
pub fn height_that_fits([low, high]: [f32; 2]) -> f32 {
    let reach = low.abs().max(high.abs()).clamp(0.01, 100.0);
    let place = libm::powf(10.0, libm::floorf(libm::log10f(reach)) - 1.0);
    // A number that is as short as it reads.
    let short = libm::ceilf(reach / place - 1e-3) * place;
    ((short * 1e4).round() / 1e4).clamp(0.01, 100.0)
}

/// Takes a file when it is ready.
pub type Each<'a, E> = &'a mut dyn FnMut(&PlannedFile, Vec<u8>) -> Result<(), E>;

/// What is handed off: a document worked out on a surface.
pub struct Handoff<'a> {
    /// The document.
    pub document: &'a Document,
    /// What it is evaluated with; its surface has the layout's size or that of [`surface_size`]: where they differ, files are written in bands.
    pub context: &'a Context<'a>,
    /// What is written.
    pub plan: &'a Plan,
    /// Bytes that a band may take, where there are bands; [`BUDGET`](crate::evaluate::bands::BUDGET) is a good one.
    pub budget: usize,
}

impl Handoff<'_> {
    /// Writes the files: each is given to `each` when it is ready, sheet by sheet. Returns the coverage of the layers.
    ///
    /// # Errors
    /// [`EvaluateError`], and what `each` refuses.
    pub fn write<E: From<EvaluateError>>(&self, each: Each<E>) -> Result<Vec<LayerCoverage>, E> {
        let readings = self.readings();
        // Where it isn't at hand nothing shades anything.
        let occlusion = self.context.measured.occlusion(self.document, self.context.surface).map(|o| o.1);
        let occlusion = occlusion.as_ref().map(|o| o.as_slice());
        if self.plan.size != self.context.surface.atlas.size {
            return bands::write(self, occlusion, &readings, each);
        }
        let e = evaluate_with_masks(self.document, self.context, &self.plan.masks())?;
        let laid = Laid::new(self.context.surface, &e, occlusion, &readings);
        for (file, bytes) in self.plan.files.iter().zip(files(self.plan, &laid)) {
            self.context.cancel.check().map_err(EvaluateError::from)?;
            each(file, bytes)?;
        }
        Ok(e.coverage)
    }

    /// The readings that files ask for, on the context's surface.
    fn readings(&self) -> BTreeMap<String, Plane> {
        let surface = self.context.surface;
        let mut out = BTreeMap::new();
        for (reading, settings) in self.plan.readings() {
            let key = reading.key(&surface.piece, &|kind| self.document.reading(kind));
            let hash =
                key.map(|k| self.context.measured.in_force(k, surface).hash(&surface.piece.hash, surface.atlas.size));
            let measured = hash.and_then(|h| self.context.measured.get(&h));
            let plane = || content::read(reading, settings, self.document, surface, measured.map(|m| &**m));
            out.entry(content::held_as(reading, settings)).or_insert_with(plane);
        }
        out
    }
}

/// What a layout writes of a document, and what that reads.
pub struct Prepared {
    /// What is written.
    pub plan: Plan,
    /// The measurements that are read at the size of the surface that the maps are worked out on ([`surface_size`]).
    pub finely: Vec<MeasurementKey>,
    /// Those that are read at the size of the maps, where the surface is finer.
    pub plainly: Vec<MeasurementKey>,
}

/// What a layout writes of a document, and the measurements that it reads: those of the document, and of the readings that its files hold.
///
/// # Errors
/// [`HandoffError`]
pub fn prepare(layout: &Layout, document: &Document, piece: &Piece, naming: Naming) -> Result<Prepared, HandoffError> {
    let plan = Plan::new(layout, document, &piece.sheets, &evaluate::channels(document, piece), naming)?;
    let mut wanted = evaluate::needs(document, piece);
    for key in plan.needs(document, piece) {
        if !wanted.contains(&key) {
            wanted.push(key);
        }
    }
    let larger = surface_size(plan.size, piece.sheets.len()) > plan.size;
    let fine = |k: &MeasurementKey| !larger || measurement::find(k.kind).is_some_and(|m| m.by_size);
    let (finely, plainly) = wanted.into_iter().partition(fine);
    Ok(Prepared { plan, finely, plainly })
}

impl Prepared {
    /// What is read, on the surface that the maps are worked out on; `take` gives measurements of a surface: those that are held, or taken now.
    ///
    /// # Errors
    /// What `take` refuses.
    pub fn measured<E>(
        &self,
        surface: &Surface,
        mut take: impl FnMut(&[MeasurementKey], &Surface) -> Result<Measured, E>,
    ) -> Result<Measured, E> {
        let measured = take(&self.finely, surface)?;
        if self.plainly.is_empty() {
            return Ok(measured);
        }
        let levels = surface.down_to_size(self.plan.size);
        let below = take(&self.plainly, levels[levels.len() - 1])?;
        Ok(measured.and_drawn_up(&self.plainly, &below, &levels))
    }
}

/// The files of a plan, each worked out when it is asked for. The surface is laid out at the plan's size.
fn files<'a>(plan: &'a Plan, laid: &'a Laid) -> impl Iterator<Item = Vec<u8>> + 'a {
    let sheet_of = |name: &str| laid.surface.piece.sheets.iter().position(|s| s.name == name).unwrap_or(0);
    // Sheets of one picture follow one another: all of them come of the same bytes.
    let mut held: Option<(usize, Vec<u8>)> = None;
    plan.files.iter().enumerate().map(move |(i, file)| match plan.picture(i) {
        Some((row, picture)) => {
            if held.as_ref().is_none_or(|h| h.0 != row) {
                held = Some((row, picture.rows(laid)));
            }
            picture.whole(&held.as_ref().expect("it was made").1, sheet_of(&file.sheet), laid.surface)
        }
        None => {
            let inside = || plan.inside.iter().map(|p| (p.rows(laid), p)).collect::<Vec<_>>();
            let pictures = |all: Vec<(Vec<u8>, &picture::Picture)>| {
                let of = |s| all.iter().map(|(bytes, p)| p.whole(bytes, s, laid.surface)).collect();
                (0..laid.surface.piece.sheets.len()).map(of).collect::<Vec<Vec<Vec<u8>>>>()
            };
            let pictures = if file.kind == FileKind::Glb { pictures(inside()) } else { vec![] };
            scene::write(plan, file, &laid.surface.piece, &pictures, &laid.evaluation.highest)
        }
    })
}

impl Plan {
    /// The name of the list of what was written.
    pub fn manifest_name(naming: Naming) -> String {
        format!("{}_manifest.json", file_name(naming.piece))
    }
}

/// The bytes of the files of a plan, from an evaluation on a surface of the plan's size.
pub fn write(plan: &Plan, surface: &Surface, e: &Evaluation, occlusion: Option<&[f32]>) -> Vec<Vec<u8>> {
    files(plan, &Laid::new(surface, e, occlusion, &BTreeMap::new())).collect()
}

/// The bytes of one sheet out of those of all.
pub fn of_sheet(bytes: &[u8], sheet: usize, size: u32, texel: usize) -> &[u8] {
    let one = (size * size) as usize * texel;
    &bytes[sheet * one..(sheet + 1) * one]
}

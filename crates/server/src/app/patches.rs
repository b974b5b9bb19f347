//! Patches: squares of the textures at a larger size than the draft's, worked out where somebody looks closely.
//!
//! What looks around a texel, and what is measured, is read from the draft; patterns, joins and finishes are exact at any size.

use std::sync::Arc;

use dustcoat_core::bake::{Band, Surface};
use dustcoat_core::evaluate::bands::Bands;
use dustcoat_core::evaluate::texture::{self, GreenAxis};
use dustcoat_core::evaluate::{self, needs_with_occlusion};
use rayon::prelude::*;

use super::pixels::Held;
use super::readings::Provisional;
use super::{App, AppError};
use crate::views::{PatchPlace, PatchRequest, Patches};

/// Texels of a patch along a side.
pub const SIDE: u32 = 256;
/// Texels around it that it shares with its neighbours, so that it can be filtered.
pub const MARGIN: u32 = 4;
/// The greatest side of the textures that patches are of.
pub const GREATEST: u32 = 8192;
/// Patches of one request.
const MOST: usize = 32;
/// Bytes of a texel of a map.
const TEXEL: usize = 4;
/// What a patch holds, in this order: the maps that every piece has.
const MAPS: [&str; 3] = ["base_color", "orm", "normal"];

impl App {
    /// Works out some patches of a project as it is kept: their maps one after the other, patch by patch, each [`SIDE`] and twice [`MARGIN`] texels a side, RGBA8. The next evaluation
    /// of the same page stops this.
    ///
    /// # Errors
    /// [`AppError`]; [`AppError::NoPatch`] for one that is not of the piece's textures.
    pub fn patches(self: &Arc<Self>, project: i64, request: &PatchRequest) -> Result<(Patches, Vec<Held>), AppError> {
        // The page asks for one batch of them after the other.
        let cancel = self.turns.begin(&near(&request.page), 0)?;
        let row = self.db.project(project)?;
        let (document, draft) = (&row.document, self.surface_of(&row.document, row.document.draft_size)?);
        let per_side = request.size / SIDE;
        let there = |p: &PatchPlace| p.sheet < draft.atlas.sheets && p.x < per_side && p.y < per_side;
        let fits = request.size.is_power_of_two() && (SIDE..=GREATEST).contains(&request.size);
        if !fits || request.places.len() > MOST || !request.places.iter().all(there) {
            return Err(AppError::NoPatch);
        }
        let needs = needs_with_occlusion(document, &draft.piece);
        let Provisional { measured, .. } = self.provisional(project, &near(&request.page), &needs, &draft, &cancel)?;
        let context = self.context(&draft, &measured, &cancel);
        let e = evaluate::evaluate_channels(document, &context)?;
        let occlusion = measured.occlusion(document, &draft);
        let bands = Bands::new(document, &context, request.size, &[])?;
        // What the pixels of a patch hang on: the channels of the draft, whose keys say all that it is made of.
        let keys: String = e.keys.values().map(|key| format!("{key}/")).collect();
        let of = format!("patch/{}/{keys}{}", request.size, occlusion.as_ref().map_or("", |o| o.0.as_str()));
        let one = |place: &PatchPlace| {
            cancel.check()?;
            let key = format!("{of}/{}/{}/{}/{}", draft.base_key(), place.sheet, place.x, place.y);
            if let Some(held) = self.held_pixels(&key) {
                return Ok(held);
            }
            let corner = [place.x * SIDE, place.y * SIDE];
            let patch = Band::patch(&draft, request.size, place.sheet, corner, SIDE, MARGIN);
            let e = bands.patch(&patch)?;
            let open = occlusion.as_ref().map(|o| patch.read(&o.1));
            let maps = [
                texture::base_color(&patch.surface, &e),
                texture::orm(&patch.surface, &e, open.as_deref()),
                texture::normal(&patch.surface, &e, GreenAxis::Up),
            ];
            let whole = maps.iter().flat_map(|map| squared(&patch.surface, map, corner, place.sheet)).collect();
            Ok(self.pixels_of(&key, || whole))
        };
        let all = request.places.par_iter().map(one).collect::<Result<_, AppError>>()?;
        Ok((Patches { revision: Some(row.revision), side: SIDE, margin: MARGIN, maps: MAPS.into() }, all))
    }
}

/// What the patches of a page go by among what is under way.
pub(super) fn near(page: &str) -> String {
    format!("{page}/near")
}

/// A map of a patch as a full square: where the sheet ends before, its last texels go on.
fn squared(surface: &Surface, map: &[u8], corner: [u32; 2], sheet: u32) -> Vec<u8> {
    let (atlas, side) = (&surface.atlas, SIDE + 2 * MARGIN);
    let (columns, rows) = (&atlas.columns, atlas.held());
    let first =
        [i64::from(corner[0]) - i64::from(MARGIN), i64::from(corner[1] + sheet * atlas.size) - i64::from(MARGIN)];
    let mut out = Vec::with_capacity((side * side) as usize * TEXEL);
    for y in 0..i64::from(side) {
        let row = (first[1] + y).clamp(i64::from(rows.start), i64::from(rows.end) - 1) - i64::from(rows.start);
        for x in 0..i64::from(side) {
            let column = (first[0] + x).clamp(i64::from(columns.start), i64::from(columns.end) - 1);
            let at = (row as usize * columns.len() + (column - i64::from(columns.start)) as usize) * TEXEL;
            out.extend_from_slice(&map[at..at + TEXEL]);
        }
    }
    out
}

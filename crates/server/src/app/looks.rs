//! Looks: small pictures of states that nobody has kept, to choose from: variants, and six drawn at random.

use std::sync::Arc;

use bytes::Bytes;
use dustcoat_core::document::{self, Document, Study};
use dustcoat_core::evaluate::{self, needs_with_occlusion};
use dustcoat_core::handoff::png;
use dustcoat_core::still::shoot::{StillSettings, shoot};
use dustcoat_core::task::{Cancel, silent};

use super::{App, AppError};
use crate::db::DbError;
use crate::views::{LookRequest, Six, SixRequest};

/// Texels of the textures that a look is drawn of, along a side.
const TEXELS: u32 = 512;
/// The most pixels of a look along a side, and samples to each.
const MOST: (u32, u32) = (640, 24);

/// A small picture.
pub(super) struct Look {
    /// RGBA8, rows from the top.
    pub pixels: Bytes,
    /// Width and height.
    pub size: (u32, u32),
}

impl App {
    /// A picture of a project after some edits, which are not kept, as a PNG; with coarse measurements where the real ones are not at hand.
    ///
    /// # Errors
    /// [`AppError`] when an edit can't be made or the picture can't be taken so.
    pub fn look(self: &Arc<Self>, project: i64, request: &LookRequest) -> Result<Vec<u8>, AppError> {
        let Look { pixels, size: (width, height) } = self.look_pixels(project, request)?;
        Ok(png::rgba8(&pixels, width, height))
    }

    pub(super) fn look_pixels(self: &Arc<Self>, project: i64, request: &LookRequest) -> Result<Look, AppError> {
        let (cancel, asked) = (Cancel::default(), &request.still);
        let on = match request.at {
            Some(state) => self.db.document_at(project, state)?,
            None => self.db.project(project)?.document,
        };
        let document = self.try_edits(&on, &request.edits)?;
        let draft = self.surface_of(&document, document.draft_size)?;
        let keys = needs_with_occlusion(&document, &draft.piece);
        // Nobody has taken these states yet: minutes of measuring for each of many are not worth what is seen of it at this size.
        let (measured, missing) = self.coarsely(&keys, &draft, &cancel)?;
        let coarse = !missing.is_empty();
        let settings = StillSettings {
            width: asked.width.min(MOST.0),
            height: asked.height.min(MOST.0),
            samples: asked.samples.min(MOST.1),
            denoise: true,
            turntable: 1,
            ..asked.clone()
        };
        let size = (settings.width, settings.height);
        // What is seen hangs on nothing that is kept beside the layers and the dials.
        let seen = Document { variants: vec![], places: vec![], study: Study::default(), ..document.clone() };
        let content = serde_json::to_string(&(&seen, &settings)).map_err(|e| DbError::Broken(e.to_string()))?;
        let key = format!("look/{coarse}/{content}");
        if let Some(held) = self.held_pixels(&key) {
            return Ok(Look { pixels: held.bytes, size });
        }
        let (surface, measured) = self.at_size(&document, draft, measured, &keys, Some(TEXELS))?;
        let e = evaluate::evaluate_channels(&document, &self.context(&surface, &measured, &cancel))?;
        let picture = shoot(&surface, &e, &settings, &cancel, &silent)?.swap_remove(0);
        Ok(Look { pixels: self.pixels_of(&key, || picture).bytes, size })
    }

    /// Six sets of dial values to choose from.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn six(&self, project: i64, request: &SixRequest) -> Result<Six, AppError> {
        let row = self.db.project(project)?;
        Ok(Six { choices: document::six(&row.document, &request.reaches, request.seed) })
    }
}

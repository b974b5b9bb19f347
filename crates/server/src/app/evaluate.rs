//! Evaluating for the page: textures, tiles, histogram, coverage.

use std::sync::Arc;
use std::time::Instant;

use dustcoat_core::bake::{Surface, reading};
use dustcoat_core::document::Document;
use dustcoat_core::evaluate::texture::{self, GreenAxis};
use dustcoat_core::evaluate::{self, Context, Evaluation, steps};
use dustcoat_core::handoff::png;
use dustcoat_core::raster::Plane;
use dustcoat_core::still::{Camera, Shot, lit};
use dustcoat_core::task::{Cancel, silent};

use super::readings::key_of;
use super::{App, AppError, lock};
use crate::views::{EvaluateRequest, EvaluationView, Tile};

/// Pixels of a tile of the mask line.
pub const TILE: [u32; 2] = [104, 84];
/// Pixels of a picture on the front door.
const PICTURE: [u32; 2] = [400, 300];
/// Height in mm that the height view shows as white; its negative is black.
const HEIGHT_SHOWN: f32 = 1.0;
const BINS: usize = 64;

/// What the tiles' camera sees, with the surface cut down to it.
pub struct TileShot {
    shot: Shot,
    texels: Vec<u32>,
    subset: Surface,
}

impl App {
    /// Evaluates a project with edits that are tried, measuring first what is missing. A later request of the same page overtakes this one.
    ///
    /// # Errors
    /// [`AppError`]; an overtaken request ends as cancelled.
    pub fn evaluate(&self, project: i64, request: &EvaluateRequest) -> Result<EvaluationView, AppError> {
        let clock = Instant::now();
        let cancel = Cancel::default();
        if let Some(old) = lock(&self.running).insert(request.page.clone(), cancel.clone()) {
            old.cancel();
        }
        let row = self.db.project(project)?;
        let document = super::projects::try_edits(&row.document, &request.edits)?;
        let piece = self.piece(&row.source)?;
        let surface = self.surface(&piece, document.draft_size);
        self.ensure_needs(project, &document, &surface)?;
        let readings = |hash: &str| self.held(hash);
        let context = self.context(&surface, &readings, &cancel);
        let e = evaluate::evaluate(&document, &context)?;
        let mut view = self.textures(&document, &surface, &e, request)?;
        if let Some(layer) = &request.layer {
            self.add_mask(&document, layer, &context, request, &mut view)?;
        }
        if let Some(kind) = &request.reading {
            view.reading = Some(self.reading_texture(&document, kind, &surface, &cancel)?);
        }
        cancel.check()?;
        view.seconds = clock.elapsed().as_secs_f64();
        Ok(view)
    }

    fn context<'a>(
        &'a self,
        surface: &'a Surface,
        readings: evaluate::Readings<'a>,
        cancel: &'a Cancel,
    ) -> Context<'a> {
        Context { surface, readings, cache: &self.planes, cancel, progress: &silent }
    }

    pub(super) fn occlusion(&self, document: &Document, surface: &Surface) -> Option<(String, Arc<Plane>)> {
        let key = key_of(document, reading::find("occlusion")?);
        let hash = key.hash(&surface.piece.hash, surface.atlas.size);
        Some((hash.clone(), self.held(&hash)?))
    }

    fn textures(
        &self,
        document: &Document,
        surface: &Surface,
        e: &Evaluation,
        request: &EvaluateRequest,
    ) -> Result<EvaluationView, AppError> {
        let k = &e.keys;
        let occlusion = self.occlusion(document, surface);
        let occlusion_hash = occlusion.as_ref().map_or("", |o| o.0.as_str());
        let values = occlusion.as_ref().map(|o| o.1.as_slice());
        let orm_key = format!("orm/{}/{}/{occlusion_hash}", k["roughness"], k["metallic"]);
        let height = request.height.then(|| {
            self.pixels_of(&format!("height8/{}", k["height"]), || {
                let scaled: Vec<f32> = e.channels["height"].iter().map(|h| 0.5 + h / (2.0 * HEIGHT_SHOWN)).collect();
                texture::grey8(surface, &scaled)
            })
        });
        Ok(EvaluationView {
            size: surface.atlas.size,
            base_color: self.pixels_of(&format!("base/{}", k["base_color"]), || texture::base_color(surface, e)),
            orm: self.pixels_of(&orm_key, || texture::orm(surface, e, values)),
            normal: self
                .pixels_of(&format!("normal/{}", k["height"]), || texture::normal(surface, e, GreenAxis::Up)),
            height,
            mask: None,
            reading: None,
            tiles: vec![],
            tile_size: TILE,
            histogram: vec![],
            coverage: e.coverage.clone(),
            computed: e.computed.clone(),
            seconds: 0.0,
        })
    }

    fn add_mask(
        &self,
        document: &Document,
        layer: &str,
        context: &Context,
        request: &EvaluateRequest,
        view: &mut EvaluationView,
    ) -> Result<(), AppError> {
        let surface = context.surface;
        let (mask, key) = evaluate::mask(document, layer, context)?;
        view.histogram = steps::histogram(surface, &mask, BINS);
        if request.mask {
            view.mask = Some(self.pixels_of(&format!("grey/{key}"), || texture::grey8(surface, &mask)));
        }
        if request.tiles {
            let t = self.tile_shot(surface);
            for (step, values) in steps::after_each(document, layer, context, &t.texels, &t.subset)? {
                let bytes: Vec<u8> = values.iter().flat_map(|v| v.to_le_bytes()).collect();
                let key = format!("tile/{}/{}", surface.key(), blake3::hash(&bytes));
                let pixels = self.pixels_of(&key, || t.shot.mask_picture(&t.subset, &values));
                view.tiles.push(Tile { step, pixels });
            }
        }
        Ok(())
    }

    fn tile_shot(&self, surface: &Surface) -> Arc<TileShot> {
        self.shots.get_with(surface.key(), || {
            let [w, h] = TILE;
            let camera = Camera::framing(surface.piece.min.into(), surface.piece.max.into(), w as f32 / h as f32);
            let shot = Shot::new(surface, camera, w, h);
            let texels = shot.seen();
            let subset = surface.subset(&texels);
            Arc::new(TileShot { shot, texels, subset })
        })
    }

    fn reading_texture(
        &self,
        document: &Document,
        kind: &str,
        surface: &Surface,
        cancel: &Cancel,
    ) -> Result<String, AppError> {
        let reading = reading::find(kind).ok_or_else(|| AppError::NoReading(kind.into()))?;
        let key = key_of(document, reading);
        let plane = self.ensure(&key, surface, cancel, &silent)?;
        let hash = key.hash(&surface.piece.hash, surface.atlas.size);
        Ok(self.pixels_of(&format!("grey/{hash}"), || texture::grey8(surface, &plane)))
    }

    /// Makes and keeps the front door's picture of a project as it stands, if its readings are at hand.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn take_picture(&self, project: i64) -> Result<(), AppError> {
        let row = self.db.project(project)?;
        let piece = self.piece(&row.source)?;
        let surface = self.surface(&piece, row.document.draft_size);
        self.ensure_needs(project, &row.document, &surface)?;
        let png = self.picture_of(&row.document, &surface)?;
        Ok(self.db.set_picture(project, &png)?)
    }

    fn picture_of(&self, document: &Document, surface: &Surface) -> Result<Vec<u8>, AppError> {
        let cancel = Cancel::default();
        let readings = |hash: &str| self.held(hash);
        let e = evaluate::evaluate(document, &self.context(surface, &readings, &cancel))?;
        let [w, h] = PICTURE;
        let camera = Camera::framing(surface.piece.min.into(), surface.piece.max.into(), w as f32 / h as f32);
        let shot = Shot::new(surface, camera, w, h);
        let occlusion = self.occlusion(document, surface);
        let picture = lit::picture(&shot, surface, &e, occlusion.as_ref().map(|o| o.1.as_slice()));
        Ok(png::rgba8(&picture, w, h))
    }

    /// The front door's picture: the one that was kept, or else the bare piece.
    ///
    /// # Errors
    /// [`AppError`]; a piece without UVs has no picture.
    pub fn picture(&self, project: i64) -> Result<Vec<u8>, AppError> {
        if let Some(png) = self.db.picture(project)? {
            return Ok(png);
        }
        let row = self.db.project(project)?;
        let piece = self.piece(&row.source)?;
        let surface = self.surface(&piece, 256);
        self.picture_of(&Document::new("bare"), &surface)
    }
}

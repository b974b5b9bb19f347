//! Evaluating for the page: textures, tiles, histogram, coverage.

use std::sync::Arc;

use dustcoat_core::bake::{MeasurementKey, Reading, Surface, measurement, reading, weather};
use dustcoat_core::document::{self, Document, Edit};
use dustcoat_core::evaluate::packing::PACKED;
use dustcoat_core::evaluate::probe;
use dustcoat_core::evaluate::texture::{self, GreenAxis};
use dustcoat_core::evaluate::{
    self, Context, EvaluateError, Evaluation, MasksOf, Measured, needs_to_look_at, needs_with_occlusion, steps,
};
use dustcoat_core::finish::channel;
use dustcoat_core::handoff::png;
use dustcoat_core::mesh::Piece;
use dustcoat_core::raster::Plane;
use dustcoat_core::setting::Settings;
use dustcoat_core::still::shoot::{StillSettings, Surround, shoot};
use dustcoat_core::still::{Camera, Shot};
use dustcoat_core::task::{Cancel, silent};

use super::clock::Clock;
use super::pixels::Telling;
use super::readings::{Provisional, hash_on};
use super::{App, AppError, patches, shelf};
use crate::db::ProjectRow;
use crate::views::{
    CandidateView, ChannelView, EvaluateRequest, EvaluationView, MovedView, PackedView, PreviewRequest, ProbeRequest,
    ProbeView, Tile, TintView,
};

/// Pixels of a tile of the mask line.
pub const TILE: [u32; 2] = [92, 74];
/// Texels along a side of the textures of a picture that is drawn before anything was measured.
const FIRST_LOOK: u32 = 256;
/// Pixels of a picture on the front door.
const PICTURE: [u32; 2] = [400, 300];
/// Samples to a pixel of small pictures.
const SAMPLES: u32 = 24;
const BINS: usize = 64;

/// What the tiles' camera sees, with the surface cut down to it.
pub struct TileShot {
    shot: Arc<Shot>,
    texels: Arc<Vec<u32>>,
    subset: Surface,
}

/// What a request asks to be worked out.
#[derive(Clone, Copy)]
struct Asked<'a> {
    project: i64,
    request: &'a EvaluateRequest,
    document: &'a Document,
    draft: &'a Arc<Surface>,
    cancel: &'a Cancel,
    clock: &'a Clock,
}

/// What was worked out, on which surface, with which measurements.
struct WorkedOut {
    surface: Arc<Surface>,
    measured: Measured,
    coarse: bool,
    improving: bool,
    e: Evaluation,
}

impl App {
    /// Evaluates a project with edits that are tried, measuring first what is missing. A later request of the same page overtakes this one.
    ///
    /// # Errors
    /// [`AppError`]; an overtaken request ends as cancelled.
    pub fn evaluate(
        self: &Arc<Self>,
        project: i64,
        request: &EvaluateRequest,
        clock: &Clock,
    ) -> Result<EvaluationView, AppError> {
        clock.begin("plan");
        let cancel = self.turns.begin(&request.page, request.turn)?;
        // Whoever waits comes first.
        self.turns.stop(shelf::AHEAD);
        // What is looked at closely is asked for again once this is there.
        self.turns.stop(&patches::near(&request.page));
        let row = self.db.project(project)?;
        let document = match request.snapshot {
            Some(id) => self.snapshot_on(&row, id)?,
            None => self.try_edits(&row.document, &request.edits)?,
        };
        let draft = self.surface_of(&document, document.draft_size)?;
        let asked = Asked { project, request, document: &document, draft: &draft, cancel: &cancel, clock };
        // Masks of hidden layers are measured for when they are looked at.
        let masks = request.layer.as_deref().map_or(MasksOf::Shown, MasksOf::Layer);
        // What a drag needs is nearly always what was needed before it; where it isn't, it is said what is missing.
        if request.size.is_some() && request.snapshot.is_none() {
            let known = self.answer(&asked, &self.known_needs(&row, &draft.piece, masks));
            if !matches!(known, Err(AppError::Evaluate(EvaluateError::Missing(_)))) {
                return known;
            }
        }
        self.answer(&asked, &needs_to_look_at(&document, &draft.piece, masks))
    }

    /// An answer that has some measurements to go by.
    fn answer(self: &Arc<Self>, asked: &Asked, needs: &[MeasurementKey]) -> Result<EvaluationView, AppError> {
        let Asked { request, document, cancel, clock, .. } = *asked;
        let WorkedOut { surface, measured, coarse, improving, e } = self.work_out(asked, needs)?;
        let context = self.context(&surface, &measured, cancel);
        let telling = self.telling();
        let mut view = self.textures(document, &context, &e, request, &telling, clock)?;
        (view.provisional, view.improving) = (coarse, improving);
        clock.begin("line");
        if let Some(layer) = &request.layer {
            self.add_mask(document, layer, &context, request, &telling, &mut view)?;
        }
        if let Some(name) = &request.reading {
            view.reading = Some(self.reading_texture(document, name, &context, &telling)?);
        }
        cancel.check()?;
        telling.done(&request.page);
        view.seconds = clock.seconds();
        Ok(view)
    }

    /// What the document in force needs.
    fn known_needs(&self, row: &ProjectRow, piece: &Piece, masks: MasksOf) -> Arc<Vec<MeasurementKey>> {
        let layer = if let MasksOf::Layer(id) = masks { id } else { "" };
        let key = (row.id, row.revision, layer.to_owned());
        self.needs.get_with(key, || Arc::new(needs_to_look_at(&row.document, piece, masks)))
    }

    /// Works out what is asked for with some measurements, taken first where they are missing.
    fn work_out(self: &Arc<Self>, asked: &Asked, needs: &[MeasurementKey]) -> Result<WorkedOut, AppError> {
        let Asked { project, request, document, draft, cancel, clock } = *asked;
        let mut keys = needs.to_vec();
        if let Some(name) = &request.reading {
            let key = reading_named(name)?.0.key(&draft.piece, &|kind| document.reading(kind));
            keys.extend(key.filter(|k| !keys.contains(k)));
        }
        let Provisional { measured, coarse, improving } = if request.provisional {
            // An older state that is compared is measured for beside the present one.
            let earlier = request.snapshot.map_or(String::new(), |id| format!("/{id}"));
            self.provisional(project, &format!("{}{earlier}", request.page), &keys, draft, cancel)?
        } else {
            let measured = self.ensure_all(project, &keys, draft, cancel)?;
            Provisional { measured, coarse: false, improving: false }
        };
        let (surface, measured) = self.at_size(document, draft.clone(), measured, &keys, request.size)?;
        let hear = |label: &str, _: f32| clock.hear(label);
        let context = Context { progress: &hear, ..self.context(&surface, &measured, cancel) };
        let e = match request.size {
            Some(_) => evaluate::evaluate_channels(document, &context)?,
            None if request.smooth => evaluate::evaluate_finely(document, &context)?,
            None => evaluate::evaluate(document, &context)?,
        };
        Ok(WorkedOut { surface, measured, coarse, improving, e })
    }

    /// The surface that something is worked out on while it moves, and the measurements of the draft drawn down to it.
    pub(super) fn at_size(
        &self,
        document: &Document,
        draft: Arc<Surface>,
        measured: Measured,
        keys: &[MeasurementKey],
        size: Option<u32>,
    ) -> Result<(Arc<Surface>, Measured), AppError> {
        let smaller = halved(draft.atlas.size, size.unwrap_or(u32::MAX));
        if smaller == draft.atlas.size {
            return Ok((draft, measured));
        }
        let surface = self.surface_of(document, smaller)?;
        let held = |hash: String, draw: &dyn Fn() -> Plane| self.coarse.get_with(hash, || Arc::new(draw()));
        let measured = measured.drawn_down(keys, &draft, smaller, held);
        Ok((surface, measured))
    }

    /// A project and its piece at the draft size.
    pub(super) fn laid_out(&self, project: i64) -> Result<(ProjectRow, Arc<Surface>), AppError> {
        let row = self.db.project(project)?;
        let surface = self.surface_of(&row.document, row.document.draft_size)?;
        Ok((row, surface))
    }

    pub(super) fn context<'a>(
        &'a self,
        surface: &'a Surface,
        measured: &'a Measured,
        cancel: &'a Cancel,
    ) -> Context<'a> {
        Context { surface, measured, cache: &self.planes, cancel, progress: &silent }
    }

    fn textures(
        &self,
        document: &Document,
        context: &Context,
        e: &Evaluation,
        request: &EvaluateRequest,
        telling: &Telling,
        clock: &Clock,
    ) -> Result<EvaluationView, AppError> {
        clock.begin("packing");
        let (k, surface) = (&e.keys, context.surface);
        let occlusion = context.measured.occlusion(document, surface);
        let occlusion_hash = occlusion.as_ref().map_or("", |o| o.0.as_str());
        let values = occlusion.as_ref().map(|o| o.1.as_slice());
        let orm_key = format!("orm/{}/{}/{occlusion_hash}", k["roughness"], k["metallic"]);
        let of = |kind: &str| k.get(kind).map_or("1", String::as_str);
        let orm_key = format!("{orm_key}/{}", of("occlusion"));
        let channel = request.channel.as_deref().and_then(|kind| {
            let (channel, plane) = (channel::find(kind)?, e.channels.get(kind)?);
            let pixels = telling.of(&format!("alone/{}", k[channel.kind]), || texture::alone(surface, channel, plane));
            Some(ChannelView { pixels, colors: channel.bare.len() == 3 })
        });
        let more = PACKED.iter().filter(|p| p.is_among(|kind| e.channels.contains_key(kind)));
        let more = more.map(|p| PackedView {
            map: p.key,
            pixels: telling.of(&p.content(e), || p.bytes(surface, e)),
            srgb: p.srgb,
            factor: p.factor(&e.highest),
        });
        let parts = request.parts.then(|| {
            let key = format!("parts/{}", surface.key());
            telling.of(&key, || texture::scatter(surface, [255], |i| [surface.atlas.part[i].min(254) as u8]))
        });
        let shells = request.shells.then(|| {
            let (atlas, piece) = (&surface.atlas, &surface.piece);
            let shell = |i: usize| (piece.shell_of[atlas.triangle[i] as usize] % 255) as u8;
            telling.of(&format!("shells/{}", surface.key()), || texture::scatter(surface, [255], |i| [shell(i)]))
        });
        let moved = request.moved.then(|| {
            let range = texture::height_range(e);
            let pixels = telling.of(&format!("moved/{}", k["height"]), || texture::moved(surface, e, range));
            MovedView { pixels, range }
        });
        let base_color =
            telling.of(&format!("base/{}/{}", k["base_color"], of("opacity")), || texture::base_color(surface, e));
        let orm = telling.of(&orm_key, || texture::orm(surface, e, values));
        clock.begin("normals");
        let normal = telling.of(&format!("normal/{}/{}/{}", k["height"], of("normal"), surface.base_key()), || {
            texture::normal(surface, e, GreenAxis::Up)
        });
        Ok(EvaluationView {
            moved,
            size: surface.atlas.size,
            sheets: surface.atlas.sheets,
            base_color,
            orm,
            normal,
            see_through: e.channels.contains_key("opacity"),
            channels: e.highest.keys().copied().collect(),
            more: more.collect(),
            tint: e.highest.tint.map(|t| TintView { color: t.color, distance: t.distance }),
            channel,
            mask: None,
            reading: None,
            parts,
            shells,
            provisional: false,
            improving: false,
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
        telling: &Telling,
        view: &mut EvaluationView,
    ) -> Result<(), AppError> {
        let surface = context.surface;
        let (mask, key) = evaluate::mask(document, layer, context)?;
        if request.size.is_none() {
            let before =
                request.step.as_deref().map(|step| steps::before(document, layer, step, context)).transpose()?;
            view.histogram = steps::histogram(surface, before.flatten().as_ref().unwrap_or(&mask), BINS);
        }
        if let Some(step) = request.step.as_deref().filter(|_| request.alone) {
            // A step that is off shows nothing.
            let empty = || (Arc::new(vec![0.0; surface.atlas.len()]), format!("nothing/{}", surface.key()));
            let (plane, key) = steps::alone(document, layer, step, context)?.unwrap_or_else(empty);
            view.mask = Some(telling.of(&format!("grey/{key}"), || texture::grey8(surface, &plane)));
        } else if request.mask {
            view.mask = Some(telling.of(&format!("grey/{key}"), || texture::grey8(surface, &mask)));
        }
        if request.tiles && request.size.is_none() {
            let t = self.tile_shot(surface);
            for (step, values) in steps::after_each(document, layer, context, &t.texels, &t.subset)? {
                view.tiles.push(Tile { step, pixels: tile(surface, &t, &values, telling) });
            }
        }
        Ok(())
    }

    fn tile_shot(&self, surface: &Surface) -> Arc<TileShot> {
        let held = self.shots.get_with(surface.key(), || {
            let [w, h] = TILE;
            let camera = Camera::framing(&surface.piece, w as f32 / h as f32, 1.0);
            let shot = Shot::new(surface, camera, w, h);
            let texels = shot.seen();
            let subset = surface.subset(&texels);
            Arc::new(TileShot { shot: Arc::new(shot), texels: Arc::new(texels), subset })
        });
        if Arc::ptr_eq(&held.subset.piece, &surface.piece) {
            return held;
        }
        // The same shape with other names or pictures.
        let subset = held.subset.of_state(surface.piece.clone(), None);
        let shot = Arc::new(TileShot { shot: held.shot.clone(), texels: held.texels.clone(), subset });
        self.shots.insert(surface.key(), shot.clone());
        shot
    }

    /// Tiles of edits that each put steps into a layer's line: what these make by themselves, and the mask as it would stand after them.
    ///
    /// # Errors
    /// [`AppError`] when the project is gone or an edit is refused.
    pub fn preview(&self, project: i64, request: &PreviewRequest) -> Result<Vec<CandidateView>, AppError> {
        let (row, surface) = self.laid_out(project)?;
        let cancel = Cancel::default();
        let (t, telling) = (self.tile_shot(&surface), self.telling());
        let one = |edit: &Edit| {
            let (layer, added) = match edit {
                Edit::AddStep { layer, index, .. } => (layer, *index..index.saturating_add(1)),
                Edit::AddSteps { layer, index, steps } => (layer, *index..index.saturating_add(steps.len())),
                _ => return Ok(CandidateView::default()),
            };
            let document = self.try_edits(&row.document, std::slice::from_ref(edit))?;
            let needs = needs_to_look_at(&document, &surface.piece, MasksOf::Layer(layer));
            let measured = self.at_hand(&needs, &surface, false);
            let context = self.context(&surface, &measured, &cancel);
            let steps = document::find_layer(&document.layers, layer).map(|l| l.mask.steps.as_slice());
            let id = steps.and_then(|s| s.get(added.end.saturating_sub(1))).map(|s| s.id.as_str());
            let shown = |m: &[f32]| tile(&surface, &t, m, &telling);
            let after = match steps::after_each(&document, layer, &context, &t.texels, &t.subset) {
                Ok(after) => after,
                Err(EvaluateError::Missing(_)) => return Ok(CandidateView::default()),
                Err(error) => return Err(error.into()),
            };
            let alone = steps::by_themselves(&document, layer, added.clone(), &context, &t.texels, &t.subset)?;
            let line = after.iter().find(|(step, _)| Some(step.as_str()) == id).map(|(_, m)| shown(m));
            Ok(CandidateView { alone: alone.map(|m| shown(&m)), line })
        };
        let all = request.candidates.iter().map(one).collect::<Result<_, AppError>>()?;
        telling.done(&request.page);
        Ok(all)
    }

    /// What every layer and step did at a place of the piece.
    ///
    /// # Errors
    /// [`AppError::NothingThere`] where no chart lies; a reading that was not measured yet is named.
    pub fn probe(&self, project: i64, at: &ProbeRequest) -> Result<ProbeView, AppError> {
        let (row, surface) = self.laid_out(project)?;
        let cancel = Cancel::default();
        let needs = evaluate::needs(&row.document, &surface.piece);
        let shown = self.at_hand(&needs, &surface, false);
        if let Some(missing) = needs.into_iter().find(|k| shown.get(&hash_on(k, &surface)).is_none()) {
            return Err(EvaluateError::Missing(missing).into());
        }
        // What hidden layers read needn't be measured well.
        let needs = needs_to_look_at(&row.document, &surface.piece, MasksOf::All);
        let (measured, missing) = self.coarsely(&needs, &surface, &cancel)?;
        let sheets = surface.atlas.sheets as f32;
        let sheet = (at.v * sheets).floor().clamp(0.0, sheets - 1.0);
        let texel = surface.atlas.at_uv(sheet as u16, [at.u, at.v * sheets - sheet]).ok_or(AppError::NothingThere)?;
        let probe = probe::probe(&row.document, texel, &self.context(&surface, &measured, &cancel))?;
        let coarse = missing.iter().filter_map(|k| Some(measurement::find(k.kind)?.label)).collect();
        Ok(ProbeView { probe, coarse })
    }

    /// A reading on the piece, as a PNG the size of a tile; `None` if it is not measured as the project stands now.
    /// `name` is its kind, or `edges:fine` for one of its radii.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn reading_picture(&self, project: i64, name: &str) -> Result<Option<Vec<u8>>, AppError> {
        let (row, surface) = self.laid_out(project)?;
        let key = reading_named(name)?.0.key(&surface.piece, &|kind| row.document.reading(kind));
        let measured = self.at_hand(key.as_slice(), &surface, true);
        let plane = match reading_plane(&row.document, name, &surface, &measured) {
            Err(AppError::Evaluate(EvaluateError::Missing(_))) => return Ok(None),
            plane => plane?.0,
        };
        let t = self.tile_shot(&surface);
        let seen: Vec<f32> = t.texels.iter().map(|i| plane[*i as usize]).collect();
        Ok(Some(png::rgba8(&t.shot.mask_picture(&t.subset, &seen), TILE[0], TILE[1])))
    }

    /// A reading as a texture.
    fn reading_texture(
        &self,
        document: &Document,
        name: &str,
        context: &Context,
        telling: &Telling,
    ) -> Result<String, AppError> {
        let surface = context.surface;
        let (plane, of) = reading_plane(document, name, surface, context.measured)?;
        Ok(telling.of(&format!("reading/{name}/{}/{of}", surface.key()), || texture::grey8(surface, &plane)))
    }

    /// Measures what a project needs, then makes and keeps the front door's picture of it as it stands.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn take_picture(&self, project: i64, cancel: &Cancel) -> Result<(), AppError> {
        let (row, surface) = self.laid_out(project)?;
        self.ensure_all(project, &needs_with_occlusion(&row.document, &surface.piece), &surface, cancel)?;
        self.picture(project).map(|_| ())
    }

    /// A project's picture on measurements that are at hand, or on coarse ones.
    fn picture_of(&self, document: &Document, surface: &Surface, coarse: bool) -> Result<Vec<u8>, AppError> {
        let (cancel, keys) = (Cancel::default(), needs_with_occlusion(document, &surface.piece));
        let measured =
            if coarse { self.coarsely(&keys, surface, &cancel)?.0 } else { self.at_hand(&keys, surface, false) };
        let e = evaluate::evaluate(document, &self.context(surface, &measured, &cancel))?;
        let [w, h] = PICTURE;
        let clear = StillSettings { surround: Surround::Clear, ..StillSettings::default() };
        let samples = if coarse { SAMPLES / 3 } else { SAMPLES };
        let settings = StillSettings { width: w, height: h, samples, denoise: coarse, ..clear };
        let picture = shoot(surface, &e, &settings, &cancel, &silent)?.swap_remove(0);
        Ok(png::rgba8(&picture, w, h))
    }

    /// The front door's picture: of the revision in force if it can be drawn without measuring, or else the last one, or else on coarse measurements, small, which is not kept.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn picture(&self, project: i64) -> Result<Vec<u8>, AppError> {
        let row = self.db.project(project)?;
        let kept = self.db.picture(project)?;
        if let Some((png, of)) = &kept
            && *of == row.revision
        {
            return Ok(png.clone());
        }
        let surface = self.surface_of(&row.document, row.document.draft_size)?;
        match self.picture_of(&row.document, &surface, false) {
            Ok(png) => {
                self.db.set_picture(project, row.revision, &png)?;
                return Ok(png);
            }
            Err(AppError::Evaluate(evaluate::EvaluateError::Missing(_))) => {}
            Err(other) => return Err(other),
        }
        match kept {
            Some((png, _)) => Ok(png),
            None => {
                let small = self.surface_of(&row.document, FIRST_LOOK.min(row.document.draft_size))?;
                self.picture_of(&row.document, &small, true)
            }
        }
    }
}

/// A size halved until it is at most what is wanted, but not below what is worth looking at.
fn halved(size: u32, wanted: u32) -> u32 {
    const LEAST: u32 = 64;
    let mut size = size;
    while size > wanted && size / 2 >= LEAST {
        size /= 2;
    }
    size
}

fn tile(surface: &Surface, t: &TileShot, values: &[f32], telling: &Telling) -> String {
    let bytes: Vec<u8> = values.iter().flat_map(|v| v.to_le_bytes()).collect();
    let key = format!("tile/{}/{}", surface.key(), blake3::hash(&bytes));
    telling.of(&key, || t.shot.mask_picture(&t.subset, values))
}

/// The reading of a name, and what the name says of its settings.
fn reading_named(name: &str) -> Result<(&'static Reading, Settings), AppError> {
    reading::named(name).ok_or_else(|| AppError::NoReading(name.into()))
}

/// The values of a reading, and a hash of what they hang on besides the surface: a measurement or a picture, and how it is read.
fn reading_plane(
    document: &Document,
    name: &str,
    surface: &Surface,
    measured: &Measured,
) -> Result<(Plane, String), AppError> {
    let (reading, own) = reading_named(name)?;
    let key = reading.key(&surface.piece, &|kind| document.reading(kind));
    let key = key.map(|k| measured.in_force(k, surface));
    let hash = key.as_ref().map(|k| hash_on(k, surface));
    let planes = hash.as_ref().and_then(|h| measured.get(h));
    if let (Some(key), None) = (key, planes) {
        return Err(evaluate::EvaluateError::Missing(key).into());
    }
    let settings = reading.settings(&own, &document.reading(weather::KIND));
    let from = hash.clone().or_else(|| reading.stand_in(&surface.piece).map(|s| s.0.clone())).unwrap_or_default();
    let mut of = blake3::Hasher::new();
    of.update(from.as_bytes());
    settings.hash_into(&mut of);
    Ok((reading.plane(surface, &settings, planes.map(|p| &**p)), of.finalize().to_hex().to_string()))
}

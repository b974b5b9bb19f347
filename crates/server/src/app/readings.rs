//! Measurements: taken once, kept in the database, held in memory; coarse ones in memory alone until the real ones are done.

use std::sync::Arc;
use std::time::Instant;

use dustcoat_core::bake::{
    Extent, MEASUREMENTS, Measurement, MeasurementKey, Reading, Surface, measure, measurement, reading,
};
use dustcoat_core::document::Document;
use dustcoat_core::evaluate;
use dustcoat_core::mesh::Piece;
use dustcoat_core::raster::Plane;
use dustcoat_core::task::{Cancel, Cancelled, OnProgress, silent};

use super::{App, AppError, lock};
use crate::db::Measured;
use crate::views::{Event, Freshness, MeasurementState};

/// A measurement with the project's settings.
pub(super) fn key_of(document: &Document, piece: &Piece, measurement: &Measurement) -> MeasurementKey {
    let settings = document.readings.get(measurement.kind).cloned().unwrap_or_default();
    MeasurementKey::new(measurement, Extent::of(piece), &settings)
}

fn find(kind: &str) -> Result<&'static Measurement, AppError> {
    measurement::find(kind).ok_or_else(|| AppError::NoReading(kind.into()))
}

pub(super) fn find_reading(kind: &str) -> Result<&'static Reading, AppError> {
    reading::find(kind).ok_or_else(|| AppError::NoReading(kind.into()))
}

/// What a document needs on a piece: what its masks are read from, and occlusion, which goes into the packed map whether or not a mask asks for it.
fn wanted(document: &Document, piece: &Piece) -> Vec<MeasurementKey> {
    let mut out = evaluate::needs(document, piece);
    let project = |kind: &str| document.readings.get(kind).cloned().unwrap_or_default();
    let packed = reading::find("occlusion").and_then(|r| r.key(piece, &project));
    out.extend(packed.filter(|k| !out.contains(k)));
    out
}

fn settings_hash(key: &MeasurementKey) -> String {
    let mut h = blake3::Hasher::new();
    key.settings.hash_into(&mut h);
    h.finalize().to_hex().to_string()
}

/// What makes the last measurement a stale one, in words.
fn changed_since(last: &Measured, piece: &Piece, size: u32, key: &MeasurementKey) -> String {
    let mut what = vec![];
    if last.piece != piece.hash {
        what.push("the mesh");
    }
    if last.size != size {
        what.push("the draft size");
    }
    if last.settings != settings_hash(key) {
        what.push("its settings");
    }
    match what.as_slice() {
        [] => "It is no longer held.".into(),
        [one] => format!("Measured before {one} changed."),
        all => format!("Measured before {} changed.", all.join(" and ")),
    }
}

impl App {
    pub(super) fn measurement_states(
        &self,
        project: i64,
        document: &Document,
        piece: &Piece,
    ) -> Result<Vec<MeasurementState>, AppError> {
        let needs = wanted(document, piece);
        let texels = (document.draft_size as usize).pow(2);
        let state = |m: &&'static Measurement| {
            let key = key_of(document, piece, m);
            let seconds = self.db.reading_seconds(&key.hash(&piece.hash, document.draft_size))?;
            let last = self.db.last_measured(project, m.kind)?;
            let stale = last.as_ref().filter(|_| seconds.is_none());
            Ok(MeasurementState {
                kind: m.kind.into(),
                params: (m.specs)(Extent::of(piece)),
                planes: m.planes.iter().map(|(k, l)| ((*k).into(), (*l).into())).collect(),
                state: match (seconds, stale) {
                    (Some(_), _) => Freshness::Fresh,
                    (None, Some(_)) => Freshness::Stale,
                    (None, None) => Freshness::Missing,
                },
                why: stale.map_or(String::new(), |l| changed_since(l, piece, document.draft_size, &key)),
                seconds,
                estimate: last.map(|l| l.seconds / l.work.max(1.0) * key.work(texels)),
                needed: needs.contains(&key),
            })
        };
        MEASUREMENTS.iter().map(state).collect()
    }

    /// A measurement's values, if they are at hand.
    pub(super) fn held(&self, hash: &str) -> Option<Arc<Plane>> {
        self.readings.get(hash).or_else(|| {
            let (values, _) = self.db.reading(hash).ok()??;
            let plane = Arc::new(values);
            self.readings.insert(hash.into(), plane.clone());
            Some(plane)
        })
    }

    /// A measurement's values: held, kept, or taken now. Whoever asks for the same meanwhile waits for it.
    pub(super) fn ensure(
        &self,
        project: i64,
        key: &MeasurementKey,
        surface: &Surface,
        cancel: &Cancel,
        on: OnProgress,
    ) -> Result<Arc<Plane>, AppError> {
        let hash = key.hash(&surface.piece.hash, surface.atlas.size);
        if let Some(plane) = self.held(&hash) {
            return Ok(plane);
        }
        let turn = lock(&self.measuring).entry(hash.clone()).or_default().clone();
        let _mine = lock(&turn);
        if let Some(plane) = self.held(&hash) {
            return Ok(plane);
        }
        let clock = Instant::now();
        // In a pool of its own: an evaluation would have to wait behind it for minutes otherwise.
        let measurement = find(key.kind)?;
        let work = || measure(measurement, surface, &key.settings, cancel, on);
        let plane = Arc::new(self.measurers.install(work)?);
        let seconds = clock.elapsed().as_secs_f64();
        self.db.keep_reading(&hash, &plane, seconds)?;
        let measured = Measured {
            piece: surface.piece.hash.clone(),
            size: surface.atlas.size,
            settings: settings_hash(key),
            seconds,
            work: key.work((surface.atlas.size as usize).pow(2)),
        };
        self.db.note_measured(project, key.kind, &measured)?;
        self.readings.insert(hash.clone(), plane.clone());
        lock(&self.measuring).remove(&hash);
        Ok(plane)
    }

    /// Takes what a document needs and has not, with progress sent to the page.
    pub(super) fn ensure_needs(&self, project: i64, document: &Document, surface: &Surface) -> Result<(), AppError> {
        self.measure_keys(project, &self.missing(document, surface), surface, &self.begin(project))
    }

    /// Coarse measurements for what is missing, and the real ones under way in the background. Whether there are any coarse ones, and whether the
    /// real ones are coming: not when somebody stopped them.
    pub(super) fn provisional(
        self: &Arc<Self>,
        project: i64,
        document: &Document,
        surface: &Arc<Surface>,
        cancel: &Cancel,
    ) -> Result<(bool, bool), AppError> {
        let missing = self.missing(document, surface);
        if missing.is_empty() || surface.atlas.is_empty() {
            return Ok((false, false));
        }
        let hash = |k: &MeasurementKey| k.hash(&surface.piece.hash, surface.atlas.size);
        for key in &missing {
            if self.coarse.get(&hash(key)).is_none() {
                let plane = measure(find(key.kind)?, surface, &key.provisional().settings, cancel, &silent)?;
                self.coarse.insert(hash(key), Arc::new(plane));
            }
        }
        let wanted: Vec<MeasurementKey> =
            missing.into_iter().filter(|k| !lock(&self.stopped).contains(&hash(k))).collect();
        let improving = !wanted.is_empty();
        let names: Vec<String> = wanted.iter().map(hash).collect();
        let mut underway = lock(&self.improving);
        if improving && underway.get(&project) != Some(&names) {
            underway.insert(project, names.clone());
            // What was being measured for an earlier state of the document is not wanted any more.
            self.cancel_quietly(project);
            let cancel = self.begin(project);
            let (app, surface) = (self.clone(), surface.clone());
            std::thread::spawn(move || {
                let result = app.measure_keys(project, &wanted, &surface, &cancel);
                let mut underway = lock(&app.improving);
                if underway.get(&project) == Some(&names) {
                    underway.remove(&project);
                }
                drop(underway);
                if !matches!(result, Ok(()) | Err(AppError::Cancelled(Cancelled))) {
                    // Asked for again by the next evaluation, which then says why it fails.
                    lock(&app.stopped).extend(names);
                }
                app.send(Event::Idle { project });
            });
        }
        Ok((true, improving))
    }

    /// The measurements that a document needs and that are not at hand.
    pub(super) fn missing(&self, document: &Document, surface: &Surface) -> Vec<MeasurementKey> {
        let have = |k: &MeasurementKey| self.held(&k.hash(&surface.piece.hash, surface.atlas.size)).is_some();
        let mut missing = wanted(document, &surface.piece);
        missing.retain(|k| !have(k));
        missing
    }

    /// A flag by which the measuring that begins can be stopped.
    fn begin(&self, project: i64) -> Cancel {
        let cancel = Cancel::default();
        lock(&self.measurements).insert(project, cancel.clone());
        cancel
    }

    /// Does work that tells of its progress and can be stopped. Whatever becomes of it, the page hears that it is over.
    pub(super) fn working<T>(
        &self,
        project: i64,
        work: impl FnOnce(&Cancel, OnProgress) -> Result<T, AppError>,
    ) -> Result<T, AppError> {
        let cancel = self.begin(project);
        let tell = |label: &str, share: f32| {
            self.send(Event::Progress { project, label: label.into(), share, left: None });
        };
        let done = work(&cancel, &tell);
        lock(&self.measurements).remove(&project);
        self.send(Event::Idle { project });
        done
    }

    fn measure_keys(
        &self,
        project: i64,
        keys: &[MeasurementKey],
        surface: &Surface,
        cancel: &Cancel,
    ) -> Result<(), AppError> {
        if keys.is_empty() || surface.atlas.is_empty() {
            return Ok(());
        }
        let clock = Instant::now();
        let result = keys.iter().enumerate().try_for_each(|(i, key)| {
            let on = |label: &str, share: f32| {
                let share = (i as f32 + share) / keys.len() as f32;
                let passed = clock.elapsed().as_secs_f64();
                // The first moments say little of the rest.
                let left = (passed > 0.3 && share > 0.02).then(|| passed * f64::from((1.0 - share) / share));
                self.send(Event::Progress { project, label: label.into(), share, left });
            };
            self.ensure(project, key, surface, cancel, &on).map(|_| ())
        });
        if cancel.is_cancelled() {
            return result;
        }
        lock(&self.measurements).remove(&project);
        self.send(Event::Idle { project });
        result
    }

    /// Takes measurements of a project at its draft size; empty `kinds` means all.
    ///
    /// # Errors
    /// [`AppError::Cancelled`] when somebody cancelled; measurements that were done are kept.
    pub fn measure(&self, project: i64, kinds: &[String]) -> Result<(), AppError> {
        let (row, surface) = self.laid_out(project)?;
        if surface.atlas.is_empty() {
            return Err(evaluate::EvaluateError::NoTexels.into());
        }
        let wanted: Vec<&'static Measurement> = match kinds {
            [] => MEASUREMENTS.to_vec(),
            kinds => kinds.iter().map(|k| find(k)).collect::<Result<_, _>>()?,
        };
        let keys: Vec<MeasurementKey> = wanted.into_iter().map(|m| key_of(&row.document, &surface.piece, m)).collect();
        for key in &keys {
            lock(&self.stopped).remove(&key.hash(&surface.piece.hash, surface.atlas.size));
        }
        self.measure_keys(project, &keys, &surface, &self.begin(project))
    }

    /// Stops a project's measuring; what was asked for is not begun again until somebody asks.
    pub fn cancel(&self, project: i64) {
        if let Some(names) = lock(&self.improving).remove(&project) {
            lock(&self.stopped).extend(names);
        }
        self.cancel_quietly(project);
        self.send(Event::Idle { project });
    }

    fn cancel_quietly(&self, project: i64) {
        if let Some(cancel) = lock(&self.measurements).remove(&project) {
            cancel.cancel();
        }
    }
}

//! Measurements: taken once, kept in the database, held in memory; coarse ones in memory alone until the real ones are done.

use std::collections::HashMap;
use std::sync::Arc;
use std::time::Instant;

use dustcoat_core::bake::{
    Extent, MEASUREMENTS, Measurement, MeasurementKey, Surface, measure, measure_coarsely, measurement,
};
use dustcoat_core::document::Document;
use dustcoat_core::evaluate::{self, Measured, needs_with_occlusion};
use dustcoat_core::mesh::Piece;
use dustcoat_core::raster::Plane;
use dustcoat_core::task::{Cancel, OnProgress};

use super::jobs::Job;
use super::{App, AppError, lock};
use crate::db::{self, DbError};
use crate::views::{Freshness, JobKind, JobView, MeasurementState};

/// A measurement with the project's settings.
pub(super) fn key_of(document: &Document, piece: &Piece, measurement: &Measurement) -> MeasurementKey {
    let settings = document.reading(measurement.kind);
    MeasurementKey::new(measurement, Extent::of(piece), &settings)
}

fn find(kind: &str) -> Result<&'static Measurement, AppError> {
    measurement::find(kind).ok_or_else(|| AppError::NoReading(kind.into()))
}

/// What a measurement of a surface is kept under.
pub(super) fn hash_on(key: &MeasurementKey, surface: &Surface) -> String {
    key.hash(&surface.piece.hash, surface.atlas.size)
}

/// What an evaluation can begin with.
pub(super) struct Provisional {
    /// What is at hand.
    pub measured: Measured,
    /// Whether some of it is coarse.
    pub coarse: bool,
    /// Whether the real ones are coming: not when somebody stopped them.
    pub improving: bool,
}

/// The measurements being taken in the background for a project, by hash, and who wishes for them: what nobody wishes for any more is stopped.
#[derive(Default)]
pub(super) struct Improving {
    /// What each asker's last request wished for.
    wishes: HashMap<String, Vec<String>>,
    under_way: Vec<(Vec<String>, Cancel)>,
}

impl Improving {
    /// Takes what somebody wishes for in the place of what they wished for before.
    fn wish(&mut self, by: &str, hashes: Vec<String>) {
        self.wishes.insert(by.to_owned(), hashes);
        self.tidy();
    }

    /// Forgets the wishes of a page, and of what it asks beside it.
    pub(super) fn forget(&mut self, page: &str) {
        self.wishes.retain(|by, _| by.split('/').next() != Some(page));
        self.tidy();
    }

    /// Forgets what was taken, or can't be.
    fn end(&mut self, hashes: &[String]) {
        self.under_way.retain(|(h, _)| h != hashes);
        for wished in self.wishes.values_mut() {
            wished.retain(|h| !hashes.contains(h));
        }
        self.tidy();
    }

    fn tidy(&mut self) {
        let Improving { wishes, under_way } = self;
        wishes.retain(|_, wished| !wished.is_empty());
        under_way.retain(|(hashes, cancel)| {
            let wanted = wishes.values().flatten().any(|h| hashes.contains(h));
            if !wanted {
                cancel.cancel();
            }
            wanted
        });
    }
}

fn settings_hash(key: &MeasurementKey) -> String {
    let mut h = blake3::Hasher::new();
    key.settings.hash_into(&mut h);
    h.finalize().to_hex().to_string()
}

/// What makes the last measurement a stale one, in words.
fn changed_since(last: &db::Measured, piece: &Piece, size: u32, key: &MeasurementKey) -> String {
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
        let needs = needs_with_occlusion(document, piece);
        let texels = (document.draft_size as usize).pow(2);
        let state = |m: &&'static Measurement| {
            let key = key_of(document, piece, m);
            let seconds = self.db.reading_seconds(&key.hash(&piece.hash, document.draft_size))?;
            let last = self.db.last_measured(project, m.kind)?;
            let stale = last.as_ref().filter(|_| seconds.is_none());
            Ok(MeasurementState {
                kind: m.kind.into(),
                params: (m.specs)(Extent::of(piece)),
                weather: !m.weather.is_empty(),
                state: match (seconds, stale) {
                    (Some(_), _) => Freshness::Fresh,
                    (None, Some(_)) => Freshness::Stale,
                    (None, None) => Freshness::Missing,
                },
                why: stale.map_or(String::new(), |l| changed_since(l, piece, document.draft_size, &key)),
                seconds,
                estimate: last.map(|l| l.estimate(key.work(texels))),
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

    /// What is at hand of some measurements; with `coarse`, also coarse ones where the real ones are missing.
    pub(super) fn at_hand(&self, keys: &[MeasurementKey], surface: &Surface, coarse: bool) -> Measured {
        let mut out = Measured::default();
        for key in keys {
            let hash = hash_on(key, surface);
            if let Some(plane) = self.held(&hash) {
                out.insert(hash, plane);
                continue;
            }
            let hash = hash_on(&key.provisional(), surface);
            if let Some(plane) = self.coarse.get(&hash).filter(|_| coarse) {
                out.insert(hash, plane);
            }
        }
        out
    }

    /// A measurement's values: held, kept, or taken now. Whoever asks for the same meanwhile waits for it.
    fn ensure(
        &self,
        project: i64,
        key: &MeasurementKey,
        surface: &Surface,
        cancel: &Cancel,
        on: OnProgress,
    ) -> Result<Arc<Plane>, AppError> {
        let hash = hash_on(key, surface);
        if let Some(plane) = self.held(&hash) {
            return Ok(plane);
        }
        let turn = lock(&self.measuring).entry(hash.clone()).or_default().clone();
        let mine = lock(&turn);
        if let Some(plane) = self.held(&hash) {
            return Ok(plane);
        }
        let clock = Instant::now();
        // On threads of its own: an evaluation would have to wait behind it for minutes otherwise, and a thread that waits in one measurement takes up some of another, behind which
        // the first could not be stopped.
        let threads = rayon::ThreadPoolBuilder::new().build().map_err(|e| DbError::Broken(e.to_string()))?;
        let measurement = find(key.kind)?;
        let measured = threads.install(|| measure(measurement, surface, &key.settings, cancel, on));
        let done = measured.map(|plane| {
            let plane = Arc::new(plane);
            self.readings.insert(hash.clone(), plane.clone());
            plane
        });
        drop(mine);
        lock(&self.measuring).remove(&hash);
        let plane = done?;
        let seconds = clock.elapsed().as_secs_f64();
        let measured = db::Measured {
            piece: surface.piece.hash.clone(),
            size: surface.atlas.size,
            settings: settings_hash(key),
            seconds,
            work: key.work((surface.atlas.size as usize).pow(2)),
        };
        let kept = self.db.keep_reading(&hash, &plane, seconds);
        if let Err(error) = kept.and_then(|()| self.db.note_measured(project, key.kind, &measured)) {
            // Minutes of work are used all the same; they will be measured again after a restart.
            eprintln!("dustcoat: a measurement could not be kept: {error}");
        }
        Ok(plane)
    }

    /// Measurements taken now as far as they are not at hand, as a job that the page sees.
    pub(super) fn ensure_all(
        &self,
        project: i64,
        keys: &[MeasurementKey],
        surface: &Surface,
        cancel: &Cancel,
    ) -> Result<Measured, AppError> {
        let mut out = self.at_hand(keys, surface, false);
        let missing: Vec<MeasurementKey> =
            keys.iter().filter(|k| out.get(&hash_on(k, surface)).is_none()).cloned().collect();
        if missing.is_empty() || surface.atlas.is_empty() {
            return Ok(out);
        }
        let job = self.jobs.begin(project, JobKind::Measuring, missing.iter().map(|k| hash_on(k, surface)).collect());
        let either = cancel.or(&job.cancel);
        for (hash, plane) in self.measure_keys(&job, &either, project, &missing, surface)? {
            out.insert(hash, plane);
        }
        Ok(out)
    }

    /// What a document needs, measured now as far as it is not at hand.
    pub(super) fn ensure_needs(
        &self,
        project: i64,
        document: &Document,
        surface: &Surface,
    ) -> Result<Measured, AppError> {
        self.ensure_all(project, &evaluate::needs(document, &surface.piece), surface, &Cancel::default())
    }

    /// What is at hand of some measurements, coarse ones for what is missing, and what that is.
    pub(super) fn coarsely(
        &self,
        keys: &[MeasurementKey],
        surface: &Surface,
        cancel: &Cancel,
    ) -> Result<(Measured, Vec<MeasurementKey>), AppError> {
        let mut measured = self.at_hand(keys, surface, true);
        if surface.atlas.is_empty() {
            return Ok((measured, vec![]));
        }
        let lacking = |k: &&MeasurementKey| measured.get(&hash_on(k, surface)).is_none();
        let missing: Vec<MeasurementKey> = keys.iter().filter(lacking).cloned().collect();
        for key in missing.iter().map(|k| k.provisional()) {
            let hash = hash_on(&key, surface);
            if measured.get(&hash).is_none() {
                let plane = Arc::new(measure_coarsely(find(key.kind)?, surface, &key.settings, cancel)?);
                self.coarse.insert(hash.clone(), plane.clone());
                measured.insert(hash, plane);
            }
        }
        Ok((measured, missing))
    }

    /// What is at hand of some measurements, coarse ones for what is missing, and the real ones under way in the background. `by` is who asks: what they wished for before is not measured any
    /// more, unless somebody else wishes for it.
    pub(super) fn provisional(
        self: &Arc<Self>,
        project: i64,
        by: &str,
        keys: &[MeasurementKey],
        surface: &Arc<Surface>,
        cancel: &Cancel,
    ) -> Result<Provisional, AppError> {
        let (measured, missing) = self.coarsely(keys, surface, cancel)?;
        let (coarse, hash) = (!missing.is_empty(), |k: &MeasurementKey| hash_on(k, surface));
        let wished: Vec<MeasurementKey> =
            missing.into_iter().filter(|k| !lock(&self.stopped).contains(&hash(k))).collect();
        self.improve(project, by, &wished, surface);
        Ok(Provisional { measured, coarse, improving: !wished.is_empty() })
    }

    /// Takes measurements in the background, but for those that are being taken already.
    fn improve(self: &Arc<Self>, project: i64, by: &str, wished: &[MeasurementKey], surface: &Arc<Surface>) {
        let hash = |k: &MeasurementKey| hash_on(k, surface);
        let mut all = lock(&self.improving);
        let improving = all.entry(project).or_default();
        improving.wish(by, wished.iter().map(hash).collect());
        let keys: Vec<MeasurementKey> =
            wished.iter().filter(|k| !self.jobs.measures(project, &hash(k))).cloned().collect();
        if keys.is_empty() {
            return;
        }
        let hashes: Vec<String> = keys.iter().map(hash).collect();
        let job = self.jobs.begin(project, JobKind::Measuring, hashes.clone());
        improving.under_way.push((hashes.clone(), job.cancel.clone()));
        drop(all);
        let (app, surface) = (self.clone(), surface.clone());
        std::thread::spawn(move || {
            let result = app.measure_keys(&job, &job.cancel, project, &keys, &surface).map(|_| ());
            if result.as_ref().is_err_and(|e| !e.is_cancelled()) {
                // Not begun again by itself, which would fail again.
                lock(&app.stopped).extend(hashes.iter().cloned());
            }
            if let Some(improving) = lock(&app.improving).get_mut(&project) {
                improving.end(&hashes);
            }
            job.end(result);
        });
    }

    fn measure_keys(
        &self,
        job: &Job,
        cancel: &Cancel,
        project: i64,
        keys: &[MeasurementKey],
        surface: &Surface,
    ) -> Result<Vec<(String, Arc<Plane>)>, AppError> {
        let clock = Instant::now();
        let one = |(i, key): (usize, &MeasurementKey)| {
            let on = |label: &str, share: f32| {
                let share = (i as f32 + share) / keys.len() as f32;
                let passed = clock.elapsed().as_secs_f64();
                // The first moments say little of the rest.
                let left = (passed > 0.3 && share > 0.02).then(|| passed * f64::from((1.0 - share) / share));
                job.tell(label, share, left);
            };
            Ok((hash_on(key, surface), self.ensure(project, key, surface, cancel, &on)?))
        };
        keys.iter().enumerate().map(one).collect()
    }

    /// Takes measurements of a project at its draft size; empty `kinds` means all. With `wait` they are done when it returns. The number of the job.
    ///
    /// # Errors
    /// [`AppError::Cancelled`] when somebody stopped it; measurements that were done are kept.
    pub fn measure(self: &Arc<Self>, project: i64, kinds: &[String], wait: bool) -> Result<u64, AppError> {
        let (row, surface) = self.laid_out(project)?;
        if surface.atlas.is_empty() {
            return Err(evaluate::EvaluateError::NoTexels.into());
        }
        let asked: Vec<&'static Measurement> = match kinds {
            [] => MEASUREMENTS.to_vec(),
            kinds => kinds.iter().map(|k| find(k)).collect::<Result<_, _>>()?,
        };
        let keys: Vec<MeasurementKey> = asked.into_iter().map(|m| key_of(&row.document, &surface.piece, m)).collect();
        let hashes: Vec<String> = keys.iter().map(|k| hash_on(k, &surface)).collect();
        for hash in &hashes {
            lock(&self.stopped).remove(hash);
        }
        let job = self.jobs.begin(project, JobKind::Measuring, hashes);
        let number = job.number;
        if wait {
            self.measure_keys(&job, &job.cancel, project, &keys, &surface)?;
        } else {
            let app = self.clone();
            std::thread::spawn(move || {
                let result = app.measure_keys(&job, &job.cancel, project, &keys, &surface);
                job.end(result.map(|_| ()));
            });
        }
        Ok(number)
    }

    /// What is under way for a project.
    pub fn jobs_of(&self, project: i64) -> Vec<JobView> {
        self.jobs.of(project)
    }

    /// Stops one of a project's jobs. What it measured is not begun again until somebody asks.
    pub fn stop(&self, project: i64, job: u64) {
        lock(&self.stopped).extend(self.jobs.stop(project, job));
    }
}

//! Readings: measured once, kept in the database, held in memory.

use std::sync::Arc;
use std::time::Instant;

use dustcoat_core::bake::{READINGS, Reading, ReadingKey, Surface, measure, reading};
use dustcoat_core::document::Document;
use dustcoat_core::evaluate;
use dustcoat_core::mesh::Piece;
use dustcoat_core::raster::Plane;
use dustcoat_core::setting::{DialStates, resolve};
use dustcoat_core::task::{Cancel, OnProgress};

use super::{App, AppError, lock};
use crate::views::{Event, ReadingState};

/// A reading with the project's settings.
pub(super) fn key_of(document: &Document, reading: &'static Reading) -> ReadingKey {
    let settings = document.readings.get(reading.kind).cloned().unwrap_or_default();
    ReadingKey { kind: reading.kind, settings: resolve(&(reading.specs)(), &settings, &DialStates::new()) }
}

fn find(kind: &str) -> Result<&'static Reading, AppError> {
    reading::find(kind).ok_or_else(|| AppError::NoReading(kind.into()))
}

impl App {
    pub(super) fn reading_states(&self, document: &Document, piece: &Piece) -> Result<Vec<ReadingState>, AppError> {
        let needs = evaluate::needs(document);
        let state = |r: &&'static Reading| {
            let key = key_of(document, r);
            let hash = key.hash(&piece.hash, document.draft_size);
            let seconds = if r.measured { self.db.reading_seconds(&hash)? } else { None };
            Ok(ReadingState {
                kind: r.kind.into(),
                measured: r.measured,
                fresh: !r.measured || seconds.is_some(),
                seconds,
                needed: needs.contains(&key),
            })
        };
        READINGS.iter().map(state).collect()
    }

    /// A reading's values, if they are at hand.
    pub(super) fn held(&self, hash: &str) -> Option<Arc<Plane>> {
        self.readings.get(hash).or_else(|| {
            let (values, _) = self.db.reading(hash).ok()??;
            let plane = Arc::new(values);
            self.readings.insert(hash.into(), plane.clone());
            Some(plane)
        })
    }

    /// A reading's values: held, kept, or measured now. Whoever asks for the same reading meanwhile waits for it.
    pub(super) fn ensure(
        &self,
        key: &ReadingKey,
        surface: &Surface,
        cancel: &Cancel,
        on: OnProgress,
    ) -> Result<Arc<Plane>, AppError> {
        let reading = find(key.kind)?;
        let hash = key.hash(&surface.piece.hash, surface.atlas.size);
        if reading.measured
            && let Some(plane) = self.held(&hash)
        {
            return Ok(plane);
        }
        let turn = lock(&self.measuring).entry(hash.clone()).or_default().clone();
        let _mine = lock(&turn);
        if reading.measured
            && let Some(plane) = self.held(&hash)
        {
            return Ok(plane);
        }
        let clock = Instant::now();
        let plane = Arc::new(measure(reading, surface, &key.settings, cancel, on)?);
        if reading.measured {
            self.db.keep_reading(&hash, &plane, clock.elapsed().as_secs_f64())?;
            self.readings.insert(hash.clone(), plane.clone());
        }
        lock(&self.measuring).remove(&hash);
        Ok(plane)
    }

    /// Measures what a document needs and has not, with progress sent to the page.
    pub(super) fn ensure_needs(&self, project: i64, document: &Document, surface: &Surface) -> Result<(), AppError> {
        self.measure_keys(project, &self.missing(document, surface), surface)
    }

    /// The readings that a document needs and that are not at hand.
    pub(super) fn missing(&self, document: &Document, surface: &Surface) -> Vec<ReadingKey> {
        let have = |k: &ReadingKey| self.held(&k.hash(&surface.piece.hash, surface.atlas.size)).is_some();
        let mut missing: Vec<ReadingKey> = evaluate::needs(document).into_iter().filter(|k| !have(k)).collect();
        // Occlusion goes into the packed map whether or not a mask asks for it.
        if let Ok(occlusion) = find("occlusion") {
            let key = key_of(document, occlusion);
            if !have(&key) && !missing.contains(&key) {
                missing.push(key);
            }
        }
        missing
    }

    fn measure_keys(&self, project: i64, keys: &[ReadingKey], surface: &Surface) -> Result<(), AppError> {
        if keys.is_empty() || surface.atlas.is_empty() {
            return Ok(());
        }
        let cancel = lock(&self.measurements).entry(project).or_default().clone();
        let result = keys.iter().enumerate().try_for_each(|(i, key)| {
            let on = |label: &str, share: f32| {
                let share = (i as f32 + share) / keys.len() as f32;
                self.send(Event::Progress { project, label: label.into(), share });
            };
            self.ensure(key, surface, &cancel, &on).map(|_| ())
        });
        lock(&self.measurements).remove(&project);
        self.send(Event::Idle { project });
        result
    }

    /// Measures readings of a project at its draft size; empty `kinds` means all that cost rays.
    ///
    /// # Errors
    /// [`AppError::Cancelled`] when somebody cancelled; readings that were done are kept.
    pub fn measure(&self, project: i64, kinds: &[String]) -> Result<(), AppError> {
        let (row, surface) = self.laid_out(project)?;
        if surface.atlas.is_empty() {
            return Err(evaluate::EvaluateError::NoTexels.into());
        }
        let wanted: Vec<&'static Reading> = match kinds {
            [] => READINGS.iter().copied().filter(|r| r.measured).collect(),
            kinds => kinds.iter().map(|k| find(k)).collect::<Result<_, _>>()?,
        };
        let keys: Vec<ReadingKey> = wanted.into_iter().map(|r| key_of(&row.document, r)).collect();
        self.measure_keys(project, &keys, &surface)
    }

    /// Stops a project's measuring.
    pub fn cancel(&self, project: i64) {
        if let Some(cancel) = lock(&self.measurements).remove(&project) {
            cancel.cancel();
        }
    }
}

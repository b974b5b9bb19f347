//! The measurements that an evaluation reads: looked up before it begins and held until it ends, so that nothing can go in between.

use std::collections::BTreeMap;
use std::sync::Arc;

use crate::bake::{MeasurementKey, Surface, measure, measurement, reading};
use crate::document::Document;
use crate::raster::Plane;
use crate::setting::{DialStates, Settings, resolve};
use crate::task::{Cancel, Cancelled, OnProgress};

/// Measurements by hash ([`MeasurementKey::hash`]), all planes of one behind one another.
#[derive(Debug, Clone, Default)]
pub struct Measured(BTreeMap<String, Arc<Plane>>);

impl Measured {
    /// None at hand.
    pub const NONE: &'static Measured = &Measured(BTreeMap::new());

    /// Takes one in.
    pub fn insert(&mut self, hash: String, plane: Arc<Plane>) {
        self.0.insert(hash, plane);
    }

    /// Takes others in.
    pub fn extend(&mut self, others: Measured) {
        self.0.extend(others.0);
    }

    /// One, if it is at hand.
    pub fn get(&self, hash: &str) -> Option<&Arc<Plane>> {
        self.0.get(hash)
    }

    /// Measures all that is asked for.
    ///
    /// # Errors
    /// [`Cancelled`] when asked to stop.
    pub fn take(
        keys: &[MeasurementKey],
        surface: &Surface,
        cancel: &Cancel,
        on: OnProgress,
    ) -> Result<Measured, Cancelled> {
        let known = keys.iter().filter_map(|k| Some((k, measurement::find(k.kind)?)));
        let one = |(key, m): (&MeasurementKey, _)| {
            let plane = measure(m, surface, &key.settings, cancel, on)?;
            Ok((key.hash(&surface.piece.hash, surface.atlas.size), Arc::new(plane)))
        };
        known.map(one).collect()
    }

    /// The occlusion that goes into the packed map, with a hash of what it is made of: a picture that stands in, or what was measured, if it is at hand.
    pub fn occlusion(&self, document: &Document, surface: &Surface) -> Option<(String, Arc<Plane>)> {
        let reading = reading::find("occlusion")?;
        let Some(key) = reading.key(&surface.piece, &|kind| document.reading(kind)) else {
            let (hash, _) = reading.stand_in(&surface.piece)?;
            let settings = resolve(&(reading.specs)(), &Settings::new(), &DialStates::new());
            return Some((hash.clone(), Arc::new(reading.plane(surface, &settings, None))));
        };
        let hash = self.in_force(key, surface).hash(&surface.piece.hash, surface.atlas.size);
        Some((hash.clone(), self.get(&hash)?.clone()))
    }

    /// What is read in the place of a measurement: itself; or the coarse one, where only that is at hand. Whatever is worked out from a coarse one has
    /// another hash then, and nothing else has.
    pub fn in_force(&self, key: MeasurementKey, surface: &Surface) -> MeasurementKey {
        let there = |k: &MeasurementKey| self.0.contains_key(&k.hash(&surface.piece.hash, surface.atlas.size));
        let coarse = key.provisional();
        if !there(&key) && there(&coarse) { coarse } else { key }
    }

    /// The same measurements with other values.
    pub fn map(&self, value: impl Fn(&Plane) -> Plane) -> Measured {
        self.0.iter().map(|(hash, plane)| (hash.clone(), Arc::new(value(plane)))).collect()
    }
}

impl FromIterator<(String, Arc<Plane>)> for Measured {
    fn from_iter<T: IntoIterator<Item = (String, Arc<Plane>)>>(all: T) -> Self {
        Self(all.into_iter().collect())
    }
}

//! The measurements that an evaluation reads: looked up before it begins and held until it ends, so that nothing can go in between.

use std::collections::BTreeMap;
use std::sync::Arc;

use crate::bake::{MeasurementKey, Surface, measure, measurement, reading};
use crate::document::Document;
use crate::raster::Plane;
use crate::setting::Settings;
use crate::task::{Cancel, Cancelled, OnProgress};

/// Measurements by hash ([`MeasurementKey::hash`]), all planes of one behind one another.
#[derive(Debug, Clone, Default)]
pub struct Measured {
    planes: BTreeMap<String, Arc<Plane>>,
    /// The size that some or all are drawn down or up from.
    drawn_from: Option<u32>,
}

impl Measured {
    /// None at hand.
    pub const NONE: &'static Measured = &Measured { planes: BTreeMap::new(), drawn_from: None };

    /// Takes one in.
    pub fn insert(&mut self, hash: String, plane: Arc<Plane>) {
        self.planes.insert(hash, plane);
    }

    /// Takes others in.
    pub fn extend(&mut self, others: Measured) {
        self.planes.extend(others.planes);
    }

    /// One, if it is at hand.
    pub fn get(&self, hash: &str) -> Option<&Arc<Plane>> {
        self.planes.get(hash)
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
            let settings = reading.settings(&Settings::new(), &Settings::new());
            return Some((hash.clone(), Arc::new(reading.plane(surface, &settings, None))));
        };
        let hash = self.in_force(key, surface).hash(&surface.piece.hash, surface.atlas.size);
        Some((hash.clone(), self.get(&hash)?.clone()))
    }

    /// What is read in the place of a measurement: itself; or what is drawn from another size; or the coarse one, where only that is at hand. Whatever is worked out from one of
    /// those has another hash then, and nothing else has.
    pub fn in_force(&self, key: MeasurementKey, surface: &Surface) -> MeasurementKey {
        let there = |k: &MeasurementKey| self.planes.contains_key(&k.hash(&surface.piece.hash, surface.atlas.size));
        let drawn = |k: &MeasurementKey| self.drawn_from.map(|from| k.drawn_from(from));
        let coarse = key.provisional();
        let mut all = [Some(key.clone()), drawn(&key), Some(coarse.clone()), drawn(&coarse)].into_iter().flatten();
        all.find(there).unwrap_or(key)
    }

    /// What is read of some measurements in the place of those at a smaller size: drawn down from these of `surface` by `draw`, which is given what each is kept under
    /// and makes it where that isn't held.
    pub fn drawn_down(
        &self,
        keys: &[MeasurementKey],
        surface: &Surface,
        size: u32,
        mut draw: impl FnMut(String, &dyn Fn() -> Plane) -> Arc<Plane>,
    ) -> Measured {
        let from = surface.atlas.size;
        let mut planes = BTreeMap::new();
        for key in keys.iter().map(|k| self.in_force(k.clone(), surface)) {
            let Some(plane) = self.get(&key.hash(&surface.piece.hash, from)) else { continue };
            let hash = key.drawn_from(from).hash(&surface.piece.hash, size);
            planes.insert(hash.clone(), draw(hash, &|| surface.drawn_down(plane, size)));
        }
        Measured { planes, drawn_from: Some(from) }
    }

    /// These, and what is read of some measurements that were taken of the coarsest of a surface's levels: drawn up to the surface's own size.
    pub fn and_drawn_up(mut self, keys: &[MeasurementKey], below: &Measured, levels: &[&Surface]) -> Measured {
        let (surface, coarsest) = (levels[0], levels[levels.len() - 1]);
        let (piece, from) = (&surface.piece.hash, coarsest.atlas.size);
        if from == surface.atlas.size {
            self.extend(below.clone());
            return self;
        }
        for key in keys {
            let Some(planes) = below.get(&key.hash(piece, from)) else { continue };
            let drawn = Surface::drawn_up(levels, planes);
            self.insert(key.drawn_from(from).hash(piece, surface.atlas.size), Arc::new(drawn));
        }
        self.drawn_from = Some(from);
        self
    }

    /// The same measurements with other values.
    pub fn map(&self, value: impl Fn(&Plane) -> Plane) -> Measured {
        self.planes.iter().map(|(hash, plane)| (hash.clone(), Arc::new(value(plane)))).collect()
    }
}

impl FromIterator<(String, Arc<Plane>)> for Measured {
    fn from_iter<T: IntoIterator<Item = (String, Arc<Plane>)>>(all: T) -> Self {
        Self { planes: all.into_iter().collect(), drawn_from: None }
    }
}

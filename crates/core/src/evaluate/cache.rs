//! What was computed before, by content hash, within a byte budget.

use std::collections::BTreeMap;
use std::sync::Arc;

use quick_cache::Weighter;
use quick_cache::sync::Cache as Inner;

use crate::raster::Plane;

#[derive(Clone)]
struct Bytes;

impl Weighter<String, Arc<Plane>> for Bytes {
    fn weight(&self, key: &String, plane: &Arc<Plane>) -> u64 {
        (plane.len() * 4 + key.len() + 64) as u64
    }
}

/// Planes by content hash. The oldest go when the budget is used up; whoever holds one keeps it.
pub struct Cache {
    inner: Inner<String, Arc<Plane>, Bytes>,
    budget: u64,
    /// What never goes.
    known: BTreeMap<String, Arc<Plane>>,
}

/// A cache shared by whoever evaluates.
pub type Store = Arc<Cache>;

impl Cache {
    /// A cache of at most `budget` bytes.
    pub fn new(budget: u64) -> Self {
        Self::knowing(BTreeMap::new(), budget)
    }

    /// The same with planes that are known beforehand, outside the budget, and never go.
    pub fn knowing(known: BTreeMap<String, Arc<Plane>>, budget: u64) -> Self {
        // Planes are megabytes: the estimate of entries only sizes the index.
        Self { inner: Inner::with_weighter(1024, budget, Bytes), budget, known }
    }

    /// The plane of a key, if it is still there.
    pub fn get(&self, key: &str) -> Option<Arc<Plane>> {
        self.known.get(key).cloned().or_else(|| self.inner.get(key))
    }

    /// Keeps a plane and hands it back.
    pub fn put(&self, key: String, plane: Plane) -> Arc<Plane> {
        let plane = Arc::new(plane);
        self.inner.insert(key, plane.clone());
        plane
    }

    /// Whether single fields of `texels` values are worth keeping: not when a dozen of them would fill the budget.
    pub fn keeps_fields(&self, texels: usize) -> bool {
        texels as u64 * 4 * 12 <= self.budget
    }

    /// Bytes held.
    pub fn bytes(&self) -> u64 {
        self.inner.weight()
    }
}

//! What was computed before, by content hash, within a byte budget: planes, and what shapers found of a surface.

use std::any::Any;
use std::collections::BTreeMap;
use std::num::NonZeroUsize;
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

use lru::LruCache;

use crate::raster::Plane;

/// Planes and the like by content hash. What was not asked for longest goes when the budget is used up; whoever holds one keeps it.
pub struct Cache {
    held: Mutex<Held>,
    budget: u64,
    /// What never goes.
    known: BTreeMap<String, Arc<Plane>>,
    /// What was laid last, by what it was for: a content hash below each layer.
    laid: Mutex<LruCache<String, Vec<blake3::Hash>>>,
}

/// How many of what was laid last is remembered: for a project at three sizes, about twenty pieces with six channels each.
const LAID: NonZeroUsize = NonZeroUsize::new(384).expect("more than nothing");

struct Held {
    all: LruCache<String, (Kept, u64)>,
    bytes: u64,
}

type Kept = Arc<dyn Any + Send + Sync>;

/// A cache shared by whoever evaluates.
pub type Store = Arc<Cache>;

impl Cache {
    /// A cache of at most `budget` bytes.
    pub fn new(budget: u64) -> Self {
        Self::knowing(BTreeMap::new(), budget)
    }

    /// The same with planes that are known beforehand, outside the budget, and never go.
    pub fn knowing(known: BTreeMap<String, Arc<Plane>>, budget: u64) -> Self {
        let held = Mutex::new(Held { all: LruCache::unbounded(), bytes: 0 });
        Self { held, budget, known, laid: Mutex::new(LruCache::new(LAID)) }
    }

    fn held(&self) -> MutexGuard<'_, Held> {
        // A panic while holding the lock leaves planes that are whole.
        self.held.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// The plane of a key, if it is still there.
    pub fn get(&self, key: &str) -> Option<Arc<Plane>> {
        self.known.get(key).cloned().or_else(|| self.kept(key)?.downcast().ok())
    }

    /// Keeps a plane and hands it back. One that is larger than the whole budget is handed back alone.
    pub fn put(&self, key: String, plane: Plane) -> Arc<Plane> {
        let plane = Arc::new(plane);
        let bytes = plane.len() as u64 * 4;
        self.keep(key, plane.clone(), bytes);
        plane
    }

    /// What is kept by a key, if it is still there.
    pub fn kept(&self, key: &str) -> Option<Arc<dyn Any + Send + Sync>> {
        self.held().all.get(key).map(|(kept, _)| kept.clone())
    }

    /// Keeps something that takes so many bytes, unless that is more than the whole budget.
    pub fn keep(&self, key: String, what: Arc<dyn Any + Send + Sync>, bytes: u64) {
        let size = bytes + key.len() as u64 + 64;
        if size > self.budget {
            return;
        }
        let mut gone = vec![];
        let mut held = self.held();
        held.bytes += size;
        if let Some((_, (old, size))) = held.all.push(key, (what, size)) {
            held.bytes -= size;
            gone.push(old);
        }
        while held.bytes > self.budget
            && let Some((_, (old, size))) = held.all.pop_lru()
        {
            held.bytes -= size;
            gone.push(old);
        }
        // Megabytes are freed without holding the lock.
        drop(held);
    }

    /// Bytes that it holds at most.
    pub fn budget(&self) -> u64 {
        self.budget
    }

    /// Whether single fields of `texels` values are worth keeping: not when a dozen of them would fill the budget.
    pub fn keeps_fields(&self, texels: usize) -> bool {
        texels as u64 * 4 * 12 <= self.budget
    }

    /// How many of `hashes`, from the first on, are as they were when this was asked the last time for the same; these are remembered in their place. It steers what is kept, and
    /// never what is computed.
    pub fn alike(&self, of: &str, hashes: &[blake3::Hash]) -> usize {
        let mut laid = self.laid.lock().unwrap_or_else(PoisonError::into_inner);
        let before = laid.put(of.to_owned(), hashes.to_vec());
        before.map_or(0, |before| before.iter().zip(hashes).take_while(|(a, b)| a == b).count())
    }

    /// Bytes held.
    pub fn bytes(&self) -> u64 {
        self.held().bytes
    }
}

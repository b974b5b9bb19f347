//! Database, core and caches tied together, without knowing of HTTP. Everything here may take a while and runs off the async threads.

mod cabinet;
mod errors;
mod evaluate;
mod handoff;
mod pieces;
mod projects;
mod readings;
mod snapshots;
mod stills;

use std::collections::{HashMap, HashSet};
use std::path::Path;
use std::sync::{Arc, Mutex, PoisonError};

use dustcoat_core::bake::layout::UvReport;
use dustcoat_core::bake::{Finer, Surface};
use dustcoat_core::evaluate::Cache;
use dustcoat_core::mesh::Piece;
use dustcoat_core::raster::Plane;
use dustcoat_core::task::Cancel;
use moka::sync::Cache as Moka;
use tokio::sync::broadcast;

pub use errors::AppError;

use crate::db::{Db, DbError};
use crate::views::Event;

/// How many bytes of pixels, planes and readings are held.
const PIXEL_BUDGET: u64 = 768 << 20;
const PLANE_BUDGET: u64 = 1 << 30;
const READING_BUDGET: u64 = 512 << 20;

/// The application.
pub struct App {
    /// What is kept.
    pub db: Db,
    /// What happens.
    pub events: broadcast::Sender<Event>,
    pieces: Moka<String, Arc<Piece>>,
    surfaces: Moka<(String, u32), Arc<Surface>>,
    finers: Moka<String, Arc<Finer>>,
    layouts: Moka<(String, u32), UvReport>,
    readings: Moka<String, Arc<Plane>>,
    /// Coarse measurements, by the hash of the real ones.
    coarse: Moka<String, Arc<Plane>>,
    pixels: Moka<String, Arc<Vec<u8>>>,
    shots: Moka<String, Arc<evaluate::TileShot>>,
    planes: Cache,
    /// Threads that measure, apart from those that evaluate.
    measurers: rayon::ThreadPool,
    /// One measurement of a reading at a time; whoever asks for the same waits and finds it done.
    measuring: Mutex<HashMap<String, Arc<Mutex<()>>>>,
    /// The evaluation under way per page, so that the next one can overtake it.
    running: Mutex<HashMap<String, Cancel>>,
    /// The measurement under way per project, so that it can be cancelled.
    measurements: Mutex<HashMap<i64, Cancel>>,
    /// The measurements being taken in the background per project, by hash.
    improving: Mutex<HashMap<i64, Vec<String>>>,
    /// Measurements that somebody stopped: not begun again until somebody asks.
    stopped: Mutex<HashSet<String>>,
}

impl App {
    /// Opens the application on a folder.
    ///
    /// # Errors
    /// [`DbError`] when the database can't be opened.
    pub fn open(folder: &Path) -> Result<App, DbError> {
        fn by_bytes<K: std::hash::Hash + Eq + Send + Sync + 'static, V: Clone + Send + Sync + 'static>(
            budget: u64,
            bytes: fn(&V) -> usize,
        ) -> Moka<K, V> {
            let weigh = move |_: &K, v: &V| u32::try_from(bytes(v) + 256).unwrap_or(u32::MAX);
            Moka::builder().max_capacity(budget).weigher(weigh).build()
        }
        Ok(App {
            db: Db::open(folder)?,
            events: broadcast::channel(256).0,
            pieces: Moka::new(16),
            surfaces: Moka::new(6),
            finers: Moka::new(4),
            layouts: Moka::new(64),
            readings: by_bytes(READING_BUDGET, |p: &Arc<Plane>| p.len() * 4),
            coarse: by_bytes(READING_BUDGET / 4, |p: &Arc<Plane>| p.len() * 4),
            pixels: by_bytes(PIXEL_BUDGET, |p: &Arc<Vec<u8>>| p.len()),
            shots: Moka::new(16),
            planes: Cache::new(PLANE_BUDGET),
            measurers: rayon::ThreadPoolBuilder::new().build().map_err(|e| DbError::Broken(e.to_string()))?,
            measuring: Mutex::default(),
            running: Mutex::default(),
            measurements: Mutex::default(),
            improving: Mutex::default(),
            stopped: Mutex::default(),
        })
    }

    /// Pixels of an address, while they are held.
    pub fn pixels(&self, address: &str) -> Option<Arc<Vec<u8>>> {
        self.pixels.get(address)
    }

    /// Keeps what a key stands for under an address, computing it only when it is not held.
    fn pixels_of(&self, key: &str, make: impl FnOnce() -> Vec<u8>) -> String {
        // Browsers keep what lies at an address, and another version may compute other pixels.
        let key = format!("{}/{key}", env!("CARGO_PKG_VERSION"));
        let address = blake3::hash(key.as_bytes()).to_hex().to_string();
        // The entry API computes once even when two ask together.
        self.pixels.get_with(address.clone(), || Arc::new(make()));
        address
    }

    fn send(&self, event: Event) {
        // Nobody listening is fine.
        let _ = self.events.send(event);
    }
}

/// A lock whose holder panicked is taken over: what it guards are tables of handles that stay valid.
fn lock<T>(mutex: &Mutex<T>) -> std::sync::MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}

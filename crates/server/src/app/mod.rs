//! Database, core and caches tied together, without knowing of HTTP. Everything here may take a while and runs off the async threads.

mod arrivals;
mod cabinet;
mod changed;
mod clock;
mod errors;
mod evaluate;
mod found;
mod handoff;
mod jobs;
mod ladders;
mod looks;
mod made;
mod open_pages;
mod patches;
mod photographs;
mod pictured;
mod pieces;
mod pixels;
mod projects;
mod readings;
mod shelf;
mod snapshots;
mod stills;
mod strokes;
mod turns;
mod written;

pub use clock::Clock;

use std::collections::{HashMap, HashSet};
use std::path::Path;
use std::sync::{Arc, Mutex, PoisonError};

use dustcoat_core::bake::layout::UvReport;
use dustcoat_core::bake::{Finer, MeasurementKey, Surface};
use dustcoat_core::document::Document;
use dustcoat_core::evaluate::Cache;
use dustcoat_core::mesh::Piece;
use dustcoat_core::raster::Plane;
use moka::policy::EvictionPolicy;
use moka::sync::Cache as Moka;
use tokio::sync::broadcast;

pub use errors::AppError;
use jobs::Jobs;
pub use ladders::{ladder, steps};
pub use open_pages::GONE_AFTER;
use open_pages::OpenPages;
pub use pieces::picture_use;
use pixels::{Held, Told};
use shelf::Shelf;
use turns::Turns;
use written::Written;

use crate::db::{Db, DbError};
use crate::views::Event;

/// What is held in memory when nothing else is said: 3 GB.
pub const MEMORY: u64 = 3 << 30;
/// The least that can be worked with: 256 MB.
pub const LEAST_MEMORY: u64 = 256 << 20;

/// The application.
pub struct App {
    /// What is kept.
    pub db: Db,
    /// The draft size that new projects begin with.
    draft: u32,
    /// What happens.
    pub events: broadcast::Sender<Event>,
    /// What was written for download.
    pub written: Written,
    /// Pictures that take seconds to make.
    shelf: Shelf,
    /// What the cabinet says of its recipes.
    cards: cabinet::Cards,
    /// What is under way.
    jobs: Arc<Jobs>,
    /// Meshes on their way in.
    pub arrivals: Arc<arrivals::Arrivals>,
    pieces: Moka<String, Arc<Piece>>,
    /// By shape and size.
    surfaces: Moka<(String, u32), Arc<Surface>>,
    finers: Moka<String, Arc<Finer>>,
    layouts: Moka<(String, u32), UvReport>,
    readings: Moka<String, Arc<Plane>>,
    /// Coarse measurements.
    coarse: Moka<String, Arc<Plane>>,
    pixels: Moka<String, Held>,
    told: Told,
    shots: Moka<String, Arc<evaluate::TileShot>>,
    planes: Cache,
    /// One measurement of a reading at a time; whoever asks for the same waits and finds it done.
    measuring: Mutex<HashMap<String, Arc<Mutex<()>>>>,
    /// What documents need, by project, revision and the layer whose mask is looked at.
    needs: Moka<(i64, i64, String), Arc<Vec<MeasurementKey>>>,
    /// The evaluations under way, and the patches.
    turns: Turns,
    open_pages: OpenPages,
    /// The measurements being taken in the background per project.
    improving: Mutex<HashMap<i64, readings::Improving>>,
    /// Measurements that somebody stopped: not begun again until somebody asks.
    stopped: Mutex<HashSet<String>>,
}

/// A cache that lets go of what was not asked for longest once its values weigh more than `budget` bytes.
fn by_bytes<K, V>(budget: u64, bytes: fn(&V) -> usize) -> Moka<K, V>
where
    K: std::hash::Hash + Eq + Send + Sync + 'static,
    V: Clone + Send + Sync + 'static,
{
    let weigh = move |_: &K, v: &V| u32::try_from(bytes(v) + 256).unwrap_or(u32::MAX);
    Moka::builder().max_capacity(budget).eviction_policy(EvictionPolicy::lru()).weigher(weigh).build()
}

/// The same with at most so many values.
fn by_number<K, V>(most: u64) -> Moka<K, V>
where
    K: std::hash::Hash + Eq + Send + Sync + 'static,
    V: Clone + Send + Sync + 'static,
{
    Moka::builder().max_capacity(most).eviction_policy(EvictionPolicy::lru()).build()
}

impl App {
    /// Opens the application on a folder, to hold at most about `memory` bytes of what it could work out again.
    ///
    /// # Errors
    /// [`DbError`] when the database can't be opened.
    pub fn open(folder: &Path, memory: u64) -> Result<App, DbError> {
        let share = |percent: u64| memory.max(LEAST_MEMORY) / 100 * percent;
        let events = broadcast::channel(256).0;
        Ok(App {
            db: Db::open(folder)?,
            draft: Document::new("").draft_size,
            written: Written::new(folder.join("written")),
            shelf: Shelf::new(folder.join("pictures")),
            cards: Default::default(),
            jobs: Jobs::new(events.clone()),
            arrivals: Arc::default(),
            events,
            pieces: by_bytes(share(5), |p: &Arc<Piece>| p.bytes()),
            surfaces: by_bytes(share(22), |s: &Arc<Surface>| s.bytes()),
            finers: by_bytes(share(5), |f: &Arc<Finer>| f.bytes()),
            layouts: by_number(64),
            readings: by_bytes(share(12), |p: &Arc<Plane>| p.len() * 4),
            coarse: by_bytes(share(4), |p: &Arc<Plane>| p.len() * 4),
            pixels: by_bytes(share(18), |p: &Held| p.bytes.len()),
            told: Told::default(),
            shots: by_number(16),
            planes: Cache::new(share(34)),
            measuring: Mutex::default(),
            needs: by_number(64),
            turns: Turns::default(),
            open_pages: OpenPages::default(),
            improving: Mutex::default(),
            stopped: Mutex::default(),
        })
    }

    /// The same, where new projects begin with another draft size, in texels.
    pub fn beginning_at(self, draft: u32) -> App {
        App { draft, ..self }
    }

    fn send(&self, event: Event) {
        // Nobody listens: fine.
        let _ = self.events.send(event);
    }
}

/// A lock whose holder panicked is taken over: what it guards are tables of handles that stay valid.
fn lock<T>(mutex: &Mutex<T>) -> std::sync::MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}

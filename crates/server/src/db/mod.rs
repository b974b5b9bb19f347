//! The one SQLite file: projects, revisions, assets, readings, cabinet. Every acknowledged edit is a committed row.
//!
//! Journal in WAL mode with `synchronous=FULL`: what a caller was told is kept, is kept when the machine loses power.

mod assets;
mod cabinet;
mod delta;
mod history;
mod layouts;
mod projects;
mod readings;
mod revisions;
mod snapshots;
mod tidy;

use std::path::Path;
use std::sync::{Mutex, MutexGuard};

use rusqlite::Connection;
use rusqlite_migration::{M, Migrations};

pub use cabinet::{CabinetRow, Kept, LineRow, Marks};
pub use history::{Done, History};
pub use projects::{ProjectRow, Summary};
pub use readings::Measured;
use revisions::Held;
pub use snapshots::SnapshotRow;
pub use tidy::Tidied;

/// Why the database could not do what it was asked.
#[derive(Debug, thiserror::Error)]
pub enum DbError {
    /// Not there.
    #[error("There is no {0} of that name any more. Reload the page to see what is there.")]
    NotFound(&'static str),
    /// Somebody else edited first.
    #[error(
        "The project was changed in another window. Its newest state is shown now; make the change again if it is still wanted."
    )]
    Stale {
        /// The revision in force.
        current: i64,
    },
    /// Nothing to undo or redo.
    #[error("There is nothing to {0}.")]
    NothingTo(&'static str),
    /// The disk is full.
    #[error(
        "The disk is full, so nothing was written. Everything up to the last acknowledged edit is kept; make room and try again."
    )]
    Full,
    /// Somebody else holds the file.
    #[error("The database is in use by another Dust Coat. Close the other one, or give another folder with --data.")]
    Locked,
    /// A file of another version or none of ours.
    #[error(
        "The database can't be read: {0}. Nothing was changed. Give another folder with --data, or put a copy in its place."
    )]
    Broken(String),
}

impl From<rusqlite::Error> for DbError {
    fn from(e: rusqlite::Error) -> Self {
        use rusqlite::ErrorCode;
        match e.sqlite_error_code() {
            Some(ErrorCode::DiskFull) => DbError::Full,
            Some(ErrorCode::DatabaseBusy | ErrorCode::DatabaseLocked) => DbError::Locked,
            _ => DbError::Broken(e.to_string()),
        }
    }
}

impl From<rusqlite_migration::Error> for DbError {
    fn from(e: rusqlite_migration::Error) -> Self {
        DbError::Broken(e.to_string())
    }
}

impl From<serde_json::Error> for DbError {
    fn from(e: serde_json::Error) -> Self {
        DbError::Broken(format!("a document in it is damaged ({e})"))
    }
}

/// The database.
pub struct Db {
    connection: Mutex<Connection>,
    /// Locked after the connection.
    held: Mutex<Held>,
}

const MIGRATIONS: &[M<'static>] = &[
    M::up(include_str!("migrations/001_start.sql")),
    M::up(include_str!("migrations/002_intake.sql")),
    M::up(include_str!("migrations/003_lines.sql")),
    M::up(include_str!("migrations/004_snapshots.sql")),
    M::up(include_str!("migrations/005_stamps.sql")),
    M::up(include_str!("migrations/006_tidy.sql")),
    M::up(include_str!("migrations/007_versions.sql")),
    M::up(include_str!("migrations/008_cabinet.sql")),
    M::up(include_str!("migrations/009_favourites.sql")),
    M::up(include_str!("migrations/010_layouts.sql")),
];

impl Db {
    /// Opens or makes the database in a folder.
    ///
    /// # Errors
    /// [`DbError`] when the folder can't be written or the file is none of ours.
    pub fn open(folder: &Path) -> Result<Db, DbError> {
        let broken = |e: std::io::Error| DbError::Broken(format!("{} ({e})", folder.display()));
        std::fs::create_dir_all(folder).map_err(broken)?;
        let mut connection = Connection::open(folder.join("dustcoat.sqlite"))?;
        connection.busy_timeout(std::time::Duration::from_secs(5))?;
        connection.pragma_update(None, "journal_mode", "WAL")?;
        connection.pragma_update(None, "synchronous", "FULL")?;
        connection.pragma_update(None, "foreign_keys", "ON")?;
        Migrations::from_slice(MIGRATIONS).to_latest(&mut connection)?;
        Ok(Db { connection: Mutex::new(connection), held: Mutex::new(Held::new()) })
    }

    fn lock(&self) -> MutexGuard<'_, Connection> {
        // A panic while holding the lock left no open transaction: rusqlite rolls back on drop.
        self.connection.lock().unwrap_or_else(std::sync::PoisonError::into_inner)
    }

    fn held(&self) -> MutexGuard<'_, Held> {
        self.held.lock().unwrap_or_else(std::sync::PoisonError::into_inner)
    }
}

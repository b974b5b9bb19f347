//! Content-addressed bytes: mesh files.

use rusqlite::OptionalExtension;

use super::{Db, DbError};

impl Db {
    /// The bytes of a blake3 hash.
    ///
    /// # Errors
    /// [`DbError::NotFound`]
    pub fn asset(&self, hash: &str) -> Result<Vec<u8>, DbError> {
        let c = self.lock();
        let found = c.query_row("SELECT bytes FROM assets WHERE hash = ?", [hash], |r| r.get(0)).optional()?;
        found.ok_or(DbError::NotFound("file"))
    }
}

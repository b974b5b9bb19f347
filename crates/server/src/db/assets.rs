//! Content-addressed bytes: mesh files, pictures, points of strokes.

use dustcoat_core::document::{self, HoldsStrokes};
use rusqlite::{Connection, OptionalExtension, params};

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

    /// Whether there is a file of that blake3.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn has_asset(&self, hash: &str) -> Result<bool, DbError> {
        let found = self.lock().query_row("SELECT 1 FROM assets WHERE hash = ?", [hash], |_| Ok(())).optional()?;
        Ok(found.is_some())
    }

    /// Takes in the points of strokes that a document or a recipe names and that are not at hand.
    pub fn hold_points(&self, of: &mut impl HoldsStrokes) {
        hold_points(&self.lock(), of);
    }

    /// Keeps bytes and gives their blake3.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn keep_asset(&self, bytes: &[u8]) -> Result<String, DbError> {
        keep(&self.lock(), bytes)
    }
}

/// The same within a connection.
pub(super) fn keep(c: &Connection, bytes: &[u8]) -> Result<String, DbError> {
    let hash = blake3::hash(bytes).to_hex().to_string();
    keep_as(c, &hash, bytes)?;
    Ok(hash)
}

/// Keeps bytes whose blake3 is known within a connection.
pub(super) fn keep_as(c: &Connection, hash: &str, bytes: &[u8]) -> Result<(), DbError> {
    let insert = "INSERT INTO assets (hash, bytes, made) VALUES (?, ?, unixepoch()) ON CONFLICT DO UPDATE SET made = unixepoch()";
    c.execute(insert, params![hash, bytes])?;
    Ok(())
}

/// Takes in points within a connection.
pub(super) fn hold_points(c: &Connection, of: &mut impl HoldsStrokes) {
    let sql = "SELECT bytes FROM assets WHERE hash = ?";
    document::hold_points(of, &mut |hash| c.query_row(sql, [hash], |r| r.get(0)).ok());
}

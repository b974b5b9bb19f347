//! Content-addressed bytes: mesh files, pictures, points of strokes.

use dustcoat_core::document::{self, Document};
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

    /// Takes in the points of strokes that a document names and that are not at hand.
    pub fn hold_points(&self, document: &mut Document) {
        hold_points(&self.lock(), document);
    }

    /// Keeps bytes and gives their blake3.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn keep_asset(&self, bytes: &[u8]) -> Result<String, DbError> {
        let hash = blake3::hash(bytes).to_hex().to_string();
        self.lock().execute("INSERT INTO assets (hash, bytes, made) VALUES (?, ?, unixepoch()) ON CONFLICT DO UPDATE SET made = unixepoch()", params![hash, bytes])?;
        Ok(hash)
    }
}

/// The same within a connection.
pub(super) fn hold_points(c: &Connection, document: &mut Document) {
    let sql = "SELECT bytes FROM assets WHERE hash = ?";
    document::hold_points(document, &mut |hash| c.query_row(sql, [hash], |r| r.get(0)).ok());
}

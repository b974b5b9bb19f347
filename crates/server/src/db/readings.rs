//! Measured readings by content hash: a cache that may be emptied.

use rusqlite::{OptionalExtension, params};

use super::{Db, DbError};

impl Db {
    /// A reading's values and how long they took to measure.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn reading(&self, hash: &str) -> Result<Option<(Vec<f32>, f64)>, DbError> {
        let c = self.lock();
        let sql = "SELECT bytes, seconds FROM readings WHERE hash = ?";
        let row: Option<(Vec<u8>, f64)> = c.query_row(sql, [hash], |r| Ok((r.get(0)?, r.get(1)?))).optional()?;
        let floats = |b: Vec<u8>| b.chunks_exact(4).map(|v| f32::from_le_bytes([v[0], v[1], v[2], v[3]])).collect();
        Ok(row.map(|(bytes, seconds)| (floats(bytes), seconds)))
    }

    /// How long a reading took, if it is kept.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn reading_seconds(&self, hash: &str) -> Result<Option<f64>, DbError> {
        let c = self.lock();
        Ok(c.query_row("SELECT seconds FROM readings WHERE hash = ?", [hash], |r| r.get(0)).optional()?)
    }

    /// Keeps a reading.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn keep_reading(&self, hash: &str, values: &[f32], seconds: f64) -> Result<(), DbError> {
        let bytes: Vec<u8> = values.iter().flat_map(|v| v.to_le_bytes()).collect();
        self.lock().execute(
            "INSERT OR REPLACE INTO readings (hash, seconds, bytes) VALUES (?, ?, ?)",
            params![hash, seconds, bytes],
        )?;
        Ok(())
    }
}

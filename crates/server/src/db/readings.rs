//! Measurements by content hash: a cache that may be emptied. And what was measured last in each project, from which staleness is told.

use rusqlite::{OptionalExtension, params};

use super::{Db, DbError};

/// The last measurement of a kind in a project.
#[derive(Debug, Clone, PartialEq)]
pub struct Measured {
    /// Hash of the piece that it was taken from.
    pub piece: String,
    /// Texture size.
    pub size: u32,
    /// A hash of its settings.
    pub settings: String,
    /// How long it took.
    pub seconds: f64,
    /// How much work that was, in rays.
    pub work: f64,
}

impl Db {
    /// What was measured last of a kind in a project.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn last_measured(&self, project: i64, kind: &str) -> Result<Option<Measured>, DbError> {
        let sql = "SELECT piece, size, settings, seconds, work FROM measured WHERE project = ? AND kind = ?";
        let row = |r: &rusqlite::Row| {
            Ok(Measured { piece: r.get(0)?, size: r.get(1)?, settings: r.get(2)?, seconds: r.get(3)?, work: r.get(4)? })
        };
        Ok(self.lock().query_row(sql, params![project, kind], row).optional()?)
    }

    /// Notes what was measured last of a kind in a project.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn note_measured(&self, project: i64, kind: &str, m: &Measured) -> Result<(), DbError> {
        self.lock().execute(
            "INSERT OR REPLACE INTO measured (project, kind, piece, size, settings, seconds, work) VALUES (?, ?, ?, ?, ?, ?, ?)",
            params![project, kind, m.piece, m.size, m.settings, m.seconds, m.work],
        )?;
        Ok(())
    }

    /// A measurement's values and how long they took to measure.
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

    /// How long a measurement took, if it is kept.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn reading_seconds(&self, hash: &str) -> Result<Option<f64>, DbError> {
        let c = self.lock();
        Ok(c.query_row("SELECT seconds FROM readings WHERE hash = ?", [hash], |r| r.get(0)).optional()?)
    }

    /// Keeps a measurement.
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

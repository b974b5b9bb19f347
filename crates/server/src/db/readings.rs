//! Measurements by content hash: a cache that may be emptied. And what was measured last in each project, from which staleness is told.

use rusqlite::{OptionalExtension, params};

use super::{Db, DbError};

/// Numbers of a piece of a measurement: 16 MB, far below what SQLite holds in one value, and soon written.
const PIECE: usize = 4 << 20;

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

impl Measured {
    /// How long so much work would take, in seconds, at the pace of this one.
    pub fn estimate(&self, work: f64) -> f64 {
        self.seconds / self.work.max(1.0) * work
    }
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

    /// A measurement's values and how long they took to measure. It counts as used.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn reading(&self, hash: &str) -> Result<Option<(Vec<f32>, f64)>, DbError> {
        let sql = "SELECT seconds, pieces, used < unixepoch() - 86400 FROM readings WHERE hash = ? AND pieces > 0";
        let row = |r: &rusqlite::Row| Ok((r.get(0)?, r.get(1)?, r.get(2)?));
        let found: Option<(f64, i64, bool)> = self.lock().query_row(sql, [hash], row).optional()?;
        let Some((seconds, pieces, long_ago)) = found else { return Ok(None) };
        if long_ago {
            self.lock().execute("UPDATE readings SET used = unixepoch() WHERE hash = ?", [hash])?;
        }
        let mut values = vec![];
        for piece in 0..pieces {
            // One by one: an edit that waits for the database gets its turn in between.
            let sql = "SELECT bytes FROM reading_pieces WHERE hash = ? AND piece = ?";
            let bytes: Option<Vec<u8>> = self.lock().query_row(sql, params![hash, piece], |r| r.get(0)).optional()?;
            let Some(bytes) = bytes else { return Ok(None) };
            values.extend(bytes.chunks_exact(4).map(|v| f32::from_le_bytes([v[0], v[1], v[2], v[3]])));
        }
        Ok(Some((values, seconds)))
    }

    /// How long a measurement took, if it is kept.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn reading_seconds(&self, hash: &str) -> Result<Option<f64>, DbError> {
        let c = self.lock();
        Ok(c.query_row("SELECT seconds FROM readings WHERE hash = ? AND pieces > 0", [hash], |r| r.get(0))
            .optional()?)
    }

    /// Keeps a measurement, cut into pieces.
    ///
    /// # Errors
    /// [`DbError`]; what was written of it does not count then.
    pub fn keep_reading(&self, hash: &str, values: &[f32], seconds: f64) -> Result<(), DbError> {
        let pieces = values.chunks(PIECE);
        let count = pieces.len() as i64;
        // It counts once the number of its pieces is known, which comes last.
        self.lock().execute("DELETE FROM readings WHERE hash = ?", [hash])?;
        let sql = "INSERT INTO readings (hash, seconds, pieces, used) VALUES (?, ?, ?, unixepoch())";
        self.lock().execute(sql, params![hash, seconds, 0])?;
        for (piece, values) in pieces.enumerate() {
            let bytes: Vec<u8> = values.iter().flat_map(|v| v.to_le_bytes()).collect();
            let sql = "INSERT OR REPLACE INTO reading_pieces (hash, piece, bytes) VALUES (?, ?, ?)";
            self.lock().execute(sql, params![hash, piece as i64, bytes])?;
        }
        self.lock().execute("UPDATE readings SET pieces = ? WHERE hash = ?", params![count, hash])?;
        Ok(())
    }
}

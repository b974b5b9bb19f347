//! Documents of revisions: kept as differences, read through a few that are held.

use std::num::NonZeroUsize;

use dustcoat_core::document::{self, Document};
use lru::LruCache;
use rusqlite::types::ValueRef;
use rusqlite::{Connection, OptionalExtension, params};

use super::{DbError, assets, delta};

/// Documents that were read last, by revision: a revision never changes.
pub struct Held(LruCache<i64, (String, Document)>);

/// How many are held.
const HELD: NonZeroUsize = NonZeroUsize::new(12).expect("some are");

impl Held {
    /// None yet.
    pub fn new() -> Self {
        Self(LruCache::new(HELD))
    }

    /// The document of a revision that is committed.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn document(&mut self, c: &Connection, revision: i64) -> Result<Document, DbError> {
        if let Some((_, document)) = self.0.get(&revision) {
            return Ok(document.clone());
        }
        let text = self.text(c, revision)?;
        let mut document: Document = serde_json::from_str(&text)?;
        document::upgrade(&mut document);
        assets::hold_points(c, &mut document);
        self.0.put(revision, (text, document.clone()));
        Ok(document)
    }

    /// Lets go of all.
    pub fn clear(&mut self) {
        self.0.clear();
    }

    /// The text of a revision's document.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn text(&self, c: &Connection, revision: i64) -> Result<String, DbError> {
        restored(c, revision, |id| self.0.peek(&id).map(|held| held.0.clone()))
    }

    /// Holds the document of a revision that was just committed.
    pub fn put(&mut self, revision: i64, text: String, document: &Document) {
        self.0.put(revision, (text, document.clone()));
    }

    /// Keeps a revision made on another, or by itself. Its number, and the document's text.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn keep(
        &self,
        c: &Connection,
        project: i64,
        parent: Option<i64>,
        label: &str,
        document: &Document,
    ) -> Result<(i64, String), DbError> {
        let text = serde_json::to_string(document)?;
        let depth: i64 = match parent {
            Some(parent) => c.query_row("SELECT depth FROM revisions WHERE id = ?", [parent], |r| r.get(0))?,
            None => delta::LONGEST,
        };
        let short = match parent {
            Some(parent) if depth < delta::LONGEST => delta::difference(&self.text(c, parent)?, &text),
            _ => None,
        };
        let depth = if short.is_some() { depth + 1 } else { 0 };
        let bytes = short.unwrap_or_else(|| delta::whole(&text));
        let sql = "INSERT INTO revisions (project, parent, label, document, name, depth, made) VALUES (?, ?, ?, ?, ?, ?, unixepoch())";
        c.execute(sql, params![project, parent, label, bytes, document.name, depth])?;
        Ok((c.last_insert_rowid(), text))
    }
}

/// Texts of revisions that are walked through in the order in which they were made: nearly always the one that a difference was made on is at hand.
pub struct Walk(LruCache<i64, String>);

impl Walk {
    /// At its beginning.
    pub fn new() -> Self {
        Self(LruCache::new(HELD))
    }

    /// The text of the next revision.
    ///
    /// # Errors
    /// [`DbError`]
    pub fn text(&mut self, c: &Connection, revision: i64) -> Result<&str, DbError> {
        let text = restored(c, revision, |id| self.0.get(&id).cloned())?;
        self.0.put(revision, text);
        Ok(self.0.peek(&revision).map_or("", String::as_str))
    }
}

/// The text of a revision's document, worked out from the nearest one that is at hand or stands by itself.
fn restored(c: &Connection, revision: i64, mut at_hand: impl FnMut(i64) -> Option<String>) -> Result<String, DbError> {
    let (mut differences, mut at) = (vec![], revision);
    let mut text = loop {
        if let Some(text) = at_hand(at) {
            break text;
        }
        match stored(c, at)? {
            (Stored::Text(text), _) => break text,
            (Stored::Bytes(bytes), Some(parent)) if delta::is_difference(&bytes) => {
                differences.push(bytes);
                at = parent;
            }
            (Stored::Bytes(bytes), _) => break delta::restored(None, &bytes)?,
        }
    };
    for bytes in differences.iter().rev() {
        text = delta::restored(Some(&text), bytes)?;
    }
    Ok(text)
}

enum Stored {
    Text(String),
    Bytes(Vec<u8>),
}

fn stored(c: &Connection, revision: i64) -> Result<(Stored, Option<i64>), DbError> {
    let read = |r: &rusqlite::Row| {
        let stored = match r.get_ref(0)? {
            ValueRef::Blob(bytes) => Stored::Bytes(bytes.to_vec()),
            other => Stored::Text(other.as_str()?.to_owned()),
        };
        Ok((stored, r.get(1)?))
    };
    let found = c.query_row("SELECT document, parent FROM revisions WHERE id = ?", [revision], read).optional()?;
    found.ok_or(DbError::NotFound("revision"))
}

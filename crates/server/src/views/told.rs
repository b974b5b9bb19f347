//! What the page is told without asking, and why something was refused.

use serde::Serialize;
use ts_rs::TS;

/// What a job does.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, TS)]
#[serde(rename_all = "kebab-case")]
pub enum JobKind {
    /// Rays are cast for readings.
    Measuring,
    /// A still or the pictures of a turntable are taken.
    Still,
    /// Files are written.
    HandOff,
}

/// A job under way.
#[derive(Debug, Clone, Serialize, TS)]
pub struct JobView {
    /// Its number.
    #[ts(type = "number")]
    pub job: u64,
    /// What it does.
    pub kind: JobKind,
    /// What it does just now.
    pub label: String,
    /// 0…1.
    pub share: f32,
}

/// A mesh that is being taken in.
#[derive(Debug, Clone, Serialize, TS)]
pub struct ArrivalView {
    /// What is done now.
    pub label: String,
    /// 0…1.
    pub share: f32,
    /// Seconds left, as far as that can be told.
    pub left: Option<f64>,
}

/// Something that happened, sent over the WebSocket.
#[derive(Debug, Clone, Serialize, TS)]
#[serde(tag = "event", rename_all = "snake_case")]
pub enum Event {
    /// Something in the cabinet is new or other than it was.
    Cabinet,
    /// A job goes on.
    Progress {
        /// The project.
        #[ts(type = "number")]
        project: i64,
        /// Its number.
        #[ts(type = "number")]
        job: u64,
        /// What it does.
        kind: JobKind,
        /// What is done.
        label: String,
        /// 0…1.
        share: f32,
        /// Seconds left, as far as that can be told.
        left: Option<f64>,
    },
    /// A job's picture has got smoother: it lies under the job's number until that is over.
    Shown {
        /// The project.
        #[ts(type = "number")]
        project: i64,
        /// Its number.
        #[ts(type = "number")]
        job: u64,
        /// Samples that a pixel has had.
        samples: u32,
    },
    /// A job is over.
    Over {
        /// The project.
        #[ts(type = "number")]
        project: i64,
        /// Its number.
        #[ts(type = "number")]
        job: u64,
        /// What it did.
        kind: JobKind,
        /// What went wrong, where nobody waited for an answer.
        error: Option<String>,
    },
    /// Somebody edited.
    Changed {
        /// The project.
        #[ts(type = "number")]
        project: i64,
        /// How often it was changed so far, undo and redo included.
        #[ts(type = "number")]
        stamp: i64,
    },
    /// More happened than this window could be told: it asks for all it shows anew.
    Missed,
}

/// An error as RFC 9457 writes it (`application/problem+json`).
#[derive(Debug, Serialize, TS)]
pub struct Problem {
    /// A short name of the kind of error.
    #[serde(rename = "type")]
    pub kind: String,
    /// One sentence: what is wrong and what to do.
    pub title: String,
    /// HTTP status.
    pub status: u16,
    /// After a stale edit: the revision in force.
    #[ts(type = "number | null")]
    pub revision: Option<i64>,
}

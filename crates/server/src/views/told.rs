//! What the page is told without asking, and why something was refused.

use serde::Serialize;
use ts_rs::TS;

/// Something that happened, sent over the WebSocket.
#[derive(Debug, Clone, Serialize, TS)]
#[serde(tag = "event", rename_all = "snake_case")]
pub enum Event {
    /// Work goes on.
    Progress {
        /// The project.
        #[ts(type = "number")]
        project: i64,
        /// What is done.
        label: String,
        /// 0…1.
        share: f32,
        /// Seconds left, as far as that can be told.
        left: Option<f64>,
    },
    /// Work is over.
    Idle {
        /// The project.
        #[ts(type = "number")]
        project: i64,
    },
    /// Somebody edited.
    Changed {
        /// The project.
        #[ts(type = "number")]
        project: i64,
        /// Its revision in force now.
        #[ts(type = "number")]
        revision: i64,
    },
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

//! Long work as its caller sees it: progress reported, and a request to stop obeyed between batches.

use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};

/// Somebody asked for the work to stop; nothing was changed by it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
#[error("The computation was stopped before it was done.")]
pub struct Cancelled;

/// A flag shared between the work and whoever may want to stop it.
#[derive(Debug, Clone, Default)]
pub struct Cancel {
    own: Arc<AtomicBool>,
    /// Another flag that is obeyed too.
    other: Option<Arc<AtomicBool>>,
}

impl Cancel {
    /// Asks the work to stop at its next batch.
    pub fn cancel(&self) {
        self.own.store(true, Ordering::Relaxed);
    }

    /// Whether somebody asked.
    pub fn is_cancelled(&self) -> bool {
        self.own.load(Ordering::Relaxed) || self.other.as_ref().is_some_and(|o| o.load(Ordering::Relaxed))
    }

    /// This flag, obeyed also when the other one is raised.
    pub fn or(&self, other: &Cancel) -> Cancel {
        Cancel { own: self.own.clone(), other: Some(other.own.clone()) }
    }

    /// # Errors
    /// [`Cancelled`] once somebody asked.
    pub fn check(&self) -> Result<(), Cancelled> {
        if self.is_cancelled() { Err(Cancelled) } else { Ok(()) }
    }
}

/// Hears how far a piece of work has come; called from many threads.
pub type OnProgress<'a> = &'a (dyn Fn(&str, f32) + Sync);

/// Counts finished batches and reports their share of the whole.
pub struct Progress<'a> {
    label: String,
    total: usize,
    done: AtomicUsize,
    on: OnProgress<'a>,
}

impl<'a> Progress<'a> {
    /// Work named `label`, of `total` batches.
    pub fn new(label: impl Into<String>, total: usize, on: OnProgress<'a>) -> Self {
        Self { label: label.into(), total: total.max(1), done: AtomicUsize::new(0), on }
    }

    /// One more batch is done.
    pub fn advance(&self) {
        let done = self.done.fetch_add(1, Ordering::Relaxed) + 1;
        // About a hundred reports are plenty for a bar and cheap for the work.
        let stride = (self.total / 100).max(1);
        if done.is_multiple_of(stride) || done >= self.total {
            (self.on)(&self.label, (done as f32 / self.total as f32).min(1.0));
        }
    }
}

/// Hears nothing: for callers without a screen.
pub fn silent(_: &str, _: f32) {}

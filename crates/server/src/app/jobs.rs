//! Jobs: what takes a while and says so. Measuring, a still and a hand-off each have a number, progress and a Stop of their own; no edit waits for one,
//! and none stands in the way of another.

use std::collections::BTreeMap;
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, Mutex};

use bytes::Bytes;
use dustcoat_core::task::Cancel;
use tokio::sync::broadcast;

use super::{AppError, lock};
use crate::views::{Event, JobKind, JobView};

/// What the artist reads before there is more to say.
fn label(kind: JobKind) -> &'static str {
    match kind {
        JobKind::Measuring => "Measuring",
        JobKind::Still => "Taking a still",
        JobKind::HandOff => "Writing files",
    }
}

struct Live {
    project: i64,
    kind: JobKind,
    cancel: Cancel,
    /// Hashes of what it measures.
    measures: Vec<String>,
    /// What it does just now, and how much of it is done.
    now: (String, f32),
    /// What it has of a picture so far, as a PNG.
    picture: Option<Bytes>,
}

/// The jobs under way.
pub struct Jobs {
    next: AtomicU64,
    live: Mutex<BTreeMap<u64, Live>>,
    events: broadcast::Sender<Event>,
}

impl Jobs {
    /// None under way; what becomes of them is sent to `events`.
    pub fn new(events: broadcast::Sender<Event>) -> Arc<Self> {
        Arc::new(Self { next: AtomicU64::new(1), live: Mutex::default(), events })
    }

    /// Begins a job and tells of it. It is over when what is returned is dropped, whatever came of it.
    pub fn begin(self: &Arc<Self>, project: i64, kind: JobKind, measures: Vec<String>) -> Job {
        let (number, cancel) = (self.next.fetch_add(1, Ordering::Relaxed), Cancel::default());
        lock(&self.live).insert(
            number,
            Live { project, kind, cancel: cancel.clone(), measures, now: (label(kind).into(), 0.0), picture: None },
        );
        let job = Job { number, project, kind, cancel, jobs: self.clone(), error: None };
        job.tell(label(kind), 0.0, None);
        job
    }

    /// What is under way for a project.
    pub fn of(&self, project: i64) -> Vec<JobView> {
        let live = lock(&self.live);
        let view =
            |(number, l): (&u64, &Live)| JobView { job: *number, kind: l.kind, label: l.now.0.clone(), share: l.now.1 };
        live.iter().filter(|(_, l)| l.project == project).map(view).collect()
    }

    /// What a job has of a picture so far, as a PNG.
    pub fn picture(&self, project: i64, number: u64) -> Option<Bytes> {
        lock(&self.live).get(&number).filter(|l| l.project == project)?.picture.clone()
    }

    /// Whether anything is under way, for whichever project.
    pub fn any(&self) -> bool {
        !lock(&self.live).is_empty()
    }

    /// Whether one of the project's jobs measures what has that hash.
    pub fn measures(&self, project: i64, hash: &str) -> bool {
        let live = lock(&self.live);
        live.values().any(|l| l.project == project && !l.cancel.is_cancelled() && l.measures.iter().any(|m| m == hash))
    }

    /// Stops one job. What it measured, so that it isn't begun again by itself.
    pub fn stop(&self, project: i64, number: u64) -> Vec<String> {
        let live = lock(&self.live);
        let Some(job) = live.get(&number).filter(|l| l.project == project) else { return vec![] };
        job.cancel.cancel();
        // Whoever waits for the same measurement would begin it anew.
        for other in live.values().filter(|l| l.project == project && l.kind == job.kind) {
            if other.measures.iter().any(|m| job.measures.contains(m)) {
                other.cancel.cancel();
            }
        }
        job.measures.clone()
    }
}

/// A job under way.
pub struct Job {
    /// Its number.
    pub number: u64,
    /// Asked to stop.
    pub cancel: Cancel,
    project: i64,
    kind: JobKind,
    jobs: Arc<Jobs>,
    error: Option<String>,
}

impl Job {
    /// Tells how far it is: a share 0…1, and the seconds left as far as they can be told.
    pub fn tell(&self, label: &str, share: f32, left: Option<f64>) {
        if let Some(live) = lock(&self.jobs.live).get_mut(&self.number) {
            live.now = (label.into(), share);
        }
        let event = Event::Progress {
            project: self.project,
            job: self.number,
            kind: self.kind,
            label: label.into(),
            share,
            left,
        };
        // Nobody listens: fine.
        let _ = self.jobs.events.send(event);
    }

    /// Shows what it has of a picture so far: a PNG, after so many samples a pixel.
    pub fn show(&self, samples: u32, png: Vec<u8>) {
        if let Some(live) = lock(&self.jobs.live).get_mut(&self.number) {
            live.picture = Some(png.into());
        }
        let _ = self.jobs.events.send(Event::Shown { project: self.project, job: self.number, samples });
    }

    /// Ends it, with what went wrong if nobody else is told.
    pub fn end(mut self, result: Result<(), AppError>) {
        self.error = result.err().filter(|e| !e.is_cancelled()).map(|e| e.to_string());
    }
}

impl Drop for Job {
    fn drop(&mut self) {
        lock(&self.jobs.live).remove(&self.number);
        let error = self.error.take();
        let _ = self.jobs.events.send(Event::Over { project: self.project, job: self.number, kind: self.kind, error });
    }
}

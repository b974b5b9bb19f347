//! Pixels by address: a hash of all they depend on. They are held within the budget; and those that a page was told of last can be fetched whatever else is asked for meanwhile.

use std::collections::{HashMap, VecDeque};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

use bytes::Bytes;

use super::changed::changed;
use super::{App, lock};
use crate::views::{Over, Sent};

/// How many of the newest answers' pixels are held for each page: the last one may be on its way still while the one before is being fetched.
const ANSWERS: usize = 2;
/// How many pages are remembered; the one that was silent longest is forgotten first.
const PAGES: usize = 32;

/// Pixels of the same kind that others are compared with before they are sent.
const LIKELY: usize = 3;

/// Bytes and where they lie.
#[derive(Clone)]
pub struct Held {
    /// Hex.
    pub address: Arc<str>,
    /// What it is a picture of: the first word of its key. Two of one kind and length are likely to be alike.
    kind: Arc<str>,
    /// What lies there.
    pub bytes: Bytes,
}

/// When a page was told something last, and what the newest answers to each of its questions told of.
type Answers = (Instant, HashMap<String, VecDeque<Vec<Held>>>);

/// What each page was told of last.
#[derive(Default)]
pub struct Told(Mutex<HashMap<String, Answers>>);

impl Told {
    /// A page is told of pixels: those of the answer before the last to the same question are let go. `who` is the page, and after a slash which of its questions it was.
    fn tell(&self, who: &str, pixels: Vec<Held>) {
        let mut pages = lock(&self.0);
        let (page, question) = who.split_once('/').unwrap_or((who, ""));
        let (when, questions) = pages.entry(page.into()).or_insert_with(|| (Instant::now(), HashMap::new()));
        *when = Instant::now();
        let answers = questions.entry(question.into()).or_default();
        answers.push_back(pixels);
        answers.drain(..answers.len().saturating_sub(ANSWERS));
        if pages.len() > PAGES
            && let Some(silent) = pages.iter().min_by_key(|(_, p)| p.0).map(|(page, _)| page.clone())
        {
            pages.remove(&silent);
        }
    }

    /// How long ago some page was told something; none when none was.
    pub fn since_last(&self) -> Option<Duration> {
        lock(&self.0).values().map(|(when, _)| when.elapsed()).min()
    }

    fn find(&self, address: &str) -> Option<Held> {
        let pages = lock(&self.0);
        let all = pages.values().flat_map(|(_, questions)| questions.values().flatten().flatten());
        all.into_iter().find(|held| &*held.address == address).cloned()
    }
}

/// Gathers the pixels that an answer tells of.
pub struct Telling<'a> {
    app: &'a App,
    told: Mutex<Vec<Held>>,
}

impl Telling<'_> {
    /// The address of what a key stands for, computed only when it is not held.
    pub fn of(&self, key: &str, make: impl FnOnce() -> Vec<u8>) -> String {
        let held = self.app.pixels_of(key, make);
        let address = held.address.to_string();
        lock(&self.told).push(held);
        address
    }

    /// The page gets its answer: see [`Told::tell`].
    pub fn done(self, who: &str) {
        self.app.told.tell(who, self.told.into_inner().unwrap_or_else(std::sync::PoisonError::into_inner));
    }
}

impl App {
    /// Pixels of an address: while they are held, and as long as a page was told of them last.
    pub fn pixels(&self, address: &str) -> Option<Bytes> {
        self.found(address).map(|held| held.bytes)
    }

    fn found(&self, address: &str) -> Option<Held> {
        self.pixels.get(address).or_else(|| self.told.find(address))
    }

    /// What is sent of an address to a page that holds pixels of others, those that it used last at the end: all of it, or what differs from the one most like it among the
    /// last of its kind. None where nothing lies there any more.
    pub fn sent(&self, address: &str, holds: &[String]) -> Option<(Sent, Vec<Bytes>)> {
        let Held { kind, bytes, .. } = self.found(address)?;
        let alike = |other: &String| self.pixels.get(other).filter(|o| o.kind == kind && o.bytes.len() == bytes.len());
        // What was tried and given up lies behind what it was tried on.
        let likely = holds.iter().rev().filter_map(alike).take(LIKELY);
        let runs = likely.filter_map(|before| Some((changed(&before.bytes, &bytes)?, before.address)));
        let over = runs.min_by_key(|(runs, _)| runs.iter().map(ExactSizeIterator::len).sum::<usize>());
        let over = over.map(|(runs, address)| Over {
            address: address.to_string(),
            runs: runs.into_iter().map(|r| [r.start, r.len()].map(|n| n as u32)).collect(),
        });
        let run = |[start, length]: [u32; 2]| bytes.slice(start as usize..(start + length) as usize);
        let parts = match &over {
            Some(over) => over.runs.iter().copied().map(run).collect(),
            None => vec![bytes],
        };
        let sent = Sent { address: address.into(), bytes: parts.iter().map(|p: &Bytes| p.len() as u32).sum(), over };
        Some((sent, parts))
    }

    /// Begins an answer that tells of pixels.
    pub(super) fn telling(&self) -> Telling<'_> {
        Telling { app: self, told: Mutex::default() }
    }

    /// What a key stands for, if it is held.
    pub(super) fn held_pixels(&self, key: &str) -> Option<Held> {
        self.pixels.get(&address_of(key))
    }

    /// What a key stands for, computed only when it is not held.
    pub(super) fn pixels_of(&self, key: &str, make: impl FnOnce() -> Vec<u8>) -> Held {
        let address = address_of(key);
        // The entry API computes once even when two ask together.
        let kind = key.split('/').next().unwrap_or_default();
        let make = || Held { address: address.as_str().into(), kind: kind.into(), bytes: make().into() };
        self.pixels.get_with(address.clone(), make)
    }
}

fn address_of(key: &str) -> String {
    // Browsers keep what lies at an address, and another version may compute other pixels.
    blake3::hash(format!("{}/{key}", env!("CARGO_PKG_VERSION")).as_bytes()).to_hex().to_string()
}

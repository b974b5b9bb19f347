//! The pages that stand open: each listens to events. What a page asked for is given up when it has been gone for some time.

use std::collections::HashMap;
use std::sync::Mutex;
use std::time::Duration;

use super::{App, lock, patches};

/// How long a page may be silent before it counts as closed: connections break off and come back.
pub const GONE_AFTER: Duration = Duration::from_secs(3);

/// How many connections each page listens by.
#[derive(Default)]
pub struct OpenPages(Mutex<HashMap<String, u32>>);

impl App {
    /// A page listens.
    pub fn page_opened(&self, page: &str) {
        *lock(&self.open_pages.0).entry(page.to_owned()).or_default() += 1;
    }

    /// One of its connections has ended.
    pub fn page_broke_off(&self, page: &str) {
        let mut open = lock(&self.open_pages.0);
        if let Some(connections) = open.get_mut(page) {
            *connections -= 1;
            if *connections == 0 {
                open.remove(page);
            }
        }
    }

    /// Gives up what a page asked for and wished to be measured, unless it listens again.
    pub fn give_up_if_gone(&self, page: &str) {
        if lock(&self.open_pages.0).contains_key(page) {
            return;
        }
        self.turns.stop(page);
        self.turns.stop(&patches::near(page));
        for improving in lock(&self.improving).values_mut() {
            improving.forget(page);
        }
    }
}

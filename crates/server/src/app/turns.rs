//! Turns: of what a page asks for, only the newest is worked out, in whatever order it arrives.

use std::collections::HashMap;
use std::sync::Mutex;

use dustcoat_core::task::{Cancel, Cancelled};

use super::lock;

/// What is under way for each page, so that the next of the same page can overtake it.
#[derive(Default)]
pub struct Turns(Mutex<HashMap<String, (u64, Cancel)>>);

impl Turns {
    /// Begins what `page` asks for as its `turn`, and stops what it asked for before; of equal turns the later to arrive is taken.
    ///
    /// # Errors
    /// [`Cancelled`] when something newer of that page was begun already: requests of one page travel by several connections and may arrive the other way round.
    pub fn begin(&self, page: &str, turn: u64) -> Result<Cancel, Cancelled> {
        let mut running = lock(&self.0);
        if running.get(page).is_some_and(|(newest, _)| *newest > turn) {
            return Err(Cancelled);
        }
        let cancel = Cancel::default();
        if let Some((_, old)) = running.insert(page.to_owned(), (turn, cancel.clone())) {
            old.cancel();
        }
        Ok(cancel)
    }

    /// Stops what is under way for `page`, if anything.
    pub fn stop(&self, page: &str) {
        if let Some((_, old)) = lock(&self.0).remove(page) {
            old.cancel();
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_arrives_late_stops_nothing_newer() {
        let turns = Turns::default();
        let first = turns.begin("one", 1).expect("nothing was before it");
        let third = turns.begin("one", 3).expect("it is newer");
        assert!(first.is_cancelled());
        turns.begin("one", 2).expect_err("it was asked for before the third");
        assert!(!third.is_cancelled());
        let other = turns.begin("two", 0).expect("pages don't overtake one another");
        turns.stop("one");
        assert!(third.is_cancelled() && !other.is_cancelled());
    }
}

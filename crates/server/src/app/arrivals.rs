//! Meshes that are being taken in: what is done, and how long it will take, for whoever waits for one. Each goes by a ticket that the page made up.

use std::collections::BTreeMap;
use std::sync::{Arc, Mutex};
use std::time::Instant;

use super::lock;
use crate::views::ArrivalView;

/// What is on its way.
#[derive(Default)]
pub struct Arrivals(Mutex<BTreeMap<String, (Instant, String, f32)>>);

/// One on its way, until it is dropped.
pub struct Arrival {
    all: Arc<Arrivals>,
    ticket: String,
}

impl Arrivals {
    /// Begins one; an empty ticket is nobody's.
    pub fn begin(self: &Arc<Self>, ticket: &str) -> Arrival {
        let arrival = Arrival { all: self.clone(), ticket: ticket.to_owned() };
        arrival.tell("Reading", 0.0);
        arrival
    }

    /// What is done of one; none when there is no such, or no longer.
    pub fn view(&self, ticket: &str) -> Option<ArrivalView> {
        let all = lock(&self.0);
        let (since, label, share) = all.get(ticket)?;
        let gone = since.elapsed().as_secs_f64();
        // Too early there is no telling.
        let left = (*share > 0.02 && gone > 0.2).then(|| gone / f64::from(*share) * f64::from(1.0 - share));
        Some(ArrivalView { label: label.clone(), share: *share, left })
    }
}

impl Arrival {
    /// What is done now, and the share of the whole.
    pub fn tell(&self, label: &str, share: f32) {
        if self.ticket.is_empty() {
            return;
        }
        let mut all = lock(&self.all.0);
        let since = all.get(&self.ticket).map_or_else(Instant::now, |a| a.0);
        all.insert(self.ticket.clone(), (since, label.to_owned(), share));
    }
}

impl Drop for Arrival {
    fn drop(&mut self) {
        lock(&self.all.0).remove(&self.ticket);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_told_of_one_is_seen_until_it_is_there() {
        let all = Arc::new(Arrivals::default());
        let (one, nobody) = (all.begin("one"), all.begin(""));
        one.tell("Tangents", 0.5);
        nobody.tell("Tangents", 0.5);
        let view = all.view("one").unwrap();
        assert_eq!((view.label.as_str(), view.share, view.left), ("Tangents", 0.5, None));
        assert!(all.view("").is_none() && all.view("two").is_none());
        drop(one);
        assert!(all.view("one").is_none());
    }
}

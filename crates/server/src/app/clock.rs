//! Where the time of an answer goes, part by part.

use std::sync::Mutex;
use std::time::Instant;

use dustcoat_core::evaluate::{COVERING, LAYING};

use super::lock;

/// A clock that is told which part begins; a part that comes again is added to.
pub struct Clock(Mutex<Running>);

struct Running {
    began: Instant,
    since: Instant,
    part: &'static str,
    spent: Vec<(&'static str, f64)>,
}

impl Running {
    fn turn(&mut self, part: &'static str) {
        let now = Instant::now();
        let milliseconds = (now - self.since).as_secs_f64() * 1e3;
        match self.spent.iter_mut().find(|s| s.0 == self.part) {
            Some(spent) => spent.1 += milliseconds,
            None => self.spent.push((self.part, milliseconds)),
        }
        (self.since, self.part) = (now, part);
    }
}

impl Clock {
    /// Begins with a part.
    pub fn start(part: &'static str) -> Self {
        let now = Instant::now();
        Self(Mutex::new(Running { began: now, since: now, part, spent: vec![] }))
    }

    /// Another part begins.
    pub fn begin(&self, part: &'static str) {
        lock(&self.0).turn(part);
    }

    /// The part that a piece of evaluation belongs to, by what it says of itself.
    pub fn hear(&self, label: &str) {
        let part = match label {
            LAYING => "channels",
            COVERING => "coverage",
            _ => "masks",
        };
        let mut running = lock(&self.0);
        if running.part != part {
            running.turn(part);
        }
    }

    /// What each part took, in ms.
    pub fn parts(&self) -> Vec<(&'static str, f64)> {
        let mut running = lock(&self.0);
        running.turn("rest");
        running.spent.clone()
    }

    /// All of it so far, in seconds.
    pub fn seconds(&self) -> f64 {
        lock(&self.0).began.elapsed().as_secs_f64()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn parts_add_up_to_the_whole() {
        let clock = Clock::start("waiting");
        clock.hear("Mask of Rust");
        clock.hear(LAYING);
        // A step of a mask that a coat asks for.
        clock.hear("Mask of Rust");
        clock.begin("packing");
        let parts = clock.parts();
        let names: Vec<&str> = parts.iter().map(|p| p.0).collect();
        assert_eq!(names, ["waiting", "masks", "channels", "packing"]);
        let sum: f64 = parts.iter().map(|p| p.1).sum();
        assert!(sum <= clock.seconds() * 1e3 && parts.iter().all(|p| p.1 >= 0.0), "{parts:?}");
    }
}

//! The core by itself: against closed forms, oracles and properties. One program, so that it is linked once.

mod adjust;
mod coats;
mod common;
mod controls;
mod dials;
mod document;
mod evaluate;
mod finish;
mod formats;
mod graded;
mod handoff;
mod import;
mod joins;
mod keys;
mod light;
mod patches;
mod patterns;
mod pictures;
mod probe;
mod readings;
mod recipe;
mod relief;
mod shapers;
mod still;
mod surface;
mod variants;

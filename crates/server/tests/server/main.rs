//! The server over HTTP, and the command line. One program, so that it is linked once.

mod api;
mod cabinet;
mod cli;
mod common;
mod crowded;
mod dials;
mod draw;
mod handoff;
mod judging;
mod lost;
mod masks;
mod patches;
mod robust;
mod stills;
mod strokes;
mod study;
mod surface;
mod tasks;
mod tidy;
mod types;
mod undo;

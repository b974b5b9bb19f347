//! The app in a browser, by real controls. One program, so that it is linked once.

mod access;
mod closely;
mod coats;
mod dials;
mod drags;
mod finish;
mod groups;
mod handoff;
mod journey;
mod judging;
mod masks;
mod mending;
mod panels;
mod paths;
mod pins;
mod reuse;
mod strokes;
mod study;
mod surface;
mod weather;
mod windows;

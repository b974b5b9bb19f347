//! The demo: its pieces, its projects and what it ships. One program, so that it is linked once.

mod drafts;
mod pieces;
mod pins;
mod shipped;

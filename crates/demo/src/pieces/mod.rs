//! The props, one file each.

pub mod ball;
pub mod tile;
pub mod valve;

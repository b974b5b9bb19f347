//! The props, one file each.

pub mod tile;
pub mod valve;

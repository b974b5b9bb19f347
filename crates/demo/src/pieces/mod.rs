//! The props, one file each.

pub mod ball;
pub mod buoy;
pub mod cleat;
pub mod lamp;
pub mod post;
pub mod shutter;
pub mod tile;
pub mod valve;

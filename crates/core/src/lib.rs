//! The rules of the job and all computation of Dust Coat.
//!
//! A *document* of layers, laid on a *piece*, is evaluated into sheets of texels. The modules stand from the ground up;
//! each imports only from those above it in this list. Nothing here knows of an interface, a server, a file or a clock.

pub mod names;

pub mod setting;

pub mod lattice;

pub mod raster;

pub mod mesh;

pub mod bake;

pub mod pattern;

pub mod stroke;

pub mod pin;

pub mod mask;

pub mod finish;

pub mod document;

pub mod recipe;

pub mod ready;

pub mod evaluate;

pub mod still;

pub mod handoff;

pub mod catalog;

pub mod task;

//! Picture sheets for the docs: pictures of one size side by side, each with what it shows under it.

use std::path::Path;

use dustcoat_core::handoff::sheet::{Cell, sheet};

/// Writes square RGBA pictures of `side` pixels with their names as one PNG, `across` to a row.
///
/// # Panics
/// When the file can't be written: this serves the examples alone.
pub fn write(file: impl AsRef<Path>, side: u32, across: u32, pictures: impl IntoIterator<Item = (String, Vec<u8>)>) {
    let cell = |(name, picture)| Cell { picture, words: vec![name] };
    let cells: Vec<Cell> = pictures.into_iter().map(cell).collect();
    std::fs::write(file, sheet(&cells, (side, side), across)).expect("the file can be written");
}

//! The readings: what is known of each texel from the piece alone. One file each, one line each in [`READINGS`].
//!
//! Some cost rays and are *measured* once per piece, size and settings, and kept; their settings belong to the project. Others follow from position or normal
//! alone and are computed where they are used; their settings belong to the step.

mod altitude;
mod ball;
mod edges;
mod facing;
mod ground;
mod occlusion;
mod rays;
mod recesses;
mod shell;
mod thickness;

use glam::Vec3;
use rayon::prelude::*;

use super::Surface;
use crate::raster::Plane;
use crate::setting::{ParamSpec, Resolved};
use crate::task::{Cancel, Cancelled, OnProgress, Progress};

/// Texels per batch: small enough to stop quickly, large enough to keep packets coherent.
const BATCH: usize = 2048;

/// A run of covered texels to measure.
pub struct Run<'a> {
    /// The surface.
    pub surface: &'a Surface,
    /// First covered texel.
    pub start: usize,
}

/// A reading: description and computation.
pub struct Reading {
    /// Key.
    pub kind: &'static str,
    /// What the artist reads.
    pub label: &'static str,
    /// One sentence of help.
    pub help: &'static str,
    /// Whether it costs rays and is kept.
    pub measured: bool,
    /// Its settings.
    pub specs: fn() -> Vec<ParamSpec>,
    /// Fills a run with values 0…1.
    pub fill: fn(&Run, &Resolved, &mut [f32]),
}

/// Where a covered texel lies, drawn `by` mm from its triangle's border towards the middle, but not past half the way. Texels on a
/// border lie exactly on the neighbouring face, and a ray that starts on a face doesn't see it.
fn inset(surface: &Surface, i: usize, by: f32) -> Vec3 {
    let atlas = &surface.atlas;
    let p = Vec3::new(atlas.px[i], atlas.py[i], atlas.pz[i]);
    let [a, b, c] = surface.piece.corners(atlas.triangle[i]);
    let way = (a + b + c) / 3.0 - p;
    p + way * (by / way.length().max(1e-12)).min(0.5)
}

/// All readings.
pub static READINGS: &[&Reading] = &[
    &occlusion::READING,
    &edges::READING,
    &recesses::READING,
    &thickness::READING,
    &facing::READING,
    &altitude::READING,
    &ground::READING,
    &shell::READING,
];

/// The reading of that kind.
pub fn find(kind: &str) -> Option<&'static Reading> {
    READINGS.iter().copied().find(|r| r.kind == kind)
}

/// A measured reading with its settings: what a mask line needs and what is kept.
#[derive(Debug, Clone, PartialEq)]
pub struct ReadingKey {
    /// Kind of the reading.
    pub kind: &'static str,
    /// Its settings.
    pub settings: Resolved,
}

impl ReadingKey {
    /// blake3 over everything the values depend on: piece, size, kind and settings. Hex.
    pub fn hash(&self, piece_hash: &str, size: u32) -> String {
        let mut h = blake3::Hasher::new();
        h.update(b"reading/2|").update(piece_hash.as_bytes()).update(&size.to_le_bytes());
        h.update(self.kind.as_bytes());
        self.settings.hash_into(&mut h);
        h.finalize().to_hex().to_string()
    }
}

/// Measures a reading over the whole surface on all cores. The same bytes for every thread count.
///
/// # Errors
/// [`Cancelled`] when asked to stop; checked at every batch.
pub fn measure(
    reading: &Reading,
    surface: &Surface,
    settings: &Resolved,
    cancel: &Cancel,
    on: OnProgress,
) -> Result<Plane, Cancelled> {
    let mut out = vec![0.0; surface.atlas.len()];
    let label = format!("Measuring {}", reading.label.to_lowercase());
    let progress = Progress::new(label, out.len().div_ceil(BATCH), on);
    out.par_chunks_mut(BATCH).enumerate().try_for_each(|(i, chunk)| {
        cancel.check()?;
        (reading.fill)(&Run { surface, start: i * BATCH }, settings, chunk);
        progress.advance();
        Ok(())
    })?;
    Ok(out)
}

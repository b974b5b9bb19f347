//! What is measured of a piece: the atlas of its texels, rays against it, and one file per reading.
//!
//! [`Surface`] is a piece laid out at a size, with a ray caster; [`reading`] holds the family of readings and its list.

pub mod atlas;
pub mod bvh;
pub mod rays;
pub mod reading;
mod triangles;

use std::sync::{Arc, OnceLock};

use crate::mesh::Piece;

pub use atlas::Atlas;
pub use bvh::Bvh;
pub use reading::{READINGS, Reading, ReadingKey, measure};

/// A piece laid out in texels at one size: what documents are evaluated on.
pub struct Surface {
    /// The piece.
    pub piece: Arc<Piece>,
    /// Its texels.
    pub atlas: Atlas,
    bvh: OnceLock<Bvh>,
}

impl Surface {
    /// Lays the piece out at `size` × `size` texels.
    pub fn new(piece: Arc<Piece>, size: u32) -> Self {
        let atlas = Atlas::build(&piece, size);
        Self { piece, atlas, bvh: OnceLock::new() }
    }

    /// The same piece with some of its covered texels only, in the order given: for thumbnails. It has no square to look up in.
    pub fn subset(&self, texels: &[u32]) -> Self {
        Self { piece: self.piece.clone(), atlas: self.atlas.subset(texels), bvh: OnceLock::new() }
    }

    /// blake3 of piece and size, hex: what planes over its covered texels hang on.
    pub fn key(&self) -> String {
        format!("{}-{}", self.piece.hash, self.atlas.size)
    }

    /// The ray caster, built when first asked for.
    pub fn bvh(&self) -> &Bvh {
        self.bvh.get_or_init(|| Bvh::of_piece(&self.piece))
    }
}

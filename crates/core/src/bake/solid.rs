//! What rays of measurements meet: the piece's triangles, or the little faces of its curved ones.

use std::sync::Arc;

use glam::Vec3;

use super::Bvh;
use super::frame::barycentrics;
use crate::mesh::Piece;
use crate::mesh::curved::Curved;
use crate::task::{Cancel, Cancelled};

/// The piece as measurements see it.
pub struct Solid {
    /// Its ray caster.
    pub bvh: Arc<Bvh>,
    /// The shell of each of its faces; none where they are the piece's triangles.
    shells: Option<Vec<u32>>,
    curved: Option<Curved>,
    /// Whether shells may lie in one another, so that what is solid isn't told by the nearest face alone.
    pub sunken: bool,
}

impl Solid {
    /// Of a piece whose triangles have that ray caster, if there is one already.
    ///
    /// # Errors
    /// [`Cancelled`], within some milliseconds.
    pub fn of(piece: &Piece, flat: Option<&Arc<Bvh>>, cancel: &Cancel) -> Result<Solid, Cancelled> {
        let curved = if piece.round { Curved::of(piece) } else { None };
        let bvh = match (&curved, flat) {
            (Some(curved), _) => Arc::new(Bvh::build_unless(&curved.faces, cancel)?),
            (None, Some(flat)) => flat.clone(),
            (None, None) => Arc::new(Bvh::of_piece_unless(piece, cancel)?),
        };
        Ok(Solid {
            sunken: may_be_sunken(piece),
            bvh,
            shells: curved.as_ref().map(|c| c.spread(&piece.shell_of)),
            curved,
        })
    }

    /// Whether its faces are other ones than the piece's triangles.
    pub fn is_curved(&self) -> bool {
        self.curved.is_some()
    }

    /// The shell of each of its faces.
    pub fn shell_of<'a>(&'a self, piece: &'a Piece) -> &'a [u32] {
        self.shells.as_deref().unwrap_or(&piece.shell_of)
    }

    /// The face over a point of a triangle's plane, and the point on it.
    pub fn spot(&self, piece: &Piece, triangle: u32, p: Vec3) -> ([Vec3; 3], Vec3) {
        let corners = piece.corners(triangle);
        match (&self.curved, barycentrics(p, corners)) {
            (Some(curved), Some(weights)) => curved.spot(triangle, weights),
            _ => (corners, p),
        }
    }
}

/// Share of the diagonal by which the boxes of shells may lie apart that touch: one that stands on another is barely out of it, and where faces are curved it may be in.
const TOUCH: f32 = 1e-3;

/// Whether the boxes of two shells of a piece overlap or touch: only then may one be sunk into the other.
fn may_be_sunken(piece: &Piece) -> bool {
    if piece.shells < 2 {
        return false;
    }
    let mut boxes = piece.shell_boxes();
    let margin = Vec3::splat(TOUCH * piece.diagonal());
    boxes.iter_mut().for_each(|(low, _)| *low -= margin);
    // Swept along x: each is compared with those that begin before it ends.
    boxes.sort_by(|a, b| a.0.x.total_cmp(&b.0.x));
    let meets = |a: &(Vec3, Vec3), b: &(Vec3, Vec3)| a.0.cmplt(b.1).all() && b.0.cmplt(a.1).all();
    boxes.iter().enumerate().any(|(i, a)| boxes[i + 1..].iter().take_while(|b| b.0.x < a.1.x).any(|b| meets(a, b)))
}

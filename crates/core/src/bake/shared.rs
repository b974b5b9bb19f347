//! Texels that several triangles share, of parts for which the mean of all is measured: where the others lie on the piece.

use std::collections::HashSet;

use glam::Vec2;

use super::Surface;
use super::atlas::{Lies, NONE};
use super::flat::Flat;
use crate::mesh::mend::Sharing;

/// What else lies on shared texels.
pub struct Others {
    /// A texel for each further triangle on a shared one, without a square around them.
    pub surface: Surface,
    /// The covered texel that each of them shares.
    pub of: Vec<u32>,
}

impl Others {
    /// Of a surface; none where no part asks for it, or nothing is shared.
    pub fn of(surface: &Surface) -> Option<Others> {
        let (piece, base) = (&surface.piece, &surface.atlas);
        let asked = |t: u32| piece.parts[usize::from(piece.part_of[t as usize])].shared == Sharing::Mean;
        if base.overlaps.is_empty() || !piece.parts.iter().any(|p| p.shared == Sharing::Mean) {
            return None;
        }
        let mut atlas = base.subset(&[]);
        let mut of = vec![];
        let (held, size) = (base.held(), base.size);
        // Which chart a triangle belongs to, and which way round it lies there: halves that are mirrored hang together in the middle.
        let side = |t: u32| {
            let [a, b, c] = piece.triangles[t as usize].map(|v| Vec2::from(piece.uvs[v as usize]));
            (piece.chart_of[t as usize], (b - a).perp_dot(c - a) < 0.0)
        };
        let mut seen = HashSet::new();
        for t in (0..piece.triangles.len() as u32).filter(|t| asked(*t)) {
            let flat = Flat::of(piece, t, size);
            if flat.is_line() {
                continue;
            }
            let sheet = u32::from(piece.sheet_of[t as usize]) * size;
            let (xs, ys) = flat.reach(0.0, &base.columns, &(0..size));
            for y in ys.filter(|y| held.contains(&(sheet + y))) {
                for x in xs.clone() {
                    let at = (sheet + y) * size + x;
                    let shares = flat.shares(Vec2::new(x as f32 + 0.5, y as f32 + 0.5));
                    let home = base.lookup[base.place(at)];
                    let counts = |home: u32| {
                        // A centre on the edge between two triangles lies in both, and counts once.
                        let (own, inner) = (side(base.triangle[home as usize]), shares.min_element());
                        if side(t) == own { base.triangle[home as usize] != t && inner > 1e-3 } else { inner >= 0.0 }
                    };
                    if home != NONE && counts(home) && seen.insert((home, side(t))) {
                        atlas.add(at, &Lies::at(piece, t, shares), 0.0);
                        of.push(home);
                    }
                }
            }
        }
        (!of.is_empty()).then(|| Others { surface: surface.laid_out(atlas), of })
    }
}

//! The swatch tile: a bevelled plate, 200 mm square and 12 mm thick, with a raised rim to catch dirt.

use dustcoat_core::mesh::Piece;
use glam::{Mat4, Vec2};

use crate::kit::{Kit, Section, Unfold, round};

/// Builds the tile, lying flat, its top 12 mm up.
pub fn build() -> Piece {
    let mut kit = Kit::default();
    let section = Section::Rect { half: Vec2::splat(100.0), corner: 8.0 };
    let profile = [(-100.0, 0.0), (0.0, 0.0), (0.0, 12.0), (-9.0, 12.0), (-11.0, 9.5), (-100.0, 9.5)];
    let profile = round(&profile.map(Vec2::from), 1.6);
    kit.sweep("tile", &profile, &section, Unfold::Parts, Mat4::IDENTITY);
    kit.finish("Swatch tile")
}

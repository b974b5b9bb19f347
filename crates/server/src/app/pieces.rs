//! Pieces and surfaces, read once and held.

use std::sync::Arc;

use dustcoat_core::bake::Surface;
use dustcoat_core::mesh::Piece;
use dustcoat_core::mesh::import::{MeshLimits, import};
use dustcoat_core::recipe::package::MeshSource;

use super::{App, AppError};
use crate::views::PieceView;

impl App {
    /// The piece of a mesh file that is kept.
    pub(super) fn piece(&self, source: &MeshSource) -> Result<Arc<Piece>, AppError> {
        let key = format!("{}-{:?}-{}", source.hash, source.unit, source.file);
        if let Some(piece) = self.pieces.get(&key) {
            return Ok(piece);
        }
        let bytes = self.db.asset(&source.hash)?;
        let piece = Arc::new(import(&source.file, &bytes, source.unit, MeshLimits::default())?);
        self.pieces.insert(key, piece.clone());
        Ok(piece)
    }

    /// A piece laid out at a size.
    pub(super) fn surface(&self, piece: &Arc<Piece>, size: u32) -> Arc<Surface> {
        self.surfaces.get_with((piece.hash.clone(), size), || Arc::new(Surface::new(piece.clone(), size)))
    }

    /// What the page shows of a piece.
    pub(super) fn piece_view(&self, source: &MeshSource, piece: &Piece) -> PieceView {
        PieceView {
            hash: piece.hash.clone(),
            file: source.file.clone(),
            parts: piece.parts.clone(),
            shells: piece.shells,
            triangles: piece.triangles.len() as u32,
            size: std::array::from_fn(|a| piece.max[a] - piece.min[a]),
            min: piece.min,
            has_uvs: piece.has_uvs(),
            findings: piece.findings.clone(),
        }
    }

    /// The buffers of a project's piece for the view: two counts (u32: vertices, triangles), then positions, normals, tangents (4), UVs as f32,
    /// indices as u32, parts per triangle as u16, all little-endian.
    ///
    /// # Errors
    /// When there is no such project, or its mesh can't be read.
    pub fn mesh_buffers(&self, project: i64) -> Result<Vec<u8>, AppError> {
        let piece = self.piece(&self.db.project(project)?.source)?;
        let mut out = Vec::with_capacity(piece.positions.len() * 48 + piece.triangles.len() * 14 + 8);
        for n in [piece.positions.len(), piece.triangles.len()] {
            out.extend((n as u32).to_le_bytes());
        }
        let mut floats = |v: &[f32]| v.iter().for_each(|f| out.extend(f.to_le_bytes()));
        floats(piece.positions.as_flattened());
        floats(piece.normals.as_flattened());
        floats(piece.tangents.as_flattened());
        floats(piece.uvs.as_flattened());
        piece.triangles.as_flattened().iter().for_each(|i| out.extend(i.to_le_bytes()));
        piece.part_of.iter().for_each(|p| out.extend(p.to_le_bytes()));
        Ok(out)
    }
}

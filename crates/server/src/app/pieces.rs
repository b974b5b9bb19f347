//! Pieces and surfaces, read once and held; meshes and pictures brought in.

use std::sync::Arc;

use dustcoat_core::bake::layout::{self, UvReport};
use dustcoat_core::bake::{Finer, Surface};
use dustcoat_core::document::{self, Document, Edit, Target};
use dustcoat_core::mesh::import::{MeshLimits, import_watched};
use dustcoat_core::mesh::intake::{self, PartsBy, PictureUse, guess_purpose, guess_sheet};
use dustcoat_core::mesh::mend::Taking;
use dustcoat_core::mesh::split::{outward, split, vertices};
use dustcoat_core::mesh::{Finding, Intake, MeshSource, Piece, Unit, swap};
use dustcoat_core::raster::picture::Picture;
use dustcoat_core::task::{OnProgress, silent};

use super::{App, AppError};
use crate::db::DbError;
use crate::views::{EditRequest, PieceView, ProjectView};

/// The most characters of a file name that are kept.
const FILE_NAME: usize = 200;

fn short(file: &str) -> String {
    file.chars().take(FILE_NAME).collect()
}

/// How a file that was given is named in an intake.
pub(super) fn source_of(file: &str, unit: Option<Unit>, bytes: &[u8]) -> MeshSource {
    MeshSource { file: short(file), hash: blake3::hash(bytes).to_hex().to_string(), unit }
}

/// The key that a mesh is held under.
fn held_as(source: &MeshSource, taking: &Taking) -> String {
    format!("{}-{}-{taking:?}", source.hash, source.file)
}

/// The most triangles that a piece is cut into to be moved by its relief.
const FINE: usize = 320_000;

impl App {
    /// A mesh as it is taken in.
    fn mesh(&self, source: &MeshSource, taking: Taking) -> Result<Arc<Piece>, AppError> {
        if let Some(piece) = self.pieces.get(&held_as(source, &taking)) {
            return Ok(piece);
        }
        self.read_mesh(source, &self.db.asset(&source.hash)?, taking)
    }

    /// Imports a mesh and holds it, so that what was read to see whether it can be is not read again.
    ///
    /// # Errors
    /// [`AppError::Mesh`]
    pub(super) fn read_mesh(&self, source: &MeshSource, bytes: &[u8], taking: Taking) -> Result<Arc<Piece>, AppError> {
        self.read_mesh_watched(source, bytes, taking, &silent)
    }

    /// The same, told of as it goes on.
    ///
    /// # Errors
    /// [`AppError::Mesh`]
    pub(super) fn read_mesh_watched(
        &self,
        source: &MeshSource,
        bytes: &[u8],
        taking: Taking,
        on: OnProgress,
    ) -> Result<Arc<Piece>, AppError> {
        let key = held_as(source, &taking);
        let piece = Arc::new(import_watched(&source.file, bytes, taking, MeshLimits::default(), on)?);
        self.pieces.insert(key, piece.clone());
        Ok(piece)
    }

    /// The piece of an intake.
    pub(super) fn piece(&self, intake: &Intake) -> Result<Arc<Piece>, AppError> {
        let mesh = self.mesh(&intake.mesh, intake.taking())?;
        if *intake == (Intake { mending: intake.mending.clone(), ..Intake::of_mesh(intake.mesh.clone()) }) {
            return Ok(mesh);
        }
        let text = serde_json::to_vec(intake).map_err(DbError::from)?;
        let key = blake3::hash(&text).to_hex().to_string();
        if let Some(piece) = self.pieces.get(&key) {
            return Ok(piece);
        }
        let piece = Arc::new(mesh.take_in(intake, &|used| self.db.asset(&used.hash).ok()));
        self.pieces.insert(key, piece.clone());
        Ok(piece)
    }

    /// The piece of a document laid out at a size.
    pub(super) fn surface_of(&self, document: &Document, size: u32) -> Result<Arc<Surface>, AppError> {
        let intake = &document.intake;
        let piece = self.piece(intake)?;
        let finer = match &intake.finer {
            Some(finer) => Some((self.finer(&finer.mesh, intake.taking_finer(finer))?, finer.cage_on(&piece))),
            None => None,
        };
        let key = (format!("{}{}", piece.hash, piece.told), size);
        // What is found of the shape another size of the same piece has already.
        let like = (6..14).find_map(|n| self.surfaces.get(&(key.0.clone(), 1 << n)));
        let make = || {
            let new = Surface::new(piece.clone(), size).with_finer(finer.clone());
            Arc::new(match &like {
                Some(like) => new.shaped_as(like),
                None => new,
            })
        };
        let held = self.surfaces.get_with(key.clone(), make);
        if Arc::ptr_eq(&held.piece, &piece) {
            return Ok(held);
        }
        // The same shape with other names or pictures: nothing of it is worked out again.
        let surface = Arc::new(held.of_state(piece, finer));
        self.surfaces.insert(key, surface.clone());
        Ok(surface)
    }

    fn finer(&self, source: &MeshSource, taking: Taking) -> Result<Arc<Finer>, AppError> {
        if let Some(finer) = self.finers.get(&held_as(source, &taking)) {
            return Ok(finer);
        }
        self.read_finer(source, &self.db.asset(&source.hash)?, taking)
    }

    fn read_finer(&self, source: &MeshSource, bytes: &[u8], taking: Taking) -> Result<Arc<Finer>, AppError> {
        let key = held_as(source, &taking);
        let finer = Arc::new(Finer::read(&source.file, bytes, taking)?);
        self.finers.insert(key, finer.clone());
        Ok(finer)
    }

    /// How a document's piece is laid out at its draft size. It is asked for with every edit, and goes over all triangles several times.
    fn layout_of(&self, document: &Document, piece: &Piece) -> Result<UvReport, AppError> {
        let key = (piece.hash.clone(), document.draft_size);
        if let Some(report) = self.layouts.get(&key) {
            return Ok(report);
        }
        // The same surface that the next evaluation is of.
        let surface = self.surface_of(document, document.draft_size)?;
        let report = layout::report(piece, &surface.atlas);
        self.layouts.insert(key, report.clone());
        Ok(report)
    }

    /// What a document asks for and its piece doesn't have: names, and a surface under what was drawn or laid by hand.
    ///
    /// # Errors
    /// [`AppError`] when its piece can't be read.
    pub(super) fn lost_in(&self, document: &Document, piece: &Piece) -> Result<Vec<Finding>, AppError> {
        let mut lost = document::lost_names(document, piece);
        if document::has_by_hand(document) {
            let shape = piece.shape();
            lost.extend(document::drawn_elsewhere(document, &shape));
            lost.extend(document::adrift(document, &shape, self.surface_of(document, document.draft_size)?.bvh()));
        }
        Ok(lost)
    }

    /// What the page shows of a project's piece.
    pub(super) fn piece_view(&self, document: &Document, piece: &Piece) -> Result<PieceView, AppError> {
        let layout = self.layout_of(document, piece)?;
        let mut findings = piece.findings.clone();
        findings.extend(layout.finding());
        findings.extend(self.lost_in(document, piece)?);
        let missed = match &document.intake.finer {
            Some(_) => self.surface_of(document, document.draft_size)?.base_normals().and_then(|b| b.missed),
            None => None,
        };
        Ok(PieceView {
            hash: piece.hash.clone(),
            file: document.intake.mesh.file.clone(),
            parts: piece.parts.clone(),
            shells: piece.shells,
            triangles: piece.triangles.len() as u32,
            size: std::array::from_fn(|a| piece.max[a] - piece.min[a]),
            min: piece.min,
            charts: piece.charts,
            sheets: piece.sheets.clone(),
            layout,
            ways: document.intake.ways(piece),
            marks: document.intake.marks(),
            mendable: document.intake.mendable(piece).into_iter().map(str::to_owned).collect(),
            missed,
            cage: document.intake.finer.as_ref().map(|f| f.cage_on(piece)),
            findings,
        })
    }

    /// The buffers of a project's piece for the view: two counts (u32: vertices, triangles), then positions, normals, tangents (4), UVs in the texture of
    /// all sheets as f32, indices as u32, all little-endian. A `fine` one is cut into more triangles and holds, before the indices, the ways in which relief moves its
    /// vertices.
    ///
    /// # Errors
    /// When there is no such project, or its mesh can't be read; [`AppError::PixelsGone`] when its piece is not, or is no longer, the one of that hash.
    pub fn mesh_buffers(&self, project: i64, hash: &str, fine: bool) -> Result<Vec<u8>, AppError> {
        let piece = self.piece(&self.db.project(project)?.document.intake)?;
        if piece.hash != hash {
            return Err(AppError::PixelsGone);
        }
        let mut vertices = vertices(&piece);
        let sheets = piece.sheets.len() as f32;
        let mut done = vec![false; vertices.len()];
        for (tri, sheet) in piece.triangles.iter().zip(&piece.sheet_of) {
            for v in tri.map(|v| v as usize) {
                if !std::mem::replace(&mut done[v], true) {
                    vertices[v][11] = (vertices[v][11] + f32::from(*sheet)) / sheets;
                }
            }
        }
        let most = if fine { FINE } else { 0 };
        let (vertices, triangles) = split(vertices, piece.triangles.clone(), most);
        let mut out = Vec::with_capacity(vertices.len() * 60 + triangles.len() * 12 + 8);
        for n in [vertices.len(), triangles.len()] {
            out.extend((n as u32).to_le_bytes());
        }
        for part in [0..3, 3..6, 6..10, 10..12] {
            vertices.iter().flat_map(|v| &v[part.clone()]).for_each(|f| out.extend(f.to_le_bytes()));
        }
        if fine {
            outward(&vertices).as_flattened().iter().for_each(|f| out.extend(f.to_le_bytes()));
        }
        triangles.as_flattened().iter().for_each(|i| out.extend(i.to_le_bytes()));
        Ok(out)
    }

    /// Takes in another version of a project's mesh, matching its parts to the old ones.
    ///
    /// # Errors
    /// [`AppError`] when it can't be read or the revision is stale; the project is as it was then.
    pub fn swap_mesh(
        &self,
        project: i64,
        on: i64,
        file: &str,
        unit: Option<Unit>,
        bytes: &[u8],
    ) -> Result<ProjectView, AppError> {
        let row = self.db.project(project)?;
        let old = self.piece(&row.document.intake)?;
        let mesh = source_of(file, unit, bytes);
        let taking = Intake { mesh: mesh.clone(), ..row.document.intake.clone() }.taking();
        let (new, shown) = taking.first(|taking| self.read_mesh(&mesh, bytes, taking))?;
        self.db.keep_asset(bytes)?;
        let mut matching = swap::match_parts(&old, &new);
        let parts = std::mem::take(&mut matching.looks);
        let report = matching.report(&row.document.intake.mesh.file);
        let mut edits = vec![Edit::SwapMesh { mesh, parts, report }];
        edits.extend(shown.into_iter().map(|(key, value)| {
            let target = Target { mending: true, key, ..Target::default() };
            Edit::SetParam { target, value: Some(value) }
        }));
        self.edit(project, &EditRequest { revision: on, edits })
    }

    /// Brings in a picture for a project's piece; what it is for is guessed from its name where that is not said.
    ///
    /// # Errors
    /// [`AppError`] when it can't be read or the revision is stale; the project is as it was then.
    pub fn bring_picture(
        &self,
        project: i64,
        on: i64,
        file: &str,
        purpose: Option<&str>,
        bytes: &[u8],
    ) -> Result<ProjectView, AppError> {
        let row = self.db.project(project)?;
        let intake = &row.document.intake;
        let purpose = purpose.unwrap_or_else(|| guess_purpose(file));
        let picture = picture_use(&intake.mesh, &*self.mesh(&intake.mesh, intake.taking())?, file, purpose, bytes)?;
        self.db.keep_asset(bytes)?;
        let mut edits = vec![Edit::AddPicture { picture: picture.clone() }];
        if picture.purpose == "parts" {
            edits.push(Edit::TellParts { by: PartsBy::Picture, tolerance: None });
        }
        self.edit(project, &EditRequest { revision: on, edits })
    }

    /// Takes in a finer mesh whose relief the piece takes on.
    ///
    /// # Errors
    /// [`AppError`] when it can't be read or the revision is stale; the project is as it was then.
    pub fn bring_finer(
        &self,
        project: i64,
        on: i64,
        file: &str,
        unit: Option<Unit>,
        bytes: &[u8],
    ) -> Result<ProjectView, AppError> {
        let finer = intake::Finer { mesh: source_of(file, unit, bytes), cage: None };
        let taking = self.db.project(project)?.document.intake.taking_finer(&finer);
        self.read_finer(&finer.mesh, bytes, taking)?;
        self.db.keep_asset(bytes)?;
        let edits = vec![Edit::SetFiner { finer: Some(finer) }];
        self.edit(project, &EditRequest { revision: on, edits })
    }
}

/// A picture as an intake names it, read once to see that it can be.
///
/// # Errors
/// [`AppError::Picture`] when it can't.
pub fn picture_use(
    mesh: &MeshSource,
    piece: &Piece,
    file: &str,
    purpose: &str,
    bytes: &[u8],
) -> Result<PictureUse, AppError> {
    let size = Picture::decode(file, bytes)?.size();
    Ok(PictureUse {
        hash: blake3::hash(bytes).to_hex().to_string(),
        file: short(file),
        size,
        purpose: purpose.into(),
        sheet: guess_sheet(file, &piece.sheets),
        mesh: mesh.hash.clone(),
        ..PictureUse::default()
    })
}

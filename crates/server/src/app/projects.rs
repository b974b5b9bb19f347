//! Projects: made, shown, edited, undone, packed.

use std::collections::{BTreeMap, BTreeSet};

use dustcoat_core::bake::READINGS;
use dustcoat_core::catalog::{Entry, catalog_for};
use dustcoat_core::document::{self, Document, Edit, Layer, LayerKind, Recipe, TriedFormula};
use dustcoat_core::finish::vary::Variation;
use dustcoat_core::mesh::import::{self, MeshLimits};
use dustcoat_core::mesh::intake::{PartsBy, guess_purpose};
use dustcoat_core::mesh::{Piece, Unit};
use dustcoat_core::recipe::package::{self, PackageLimits, Project};
use dustcoat_demo::{PIECES, cabinet, piece as demo_piece};

use super::pieces::{picture_use, source_of};
use super::{App, AppError};
use crate::db::{DbError, Done, History, ProjectRow};
use crate::views::{
    EditRequest, Event, GoTo, Newer, PlanView, ProjectCard, ProjectView, SnapshotView, StateView, When,
};
use dustcoat_core::task::{OnProgress, silent};

/// How many states are told of, either way.
const STATES: u32 = 200;

/// What pictures are used for on a piece: their purposes and the kinds of the readings that are read from them.
fn stand_ins(piece: &Piece) -> Vec<String> {
    let read = READINGS.iter().filter(|r| r.is_stood_in(piece)).map(|r| r.kind.to_owned());
    let all: BTreeSet<String> = piece.stand_ins.keys().cloned().chain(read).collect();
    all.into_iter().collect()
}

impl App {
    /// All projects, newest first.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn cards(&self) -> Result<Vec<ProjectCard>, AppError> {
        let card =
            |s: crate::db::Summary| ProjectCard { id: s.id, revision: s.revision, name: s.name, changed: s.changed };
        Ok(self.db.projects()?.into_iter().map(card).collect())
    }

    /// A project in full.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn view(&self, id: i64) -> Result<ProjectView, AppError> {
        self.view_of(self.db.project(id)?)
    }

    /// Everything that can be used, with lengths that suit the project's piece.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn catalog(&self, id: i64) -> Result<Vec<Entry>, AppError> {
        let row = self.db.project(id)?;
        Ok(catalog_for(self.piece(&row.document.intake)?.diagonal()))
    }

    /// What a formula would come to in a project.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn try_formula(&self, id: i64, edit: &Edit) -> Result<TriedFormula, AppError> {
        Ok(document::try_formula(&self.db.project(id)?.document, edit))
    }

    /// Newer versions of the recipes that layers use, by layer id.
    fn newer_versions(&self, layers: &[&Layer]) -> Result<BTreeMap<String, Newer>, AppError> {
        let mut newest: BTreeMap<&str, Option<Recipe>> = BTreeMap::new();
        let mut out = BTreeMap::new();
        for layer in layers {
            let LayerKind::Use { recipe, values } = &layer.kind else { continue };
            if !newest.contains_key(recipe.id.as_str()) {
                let there = if recipe.id.is_empty() { None } else { self.db.newest(&recipe.id)? };
                newest.insert(&recipe.id, there);
            }
            if let Some(newer) = newest[recipe.id.as_str()].as_ref().filter(|r| r.version > recipe.version) {
                let (_, lost) = document::carried(recipe, newer, values);
                out.insert(layer.id.clone(), Newer { recipe: newer.clone(), lost });
            }
        }
        Ok(out)
    }

    pub(super) fn view_of(&self, row: ProjectRow) -> Result<ProjectView, AppError> {
        let piece = self.piece(&row.document.intake)?;
        let drives = |d: &document::Dial| (d.id.clone(), document::driven(&row.document, &d.id));
        let dials = document::dial_states(&row.document.dials, &Default::default());
        let layers = document::layers(&row.document.layers);
        Ok(ProjectView {
            id: row.id,
            revision: row.revision,
            stamp: row.stamp,
            undo: row.undo,
            redo: row.redo,
            piece: self.piece_view(&row.document, &piece)?,
            measurements: self.measurement_states(row.id, &row.document, &piece)?,
            stand_ins: stand_ins(&piece),
            driven: row.document.dials.iter().map(drives).collect(),
            dials_of: layers
                .iter()
                .map(|l| (l.id.clone(), document::dials_of(&row.document, &l.id)))
                .filter(|(_, dials)| !dials.is_empty())
                .collect(),
            variants: row
                .document
                .variants
                .iter()
                .map(|v| (v.name.clone(), document::whole_variant(&row.document, &v.name)))
                .collect(),
            variations: layers.iter().filter_map(|l| Some((l.id.clone(), variation(l)?))).collect(),
            newer: self.newer_versions(&layers)?,
            sets: row.document.dials.iter().map(|d| (d.id.clone(), d.kind().sets())).collect(),
            derived: document::derived(&row.document.dials),
            standings: document::standings(&row.document),
            colors: layers.iter().map(|l| (l.id.clone(), document::colors(l, &dials))).collect(),
            plan: PlanView {
                fresh: document::Element::fresh(&row.document.study.plan),
                places: document::Whereabouts::ALL.to_vec(),
                near: document::NEAR,
                over: document::planned_over(&row.document.study.plan),
            },
            snapshots: self
                .db
                .snapshots(row.id)?
                .into_iter()
                .map(|s| SnapshotView { id: s.id, name: s.name })
                .collect(),
            document: row.document,
        })
    }

    /// Starts a project on a demo piece, undressed.
    ///
    /// # Errors
    /// [`AppError::NoDemo`]
    pub fn start_on_demo(&self, key: &str) -> Result<ProjectView, AppError> {
        let piece = demo_piece(key).ok_or_else(|| AppError::NoDemo(key.into()))?;
        let (file, bytes) = piece.file();
        let id = self.create(&piece.document(false), BTreeMap::new(), (&file, None, &bytes), &silent)?;
        self.view(id)
    }

    /// Starts a project on a file: a mesh, a ZIP of a mesh and its pictures, or a `.dustcoat` package.
    ///
    /// # Errors
    /// [`AppError`] when the file can't be read; nothing is kept then.
    pub fn start_on_file(
        &self,
        file: &str,
        unit: Option<Unit>,
        bytes: &[u8],
        ticket: &str,
    ) -> Result<ProjectView, AppError> {
        let arrival = self.arrivals.begin(ticket);
        // What is left after the mesh is read: keeping it, and laying it out.
        const READ: f32 = 0.8;
        let is_project = bytes.starts_with(b"PK") && file.to_lowercase().ends_with(".dustcoat");
        let id = if is_project {
            let Project { document, files } = package::read_project(bytes, PackageLimits::default())?;
            let source = &document.intake.mesh;
            self.read_mesh(source, &files[&source.hash], document.intake.taking())?;
            self.db.create_project(&document, &files)?
        } else {
            let stem = file.rsplit(['/', '\\']).next().unwrap_or(file);
            let name = stem.rsplit_once('.').map_or(stem, |(s, _)| s).trim();
            let name: String = name.chars().take(document::limits::NAME).collect();
            let name = if name.is_empty() { "New piece" } else { &name };
            let document = Document { draft_size: self.draft, ..Document::new(name) };
            self.create(&document, BTreeMap::new(), (file, unit, bytes), &|what, share| {
                arrival.tell(what, share * READ)
            })?
        };
        arrival.tell("Laying it out", READ + (1.0 - READ) * 0.1);
        self.view(id)
    }

    /// Keeps a project on a mesh, with the pictures that come with it and the files that its document names already. The mesh is read first, so that nothing unreadable is kept.
    pub(super) fn create(
        &self,
        document: &Document,
        mut files: BTreeMap<String, Vec<u8>>,
        (file, unit, mesh): (&str, Option<Unit>, &[u8]),
        on: OnProgress,
    ) -> Result<i64, AppError> {
        let source = source_of(file, unit, mesh);
        files.insert(source.hash.clone(), mesh.to_vec());
        let mut document = document.clone();
        document.intake.mesh = source;
        let (source, taking) = (document.intake.mesh.clone(), document.intake.taking());
        let (piece, shown) = taking.first(|taking| self.read_mesh_watched(&source, mesh, taking, on))?;
        document.intake.mending.extend(shown);
        for found in import::pictures(file, mesh, MeshLimits::default())?.into_iter().take(document::limits::PICTURES) {
            let purpose = found.purpose.unwrap_or_else(|| guess_purpose(&found.name));
            // A picture that can't be read is no reason to refuse the mesh.
            let picture = picture_use(&document.intake.mesh, &piece, &found.name, purpose, &found.bytes);
            let Ok(picture) = picture else { continue };
            if purpose == "parts" {
                document.intake.parts_by = PartsBy::Picture;
            }
            files.insert(picture.hash.clone(), found.bytes);
            document.intake.add_picture(picture);
        }
        document::check(&document)?;
        Ok(self.db.create_project(&document, &files)?)
    }

    /// Fills an empty database with the demo's projects and recipes.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn fill_with_demo(&self) -> Result<(), AppError> {
        if !self.db.projects()?.is_empty() {
            return Ok(());
        }
        // The one that opens first is made last: the front door shows the newest first.
        for piece in PIECES.iter().rev() {
            let Some(dress) = piece.dress else { continue };
            let (file, bytes) = piece.file();
            let id = self.create(&piece.document(true), piece.files(), (&file, None, &bytes), &silent)?;
            self.db.set_picture(id, self.db.project(id)?.revision, dress.picture)?;
        }
        for recipe in cabinet::recipes() {
            self.db.keep_recipe(&recipe, false)?;
        }
        Ok(())
    }

    /// Applies edits one after the other and keeps them as one revision.
    ///
    /// # Errors
    /// [`AppError`] when one of them is refused or the revision is stale; nothing is kept then.
    pub fn edit(&self, id: i64, request: &EditRequest) -> Result<ProjectView, AppError> {
        let row = self.db.project(id)?;
        if row.revision != request.revision {
            return Err(DbError::Stale { current: row.revision }.into());
        }
        let Some(first) = request.edits.first() else { return self.view_of(row) };
        let label = document::label(&row.document, first);
        let new = self.try_edits(&row.document, &request.edits)?;
        self.check_files(&row.document, &new)?;
        // A mesh that can't be taken so would leave a project that can't be opened.
        if new.intake.taking() != row.document.intake.taking() {
            self.piece(&new.intake)?;
        }
        // Before the revision that names them is acknowledged, whichever edit brought them.
        for points in document::new_points(&row.document, &new) {
            self.db.keep_asset(&points)?;
        }
        let row = self.db.revise(id, request.revision, &label, &new)?;
        self.changed(&row);
        self.view_of(row)
    }

    pub(super) fn changed(&self, row: &ProjectRow) {
        self.send(Event::Changed { project: row.id, stamp: row.stamp });
    }

    /// Undoes or redoes.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn step(&self, id: i64, on: i64, back: bool) -> Result<ProjectView, AppError> {
        let row = self.db.step(id, on, back)?;
        self.changed(&row);
        self.view_of(row)
    }

    /// The states that undo and redo lead to, the latest first.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn history(&self, id: i64) -> Result<Vec<StateView>, AppError> {
        let History { ahead, behind } = self.db.history(id, STATES)?;
        let view = |d: Done, when| StateView { revision: d.revision, label: d.label, made: d.made, when };
        let mut all: Vec<StateView> = ahead.into_iter().rev().map(|d| view(d, When::Ahead)).collect();
        let behind = behind.into_iter().enumerate();
        all.extend(behind.map(|(i, d)| view(d, if i == 0 { When::Now } else { When::Behind })));
        Ok(all)
    }

    /// Goes to a state, as undo and redo would step by step.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn go_to(&self, id: i64, go: &GoTo) -> Result<ProjectView, AppError> {
        let row = self.db.go_to(id, go.revision, go.to)?;
        self.changed(&row);
        self.view_of(row)
    }

    /// A project as a `.dustcoat` file: name and bytes.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn pack(&self, id: i64) -> Result<(String, Vec<u8>), AppError> {
        let row = self.db.project(id)?;
        let mut files = BTreeMap::new();
        for (hash, _) in row.document.files() {
            files.insert(hash.to_owned(), self.db.asset(hash)?);
        }
        let picture = self.db.picture(id)?.map(|(png, _)| png);
        let name = format!("{}.dustcoat", row.document.name);
        let project = Project { document: row.document, files };
        Ok((name, package::write_project(&project, picture.as_deref())))
    }

    /// The document after edits that are not kept.
    ///
    /// # Errors
    /// [`AppError`] with the first edit that is refused.
    pub(super) fn try_edits(&self, document: &Document, edits: &[document::Edit]) -> Result<Document, AppError> {
        let Some((first, rest)) = edits.split_first() else { return Ok(document.clone()) };
        let first = document::apply(document, first)?;
        let mut new = rest.iter().try_fold(first, |new, edit| document::apply(&new, edit))?;
        self.db.hold_points(&mut new);
        Ok(new)
    }
}

/// How a layer varies what lies below it, where six numbers say all of it.
fn variation(layer: &Layer) -> Option<Variation> {
    if let LayerKind::Adjust { finish } = &layer.kind { Variation::of(finish) } else { None }
}

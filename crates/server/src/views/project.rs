//! Projects, their pieces, measurements and snapshots, and the edits made on them.

use std::collections::BTreeMap;

use dustcoat_core::bake::layout::UvReport;
use dustcoat_core::document::{Derived, Document, Edit, Element, Recipe, Standing, Whereabouts, WholeVariant};
use dustcoat_core::finish::vary::Variation;
use dustcoat_core::mesh::intake::PartsBy;
use dustcoat_core::mesh::{Finding, Part, Sheet};
use dustcoat_core::setting::{ParamSpec, ParamType};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// A project as the front door lists it.
#[derive(Debug, Serialize, TS)]
pub struct ProjectCard {
    /// Id.
    #[ts(type = "number")]
    pub id: i64,
    /// Revision in force: the picture's version.
    #[ts(type = "number")]
    pub revision: i64,
    /// Name.
    pub name: String,
    /// When it was last changed, ISO 8601.
    pub changed: String,
}

/// A demo piece to start from.
#[derive(Debug, Serialize, TS)]
pub struct DemoCard {
    /// Key.
    pub key: String,
    /// Name.
    pub name: String,
    /// One sentence.
    pub note: String,
}

/// A made-up picture for pins.
#[derive(Debug, Serialize, TS)]
pub struct MadeCard {
    /// Key.
    pub key: String,
    /// What the artist reads.
    pub label: String,
    /// One sentence.
    pub help: String,
}

/// What is known of the piece.
#[derive(Debug, Clone, Serialize, TS)]
pub struct PieceView {
    /// Hash of the piece, also the address of its buffers.
    pub hash: String,
    /// File it came from.
    pub file: String,
    /// Parts.
    pub parts: Vec<Part>,
    /// Number of shells.
    pub shells: u32,
    /// Number of triangles.
    pub triangles: u32,
    /// Size of the bounding box in mm.
    pub size: [f32; 3],
    /// Least corner of the bounding box in mm.
    pub min: [f32; 3],
    /// Number of UV charts.
    pub charts: u32,
    /// The sheets.
    pub sheets: Vec<Sheet>,
    /// How well its UVs are laid out, at the draft size.
    pub layout: UvReport,
    /// By what its parts can be told.
    pub ways: Vec<PartsBy>,
    /// Whether what is marked of single parts counts.
    pub marks: bool,
    /// The settings of mending that make a difference to it, or are set.
    pub mendable: Vec<String>,
    /// Share of the texels that met no finer mesh within the cage; none without one.
    pub missed: Option<f32>,
    /// How far from the piece a finer mesh is looked for, in mm; none without one.
    pub cage: Option<f32>,
    /// What was found.
    pub findings: Vec<Finding>,
}

/// Whether a measurement is at hand.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum Freshness {
    /// Measured from this mesh, at this size, with these settings.
    Fresh,
    /// Measured before something changed.
    Stale,
    /// Never measured.
    Missing,
}

/// A measurement as the Surface room shows it.
#[derive(Debug, Clone, Serialize, TS)]
pub struct MeasurementState {
    /// Kind.
    pub kind: String,
    /// Its settings, with the defaults for this piece.
    pub params: Vec<ParamSpec>,
    /// Whether it follows the project's weather.
    pub weather: bool,
    /// Whether it is at hand.
    pub state: Freshness,
    /// What changed since it was measured, in words; empty unless stale.
    pub why: String,
    /// How long measuring took.
    pub seconds: Option<f64>,
    /// How long it would take, as far as that can be told.
    pub estimate: Option<f64>,
    /// Whether the document needs it, for a mask or for the packed map.
    pub needed: bool,
}

/// A project in full.
#[derive(Debug, Serialize, TS)]
pub struct ProjectView {
    /// Id.
    #[ts(type = "number")]
    pub id: i64,
    /// Revision in force; edits name it.
    #[ts(type = "number")]
    pub revision: i64,
    /// How often it was changed so far, undo, redo and snapshots included: what has a higher one is newer.
    #[ts(type = "number")]
    pub stamp: i64,
    /// The document.
    pub document: Document,
    /// What undo would take back.
    pub undo: Option<String>,
    /// What redo would bring again.
    pub redo: Option<String>,
    /// The piece.
    pub piece: PieceView,
    /// The measurements.
    pub measurements: Vec<MeasurementState>,
    /// Kinds of the readings that a picture stands in for.
    pub stand_ins: Vec<String>,
    /// What each dial drives, in words, by dial id.
    pub driven: BTreeMap<String, Vec<String>>,
    /// The dials that drive each layer and what it holds, by layer id; none where none does.
    pub dials_of: BTreeMap<String, Vec<String>>,
    /// The variants with what they take over, by name.
    pub variants: BTreeMap<String, WholeVariant>,
    /// Newer versions of the recipes that layers use, by layer id.
    pub newer: BTreeMap<String, Newer>,
    /// The kinds of settings that each dial can set, by dial id.
    pub sets: BTreeMap<String, &'static [ParamType]>,
    /// The dials that follow formulas, by dial id.
    pub derived: BTreeMap<String, Derived>,
    /// The driven settings and the values they stand at.
    pub standings: Vec<Standing>,
    /// The colours that each layer lays down, from the bottom up, by layer id.
    pub colors: BTreeMap<String, Vec<String>>,
    /// How layers vary what lies below them, by layer id, where six numbers say all of it.
    pub variations: BTreeMap<String, Variation>,
    /// Its snapshots, oldest first.
    pub snapshots: Vec<SnapshotView>,
    /// What the plan offers.
    pub plan: PlanView,
}

/// What the plan offers.
#[derive(Debug, Serialize, TS)]
pub struct PlanView {
    /// What another row would be, to begin with.
    pub fresh: Element,
    /// Where an element may lie, and what the artist reads.
    pub places: Vec<(Whereabouts, &'static str)>,
    /// How far from its planned share an element may be, 0…1.
    pub near: f64,
    /// What is planned in all, where that is more than there is of the piece.
    pub over: Option<f64>,
}

/// A newer version of a recipe in use.
#[derive(Debug, Serialize, TS)]
pub struct Newer {
    /// That version.
    pub recipe: Recipe,
    /// Labels of the dials that were set and have no place in it any more.
    pub lost: Vec<String>,
}

/// A kept state, to compare with or go back to.
#[derive(Debug, Serialize, TS)]
pub struct SnapshotView {
    /// Id.
    #[ts(type = "number")]
    pub id: i64,
    /// Its name.
    pub name: String,
}

/// Asks for the state in force to be kept.
#[derive(Debug, Deserialize, TS)]
pub struct KeepSnapshot {
    /// Its name.
    pub name: String,
}

/// Edits made on a revision; kept together as one revision.
#[derive(Debug, Deserialize, TS)]
pub struct EditRequest {
    /// The revision they were made on.
    #[ts(type = "number")]
    pub revision: i64,
    /// One after the other.
    pub edits: Vec<Edit>,
}

/// A state that undo or redo leads to.
#[derive(Debug, Serialize, TS)]
pub struct StateView {
    /// Its revision.
    #[ts(type = "number")]
    pub revision: i64,
    /// What led to it.
    pub label: String,
    /// When, in seconds since 1970.
    #[ts(type = "number")]
    pub made: i64,
    /// Where it lies from the one in force.
    pub when: When,
}

/// Where a state lies from the one in force.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum When {
    /// Undone; redo brings it again.
    Ahead,
    /// In force.
    Now,
    /// Undo leads back to it.
    Behind,
}

/// Asks to go to a state.
#[derive(Debug, Deserialize, TS)]
pub struct GoTo {
    /// The revision it was asked on.
    #[ts(type = "number")]
    pub revision: i64,
    /// The state's own.
    #[ts(type = "number")]
    pub to: i64,
}

/// Names a revision.
#[derive(Debug, Deserialize, TS)]
pub struct OnRevision {
    /// The revision it was asked on.
    #[ts(type = "number")]
    pub revision: i64,
}

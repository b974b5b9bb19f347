//! What the page sees and sends: plain data, from which the front end's types are generated.

use std::collections::BTreeMap;

use dustcoat_core::bake::layout::UvReport;
use dustcoat_core::document::{Document, Edit, Standing};
use dustcoat_core::evaluate::LayerCoverage;
use dustcoat_core::handoff::{Layout, PlannedFile};
use dustcoat_core::mask::Step;
use dustcoat_core::mesh::{Finding, Part, Sheet};
use dustcoat_core::recipe::Recipe;
use dustcoat_core::setting::ParamSpec;
use dustcoat_core::still::light::{Lamp, Light};
use dustcoat_core::still::shoot::Surround;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Steps that might be put into a mask line.
#[derive(Debug, Deserialize, TS)]
pub struct PreviewRequest {
    /// Edits that each add one step.
    pub candidates: Vec<Edit>,
}

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
    /// Whether its vertices have colours.
    pub colored: bool,
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
    /// The planes it consists of: key and label.
    pub planes: Vec<(String, String)>,
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
    /// The driven settings and the values they stand at.
    pub standings: Vec<Standing>,
    /// The colours that each layer lays down, from the bottom up, by layer id.
    pub colors: BTreeMap<String, Vec<String>>,
    /// Its snapshots, oldest first.
    pub snapshots: Vec<SnapshotView>,
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

/// Names a revision.
#[derive(Debug, Deserialize, TS)]
pub struct OnRevision {
    /// The revision it was asked on.
    #[ts(type = "number")]
    pub revision: i64,
}

/// Asks for pixels.
#[derive(Debug, Deserialize, TS)]
pub struct EvaluateRequest {
    /// Which page asks: a later request of the same page overtakes an earlier one.
    pub page: String,
    /// Edits that are tried but not kept: a drag that is not over.
    #[serde(default)]
    pub edits: Vec<Edit>,
    /// Whether coarse measurements will do while the real ones are taken.
    #[serde(default)]
    pub provisional: bool,
    /// Whether the part of each texel is wanted as a texture.
    #[serde(default)]
    pub parts: bool,
    /// Whether the shell of each texel is wanted as a texture.
    #[serde(default)]
    pub shells: bool,
    /// Whether the height is wanted, to move the surface by.
    #[serde(default)]
    pub moved: bool,
    /// The layer whose mask, tiles and histogram are wanted.
    #[serde(default)]
    #[ts(optional)]
    pub layer: Option<String>,
    /// The selected step: where its settings are values of the mask before it, the histogram is of that mask, and otherwise of the finished one.
    #[serde(default)]
    #[ts(optional)]
    pub step: Option<String>,
    /// Whether what that step does by itself is wanted as a texture, in the place of the layer's mask.
    #[serde(default)]
    pub alone: bool,
    /// Whether that layer's mask is wanted as a texture.
    #[serde(default)]
    pub mask: bool,
    /// Whether pictures of its steps are wanted.
    #[serde(default)]
    pub tiles: bool,
    /// A reading that is wanted as a texture; `edges:fine` names its radius.
    #[serde(default)]
    #[ts(optional)]
    pub reading: Option<String>,
    /// A variant that is wanted in place of what the dials stand at.
    #[serde(default)]
    #[ts(optional)]
    pub variant: Option<String>,
    /// A snapshot that is wanted in place of the project as it stands.
    #[serde(default)]
    #[ts(optional, type = "number")]
    pub snapshot: Option<i64>,
    /// A channel that is wanted as a texture by itself.
    #[serde(default)]
    #[ts(optional)]
    pub channel: Option<String>,
}

/// Asks what every layer did at a place of the piece.
#[derive(Debug, Deserialize, TS)]
pub struct ProbeRequest {
    /// Across the textures, 0…1.
    pub u: f32,
    /// Down them, 0…1; the sheets lie one below the other.
    pub v: f32,
}

/// A texture that channels beyond colour, roughness and metal are packed into.
#[derive(Debug, Clone, Serialize, TS)]
pub struct PackedView {
    /// Key of the map of a hand-off that holds the same.
    pub map: &'static str,
    /// Address of its RGBA8 pixels.
    pub pixels: String,
    /// Whether red, green and blue are sRGB.
    pub srgb: bool,
    /// What its values are multiplied by in the material: the strength of the light, the IOR, the thickness in mm, or 1.
    pub factor: f32,
}

/// Height to move the surface by.
#[derive(Debug, Clone, Serialize, TS)]
pub struct MovedView {
    /// Address of its R8 pixels.
    pub pixels: String,
    /// What 0 and 255 stand for, in mm.
    pub range: [f32; 2],
}

/// What a body does to light.
#[derive(Debug, Clone, Serialize, TS)]
pub struct TintView {
    /// Linear colour after the distance.
    pub color: [f32; 3],
    /// In mm.
    pub distance: f32,
}

/// A channel by itself.
#[derive(Debug, Clone, Serialize, TS)]
pub struct ChannelView {
    /// Address of its pixels.
    pub pixels: String,
    /// Whether they are RGBA8, sRGB; otherwise R8.
    pub colors: bool,
}

/// A picture of the mask after a step.
#[derive(Debug, Clone, Serialize, TS)]
pub struct Tile {
    /// The step.
    pub step: String,
    /// Address of its RGBA8 pixels.
    pub pixels: String,
}

/// Pixels, by address.
#[derive(Debug, Clone, Serialize, TS)]
pub struct EvaluationView {
    /// Side of a sheet in texels; the sheets lie one below the other in each texture.
    pub size: u32,
    /// Number of sheets.
    pub sheets: u32,
    /// sRGB base color, RGBA8.
    pub base_color: String,
    /// Occlusion, roughness, metallic, RGBA8.
    pub orm: String,
    /// Tangent-space normals, Y+, RGBA8.
    pub normal: String,
    /// Whether the base color's alpha is an opacity.
    pub see_through: bool,
    /// Kinds of the channels that the piece has.
    pub channels: Vec<&'static str>,
    /// The textures of further channels, of those that the piece has.
    pub more: Vec<PackedView>,
    /// Height, if it was asked for: to move the surface by.
    pub moved: Option<MovedView>,
    /// What the body does to light that goes through it, if a coat says so.
    pub tint: Option<TintView>,
    /// The channel that was asked for, if the piece has it.
    pub channel: Option<ChannelView>,
    /// The mask, R8, if it was asked for.
    pub mask: Option<String>,
    /// The reading, R8, if it was asked for.
    pub reading: Option<String>,
    /// The number of the part under each texel, R8, if it was asked for; 255 where there is none.
    pub parts: Option<String>,
    /// The number of the shell under each texel, counted round from 0 to 254, R8, if it was asked for; 255 where there is none.
    pub shells: Option<String>,
    /// Whether it was evaluated on coarse measurements.
    pub provisional: bool,
    /// Whether the real ones are being taken, so that asking again later is worth while.
    pub improving: bool,
    /// Tiles of the layer's mask line.
    pub tiles: Vec<Tile>,
    /// Width and height of the tiles in pixels.
    pub tile_size: [u32; 2],
    /// Area-weighted histogram of the layer's mask, shares.
    pub histogram: Vec<f32>,
    /// Per layer.
    pub coverage: Vec<LayerCoverage>,
    /// Names of the nodes that were computed.
    pub computed: Vec<String>,
    /// How long it took.
    pub seconds: f64,
}

/// Asks for measurements to be taken.
#[derive(Debug, Deserialize, TS)]
pub struct MeasureRequest {
    /// Kinds; empty means all.
    #[serde(default)]
    pub kinds: Vec<String>,
}

/// A recipe of the cabinet.
#[derive(Debug, Serialize, TS)]
pub struct CabinetCard {
    /// Id.
    #[ts(type = "number")]
    pub id: i64,
    /// The recipe.
    pub recipe: Recipe,
    /// Labels of the measurements it needs.
    pub needs: Vec<String>,
    /// The colours that each of its layers lays down, in their order.
    pub colors: Vec<Vec<String>>,
}

/// A mask line that was saved as a starter.
#[derive(Debug, Serialize, TS)]
pub struct KeptLine {
    /// Id.
    #[ts(type = "number")]
    pub id: i64,
    /// Its name.
    pub name: String,
    /// One sentence on what it is for.
    pub note: String,
    /// Its steps.
    pub steps: Vec<Step>,
}

/// Saves a layer's mask line as a starter.
#[derive(Debug, Deserialize, TS)]
pub struct SaveLine {
    /// The layer.
    pub layer: String,
    /// Its name in the cabinet.
    pub name: String,
    /// One sentence on what it is for.
    #[serde(default)]
    pub note: String,
}

/// Saves a layer as a recipe.
#[derive(Debug, Deserialize, TS)]
pub struct SaveRecipe {
    /// The layer, usually a group.
    pub layer: String,
    /// Its name in the cabinet.
    pub name: String,
    /// One sentence on what it is for.
    #[serde(default)]
    pub note: String,
}

/// Lays a recipe of the cabinet over everything.
#[derive(Debug, Deserialize, TS)]
pub struct LayRecipe {
    /// The revision it was asked on.
    #[ts(type = "number")]
    pub revision: i64,
    /// The recipe.
    #[ts(type = "number")]
    pub recipe: i64,
}

/// What a hand-off would write, and what stands against it.
#[derive(Debug, Serialize, TS)]
pub struct HandoffView {
    /// The layout.
    pub layout: Layout,
    /// The files.
    pub files: Vec<PlannedFile>,
    /// Keys of the maps whose channels no coat lays.
    pub unlaid: Vec<&'static str>,
    /// Problems to know of.
    pub problems: Vec<Finding>,
}

/// What a hand-off wrote.
#[derive(Debug, Serialize, TS)]
pub struct HandoffDone {
    /// Address of the ZIP.
    pub download: String,
    /// Name of the ZIP.
    pub name: String,
    /// The files in it.
    pub files: Vec<PlannedFile>,
    /// Bytes of the ZIP.
    #[ts(type = "number")]
    pub bytes: u64,
    /// How long it took.
    pub seconds: f64,
}

/// What the piece can stand under and before.
#[derive(Debug, Serialize, TS)]
pub struct LightsView {
    /// Set-ups of light.
    pub lights: &'static [Light],
    /// The light from behind, at full strength.
    pub rim: Lamp,
    /// What may surround the piece.
    pub surrounds: Vec<SurroundView>,
    /// Texels of a panorama across and down.
    pub panorama: [usize; 2],
}

/// A surround.
#[derive(Debug, Clone, Serialize, TS)]
pub struct SurroundView {
    /// Which.
    pub key: Surround,
    /// What the artist reads.
    pub label: &'static str,
    /// Its grey, sRGB; of the sky what stands for it where none is drawn.
    pub byte: u8,
}

/// What a piece stands on: a disc.
#[derive(Debug, Serialize, TS)]
pub struct GroundView {
    /// Its middle, in mm.
    pub middle: [f32; 3],
    /// Where it begins to fade, and where it is gone, in mm from the middle.
    pub fades: [f32; 2],
    /// Its grey, linear.
    pub grey: f32,
    /// Texels along each side of the picture of how open it is to the sky.
    pub size: u32,
    /// Address of that picture.
    pub pixels: String,
}

/// A still that was taken, or a turntable's.
#[derive(Debug, Serialize, TS)]
pub struct StillDone {
    /// Address of the PNG, or the ZIP of them.
    pub download: String,
    /// Its name.
    pub name: String,
    /// Its bytes.
    #[ts(type = "number")]
    pub bytes: u64,
    /// How long it took.
    pub seconds: f64,
}

/// Something that happened, sent over the WebSocket.
#[derive(Debug, Clone, Serialize, TS)]
#[serde(tag = "event", rename_all = "snake_case")]
pub enum Event {
    /// Work goes on.
    Progress {
        /// The project.
        #[ts(type = "number")]
        project: i64,
        /// What is done.
        label: String,
        /// 0…1.
        share: f32,
        /// Seconds left, as far as that can be told.
        left: Option<f64>,
    },
    /// Work is over.
    Idle {
        /// The project.
        #[ts(type = "number")]
        project: i64,
    },
    /// Somebody edited.
    Changed {
        /// The project.
        #[ts(type = "number")]
        project: i64,
        /// Its revision in force now.
        #[ts(type = "number")]
        revision: i64,
    },
}

/// An error as RFC 9457 writes it (`application/problem+json`).
#[derive(Debug, Serialize, TS)]
pub struct Problem {
    /// A short name of the kind of error.
    #[serde(rename = "type")]
    pub kind: String,
    /// One sentence: what is wrong and what to do.
    pub title: String,
    /// HTTP status.
    pub status: u16,
    /// After a stale edit: the revision in force.
    #[ts(type = "number | null")]
    pub revision: Option<i64>,
}

//! What is asked to be computed, and the pixels that came of it.

use dustcoat_core::document::Edit;
use dustcoat_core::evaluate::LayerCoverage;
use dustcoat_core::evaluate::probe::Probe;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Steps that might be put into a mask line.
#[derive(Debug, Deserialize, TS)]
pub struct PreviewRequest {
    /// Which page asks, and after a slash which of its questions it is: the answer takes the place of the last but one to that.
    pub page: String,
    /// Edits that each add one step.
    pub candidates: Vec<Edit>,
}

/// Pictures of something that may be put into a mask line, on the piece.
#[derive(Debug, Default, Serialize, TS)]
pub struct CandidateView {
    /// Address of what it makes by itself; none of what only changes what is there.
    pub alone: Option<String>,
    /// Address of what the line is after it; none where it needs what was not measured, or does nothing.
    pub line: Option<String>,
}

/// Asks for pixels.
#[derive(Debug, Deserialize, TS)]
pub struct EvaluateRequest {
    /// Which page asks: a later request of the same page overtakes an earlier one.
    pub page: String,
    /// Which of its requests this is, counted upwards, as they may arrive in another order.
    #[serde(default)]
    #[ts(type = "number")]
    pub turn: u64,
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
    /// A snapshot that is wanted in place of the project as it stands.
    #[serde(default)]
    #[ts(optional, type = "number")]
    pub snapshot: Option<i64>,
    /// A channel that is wanted as a texture by itself.
    #[serde(default)]
    #[ts(optional)]
    pub channel: Option<String>,
    /// While something moves: the greatest side that will do, in texels, of at most the draft's. Nothing is worked out then but the textures: no coverage, no histogram, no tiles.
    #[serde(default)]
    #[ts(optional)]
    pub size: Option<u32>,
    /// At rest: whether the textures of the coats are wanted with smooth edges, as a hand-off has them.
    #[serde(default)]
    pub smooth: bool,
}

/// Asks for pixels that come with the answer: its length as a little-endian u32, the answer as JSON ([`Drawn`]), and the pixels of what it sends, one after the other: whole, or what of them differs from some that the page has.
#[derive(Debug, Deserialize, TS)]
pub struct DrawRequest {
    /// What is wanted.
    pub wanted: EvaluateRequest,
    /// Addresses of pixels that the page has, those that it used last at the end.
    #[serde(default)]
    pub holds: Vec<String>,
}

/// An evaluation, and the pixels that come with it.
#[derive(Debug, Serialize, TS)]
pub struct Drawn {
    /// The evaluation.
    pub view: EvaluationView,
    /// What the page has not, in the order in which it comes.
    pub sent: Vec<Sent>,
}

/// Pixels that come with an answer.
#[derive(Debug, Serialize, TS)]
pub struct Sent {
    /// Their address.
    pub address: String,
    /// How many bytes come of them.
    pub bytes: u32,
    /// Where only what differs from others comes: those that the page says it holds.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub over: Option<Over>,
}

/// Pixels that others make with some runs of bytes in place of their own.
#[derive(Debug, Serialize, TS)]
pub struct Over {
    /// The address of those others.
    pub address: String,
    /// Where each run begins, and how long it is, in bytes: in order. They come one after the other.
    pub runs: Vec<[u32; 2]>,
}

/// Asks for squares of the textures at a larger size than the draft's, of the project as it is kept. They come as those of a draw do: [`Patches`], and behind it their pixels, patch by patch.
#[derive(Debug, Deserialize, TS)]
pub struct PatchRequest {
    /// Which page asks: its next evaluation, or its next request of this kind, overtakes this one.
    pub page: String,
    /// Side of the textures that they are of, in texels: a power of two up to 8192.
    pub size: u32,
    /// Which ones.
    pub places: Vec<PatchPlace>,
}

/// Where a patch lies.
#[derive(Debug, Clone, Copy, Deserialize, TS)]
pub struct PatchPlace {
    /// Its sheet.
    pub sheet: u32,
    /// Which one it is across its sheet.
    pub x: u32,
    /// Which one it is down its sheet.
    pub y: u32,
}

/// How patches come.
#[derive(Debug, Serialize, TS)]
pub struct Patches {
    /// The revision that they are of; none when something newer was wanted before them, and none of them come.
    #[ts(type = "number | null")]
    pub revision: Option<i64>,
    /// Texels along a side.
    pub side: u32,
    /// Texels around each that it shares with its neighbours, on every side.
    pub margin: u32,
    /// The maps of each, RGBA8, one after the other.
    pub maps: Vec<&'static str>,
}

impl Patches {
    /// Something newer was wanted before them.
    pub fn overtaken() -> Self {
        Self { revision: None, side: 0, margin: 0, maps: vec![] }
    }
}

/// Asks what every layer did at a place of the piece.
#[derive(Debug, Deserialize, TS)]
pub struct ProbeRequest {
    /// Across the textures, 0…1.
    pub u: f32,
    /// Down them, 0…1; the sheets lie one below the other.
    pub v: f32,
}

/// What every layer did there.
#[derive(Debug, Serialize, TS)]
pub struct ProbeView {
    /// What was found.
    #[serde(flatten)]
    pub probe: Probe,
    /// What hidden layers read that was only measured coarsely, by its label.
    pub coarse: Vec<&'static str>,
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

impl EvaluationView {
    /// All addresses of pixels that it tells of, each once.
    pub fn addresses(&self) -> Vec<&str> {
        let single = [&self.mask, &self.reading, &self.parts, &self.shells];
        let always = [&self.base_color, &self.orm, &self.normal];
        let all = always.into_iter().chain(single.into_iter().flatten()).chain(self.moved.iter().map(|m| &m.pixels));
        let all = all.chain(self.channel.iter().map(|c| &c.pixels)).chain(self.more.iter().map(|m| &m.pixels));
        let mut out: Vec<&str> = all.chain(self.tiles.iter().map(|t| &t.pixels)).map(String::as_str).collect();
        let mut seen = std::collections::BTreeSet::new();
        out.retain(|address| seen.insert(*address));
        out
    }
}

/// Asks for measurements to be taken.
#[derive(Debug, Deserialize, TS)]
pub struct MeasureRequest {
    /// Kinds; empty means all.
    #[serde(default)]
    pub kinds: Vec<String>,
    /// Whether the answer comes when all is measured; at once otherwise, and an event tells of the end.
    #[serde(default)]
    pub wait: bool,
}

/// Measuring has begun.
#[derive(Debug, Serialize, TS)]
pub struct MeasureStarted {
    /// Number of the job.
    #[ts(type = "number")]
    pub job: u64,
}

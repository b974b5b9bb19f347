//! What can lie in a channel of a file: one number a texel, out of a document as it is worked out.

use std::collections::BTreeMap;
use std::sync::OnceLock;

use glam::Vec3;
use serde::Serialize;
use ts_rs::TS;

use super::HandoffError;
use crate::bake::frame::frame;
use crate::bake::{MeasurementKey, READINGS, Reading, Surface, reading, weather};
use crate::document::{Document, layers};
use crate::evaluate::packing::{self, Packed};
use crate::evaluate::{Evaluation, Highest};
use crate::finish::channel::{self, CHANNELS, Channel};
use crate::mask::fit::{fitted, fresh};
use crate::mesh::Piece;
use crate::raster::Plane;
use crate::raster::srgb::decode;
use crate::setting::Settings;

/// Reflectance of a dielectric of IOR 1.5 head-on, which glTF takes as the usual one.
const DIELECTRIC: f32 = 0.04;

/// A number at each texel.
#[derive(Clone)]
pub enum Content {
    /// The same everywhere.
    Number(f32),
    /// A component of a channel.
    Channel(&'static Channel, usize),
    /// Occlusion as it was measured, times that of the coats.
    Occlusion,
    /// A component of the finished normals in tangent space, y up.
    Normal(usize),
    /// One of those normals in the piece's space.
    ObjectNormal(usize),
    /// Diffuse reflectance: base color of what is no metal.
    Diffuse(usize),
    /// Reflectance head-on: of metals the base color, of all else that of their IOR.
    Reflectance(usize),
    /// A byte of a texture that glTF's extensions read.
    Packed(&'static Packed, usize),
    /// The mask of a layer, by its id.
    Mask(String),
    /// A reading, with settings of its own.
    Reading(&'static Reading, Settings),
}

/// A content as it is offered.
#[derive(Debug, Clone, PartialEq, Serialize, TS)]
pub struct Offered {
    /// What a slot says.
    pub from: String,
    /// What the artist reads.
    pub label: String,
    /// What it stands with: `Channels`, `Normals`, `Masks`, `Readings` or `Numbers`.
    pub family: &'static str,
    /// Whether it is a colour's component, which sRGB files encode.
    pub color: bool,
    /// The numbers that are 0 and 1 in files where no range is said.
    pub range: [f32; 2],
}

const AXES: [&str; 3] = ["x", "y", "z"];
const PRIMARIES: [&str; 3] = ["r", "g", "b"];

/// The parts of a name with its component: `base_color.g` is `base_color` and 1.
fn component(from: &str) -> (&str, Option<usize>) {
    let Some((kind, part)) = from.rsplit_once('.') else { return (from, None) };
    let place = |names: [&str; 3]| names.iter().position(|n| *n == part);
    match (place(PRIMARIES).or_else(|| place(AXES)), part) {
        (Some(i), _) => (kind, Some(i)),
        (None, "a") => (kind, Some(3)),
        _ => (from, None),
    }
}

impl Content {
    /// What a slot says, in a document.
    ///
    /// # Errors
    /// [`HandoffError::UnknownContent`] where there is no such thing.
    pub fn parse(from: &str, document: &Document) -> Result<Content, HandoffError> {
        let unknown = || HandoffError::UnknownContent(from.into());
        if let Ok(number) = from.parse::<f32>() {
            return Some(Content::Number(number)).filter(|_| number.is_finite()).ok_or_else(unknown);
        }
        if let Some((family, name)) = from.split_once(':') {
            let all = layers(&document.layers);
            return match family {
                "mask" => all.iter().find(|l| l.name == name).map(|l| Content::Mask(l.id.clone())),
                "published" => {
                    all.iter().find(|l| l.publish.as_deref() == Some(name)).map(|l| Content::Mask(l.id.clone()))
                }
                "reading" => reading::named(name).map(|(r, s)| Content::Reading(r, s)),
                _ => None,
            }
            .ok_or_else(unknown);
        }
        let (kind, part) = component(from);
        match (kind, part) {
            ("occlusion", None) => Some(Content::Occlusion),
            ("normal", Some(i @ 0..3)) => Some(Content::Normal(i)),
            ("object_normal", Some(i @ 0..3)) => Some(Content::ObjectNormal(i)),
            ("diffuse", Some(i @ 0..3)) => Some(Content::Diffuse(i)),
            ("reflectance", Some(i @ 0..3)) => Some(Content::Reflectance(i)),
            _ => {
                let packed = || Some(Content::Packed(packing::find(kind.strip_prefix("gltf_")?)?, part?));
                let of_channel = |c: &'static Channel| match part {
                    Some(i) if i < c.bare.len() && c.bare.len() > 1 => Some(Content::Channel(c, i)),
                    None if c.bare.len() == 1 => Some(Content::Channel(c, 0)),
                    _ => None,
                };
                channel::find(kind).and_then(of_channel).or_else(packed)
            }
        }
        .ok_or_else(unknown)
    }

    /// All that a document and its piece have to offer; of numbers, those that are usual. `height` is the height in mm that is white.
    pub fn offered(document: &Document, highest: &Highest, height: f32) -> Vec<Offered> {
        let mut out = vec![];
        let mut add = |from: String, label: String, family, color| {
            let range = Content::parse(&from, document).map_or([0.0, 1.0], |c| c.range(height));
            out.push(Offered { from, label, family, color, range });
        };
        let parts = |c: &Channel| if c.is_direction() { AXES } else { PRIMARIES };
        for c in CHANNELS.iter().filter(|c| c.kind != "occlusion" && c.kind != "normal") {
            if !c.always && !highest.contains_key(c.kind) {
                continue;
            }
            match c.bare.len() {
                1 => add(c.kind.into(), c.label.into(), "Channels", false),
                n => (0..n).for_each(|i| {
                    let part = parts(c)[i];
                    let label = format!("{}, {part}", c.label);
                    add(format!("{}.{part}", c.kind), label, "Channels", !c.is_direction());
                }),
            }
        }
        add("occlusion".into(), "Occlusion".into(), "Channels", false);
        for (kind, label) in [("diffuse", "Diffuse"), ("reflectance", "Reflectance")] {
            PRIMARIES.iter().for_each(|p| add(format!("{kind}.{p}"), format!("{label}, {p}"), "Channels", true));
        }
        for (kind, label) in [("normal", "Normal"), ("object_normal", "Normal in the piece’s space")] {
            AXES.iter().for_each(|a| add(format!("{kind}.{a}"), format!("{label}, {a}"), "Normals", false));
        }
        let mut named = BTreeMap::new();
        for layer in layers(&document.layers) {
            if let Some(published) = &layer.publish {
                add(format!("published:{published}"), format!("Published: {published}"), "Masks", false);
            }
            if named.insert(layer.name.clone(), ()).is_none() {
                add(format!("mask:{}", layer.name), format!("Mask of {}", layer.name), "Masks", false);
            }
        }
        for reading in READINGS {
            add(format!("reading:{}", reading.kind), reading.label.into(), "Readings", false);
        }
        for (number, label) in [("0", "0, black"), ("0.5", "0.5, half-way"), ("1", "1, white")] {
            add(number.into(), label.into(), "Numbers", false);
        }
        out
    }

    /// What it is, in words; `from` is what the layout calls it.
    pub fn label(&self, from: &str) -> String {
        match self {
            Content::Number(v) => v.to_string(),
            Content::Channel(c, _) => c.label.to_lowercase(),
            Content::Occlusion => "occlusion".into(),
            Content::Normal(_) => "normal in tangent space".into(),
            Content::ObjectNormal(_) => "normal in the piece’s space".into(),
            Content::Diffuse(_) => "diffuse".into(),
            Content::Reflectance(_) => "reflectance".into(),
            Content::Packed(p, _) => format!("{} as glTF packs it", p.label.to_lowercase()),
            Content::Mask(_) => format!("mask “{}”", from.split_once(':').map_or(from, |f| f.1)),
            Content::Reading(r, _) => format!("reading “{}”", r.label.to_lowercase()),
        }
    }

    /// Whether it is a colour's component.
    pub fn is_color(&self) -> bool {
        match self {
            Content::Channel(c, _) => c.bare.len() == 3 && !c.is_direction(),
            Content::Diffuse(_) | Content::Reflectance(_) => true,
            Content::Packed(p, i) => p.srgb && *i < 3,
            _ => false,
        }
    }

    /// Whether a piece with those channels has it.
    pub fn is_laid(&self, highest: &Highest) -> bool {
        match self {
            Content::Channel(c, _) => c.always || highest.contains_key(c.kind),
            Content::Packed(p, _) => p.is_among(|kind| highest.contains_key(kind)),
            _ => true,
        }
    }

    /// The numbers that become 0 and 1; `height` is the height in mm that is white.
    pub fn range(&self, height: f32) -> [f32; 2] {
        match self {
            Content::Channel(c, _) if c.kind == "height" => [-height, height],
            Content::Channel(c, _) => [c.seen.0, c.seen.1],
            Content::Normal(_) | Content::ObjectNormal(_) => [-1.0, 1.0],
            _ => [0.0, 1.0],
        }
    }

    /// The unit of its numbers; empty where they have none.
    pub fn unit(&self) -> &'static str {
        match self {
            Content::Channel(c, _) => c.value().unit,
            _ => "",
        }
    }

    /// What stands where no chart lies.
    pub fn bare(&self) -> f32 {
        match self {
            Content::Number(v) => *v,
            Content::Channel(c, _) if c.kind == "roughness" => 1.0,
            Content::Channel(c, i) if c.is_direction() || c.bare.len() == 1 => c.bare[*i],
            Content::Normal(i) | Content::ObjectNormal(i) => [0.0, 0.0, 1.0][*i],
            Content::Occlusion => 1.0,
            Content::Packed(_, 3) => 1.0,
            _ => 0.0,
        }
    }

    /// The measurement that it wants.
    pub fn need(&self, document: &Document, piece: &Piece) -> Option<MeasurementKey> {
        let key = |r: &Reading| r.key(piece, &|kind| document.reading(kind));
        match self {
            Content::Occlusion => reading::find("occlusion").and_then(key),
            Content::Reading(r, _) => key(r),
            _ => None,
        }
    }
}

/// A document worked out on a surface, and what is known of that beside it.
pub(super) struct Laid<'a> {
    pub surface: &'a Surface,
    pub evaluation: &'a Evaluation,
    /// Occlusion of each covered texel, if it was measured.
    pub occlusion: Option<&'a [f32]>,
    /// Readings that are asked for, by how they are told apart.
    pub readings: &'a BTreeMap<String, Plane>,
    normals: OnceLock<Vec<[f32; 3]>>,
}

/// How readings are told apart.
pub(super) fn held_as(reading: &Reading, settings: &Settings) -> String {
    format!("{} {settings:?}", reading.kind)
}

/// A reading on a surface, by a document's weather; `measured` holds the planes of its measurement there.
pub(super) fn read(
    reading: &Reading,
    settings: &Settings,
    document: &Document,
    surface: &Surface,
    measured: Option<&Plane>,
) -> Plane {
    // Lengths that nobody said suit the piece, as they do where a reading is put into a mask line.
    let fresh = fitted(vec![fresh(reading.kind)], surface.piece.diagonal()).swap_remove(0).settings;
    let settings = fresh.into_iter().chain(settings.clone()).collect();
    reading.plane(surface, &reading.settings(&settings, &document.reading(weather::KIND)), measured)
}

type At<'a> = Box<dyn Fn(usize) -> f32 + Send + Sync + 'a>;

impl<'a> Laid<'a> {
    pub fn new(
        surface: &'a Surface,
        evaluation: &'a Evaluation,
        occlusion: Option<&'a [f32]>,
        readings: &'a BTreeMap<String, Plane>,
    ) -> Self {
        Self { surface, evaluation, occlusion, readings, normals: OnceLock::new() }
    }

    fn normals(&self) -> &[[f32; 3]] {
        self.normals.get_or_init(|| self.evaluation.normals(self.surface))
    }

    fn plane(&self, kind: &str, component: usize) -> Option<&[f32]> {
        let n = self.surface.atlas.len();
        Some(&self.evaluation.channels.get(kind)?[component * n..(component + 1) * n])
    }

    /// The numbers of a content, by covered texel.
    pub fn at<'s>(&'s self, content: &'s Content) -> At<'s> {
        let all = |plane: &'s [f32]| -> At<'s> { Box::new(move |i| plane[i]) };
        let metallic = || self.plane("metallic", 0).expect("every piece has it");
        match content {
            Content::Number(v) => Box::new(|_| *v),
            Content::Channel(c, component) => match self.plane(c.kind, *component) {
                Some(plane) => all(plane),
                None => Box::new(|_| c.bare[*component]),
            },
            Content::Occlusion => {
                let own = self.plane("occlusion", 0);
                Box::new(move |i| self.occlusion.map_or(1.0, |o| o[i]) * own.map_or(1.0, |o| o[i]))
            }
            Content::Normal(axis) => {
                let normals = self.normals();
                Box::new(|i| normals[i][*axis])
            }
            Content::ObjectNormal(axis) => {
                let (normals, atlas) = (self.normals(), &self.surface.atlas);
                Box::new(move |i| {
                    let smooth = Vec3::new(atlas.nx[i], atlas.ny[i], atlas.nz[i]);
                    let (tangent, across) = frame(self.surface, i);
                    let [x, y, z] = normals[i];
                    (tangent * x + across * y + smooth * z).normalize_or(smooth)[*axis]
                })
            }
            Content::Diffuse(c) => {
                let (color, metal) = (self.plane("base_color", *c).expect("every piece has it"), metallic());
                Box::new(move |i| color[i] * (1.0 - metal[i]))
            }
            Content::Reflectance(c) => {
                let (color, metal) = (self.plane("base_color", *c).expect("every piece has it"), metallic());
                let (ior, weight) = (self.plane("ior", 0), self.plane("specular", 0));
                let tint = self.plane("specular_color", *c);
                Box::new(move |i| {
                    let usual = ior.map_or(DIELECTRIC, |n| packing::head_on(n[i]));
                    let usual = usual * weight.map_or(1.0, |w| w[i]) * tint.map_or(1.0, |t| t[i]);
                    usual + (color[i] - usual) * metal[i]
                })
            }
            Content::Packed(packed, byte) => {
                let texel = packed.texels(self.surface.atlas.len(), self.evaluation);
                let encoded = content.is_color();
                Box::new(move |i| {
                    let v = f32::from(texel(i)[*byte]) / 255.0;
                    if encoded { decode(v) } else { v }
                })
            }
            Content::Mask(layer) => match self.evaluation.masks.get(layer) {
                Some(plane) => all(plane),
                None => Box::new(|_| 1.0),
            },
            Content::Reading(reading, settings) => match self.readings.get(&held_as(reading, settings)) {
                Some(plane) => all(plane),
                None => Box::new(|_| 0.0),
            },
        }
    }
}

//! Strokes: what was drawn on the piece by hand, as things in space, in millimetres.
//!
//! A stroke is a row of points on the surface ([`Track`]) and how the brush stood: width, hardness, flow, value. It is no pixels: it lies where it was drawn whatever the UVs do. A [`Track`]
//! is kept as an asset of its own, by its hash, so that a stroke that is drawn writes itself and nothing else; documents name it by that.

mod draw;
mod fill;
mod index;
mod path;
mod sketch;
mod tip;
mod track;

use std::borrow::Cow;
use std::sync::Arc;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

pub(crate) use draw::shell_near;
pub use draw::{Drawing, State, covering};
pub use fill::Covers;
pub(crate) use index::{Bounds, Tree};
pub use path::Led;
pub use sketch::Sketch;
pub use tip::Tip;
pub use track::{MOST_POINTS, Point, Points, Track, TrackError};

use crate::setting::{ParamSpec, Value};

/// The strokes of a step, in the order in which they were drawn. Documents are copied at every move of a drag, so copies share them.
pub type Strokes = Arc<Vec<Stroke>>;

/// What the pen's pressure changes.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Pressed {
    /// How much is laid down.
    #[default]
    Flow,
    /// How wide it is.
    Width,
    /// Both.
    Both,
    /// Nothing.
    Nothing,
}

/// What laying the pen down changes.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Tilted {
    /// Nothing.
    #[default]
    Nothing,
    /// How wide it is: twice as wide by a pen that lies flat.
    Width,
    /// How much is laid down: hardly anything by a pen that lies flat.
    Flow,
}

impl Tilted {
    /// Whether it is what one begins with.
    pub fn is_nothing(&self) -> bool {
        *self == Tilted::Nothing
    }
}

/// One stroke.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
pub struct Stroke {
    /// Stable within its step; empty asks for a fresh one.
    #[serde(default)]
    pub id: String,
    /// Where it runs: the hash of its points, or the points themselves when it is new.
    #[ts(type = "string | number[][]")]
    pub points: Points,
    /// From the middle to the border, in mm.
    pub radius: f64,
    /// 0: falls off from the middle; 1: even up to a sharp border.
    pub hardness: f64,
    /// 0…1: how much of the value is laid down.
    pub flow: f64,
    /// 0…1: what the mask is drawn to; when it takes away, that is 0.
    pub value: f64,
    /// Takes away rather than adds.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[ts(as = "Option<bool>", optional)]
    pub take: bool,
    /// Stays on the shell that it begins on.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[ts(as = "Option<bool>", optional)]
    pub one_shell: bool,
    /// What the pen's pressure changes.
    #[serde(default)]
    #[ts(as = "Option<Pressed>", optional)]
    pub pressed: Pressed,
    /// What laying the pen down changes.
    #[serde(default, skip_serializing_if = "Tilted::is_nothing")]
    #[ts(as = "Option<Tilted>", optional)]
    pub tilted: Tilted,
    /// What the brush ends in.
    #[serde(default, skip_serializing_if = "Tip::is_round")]
    #[ts(as = "Option<Tip>", optional)]
    pub tip: Tip,
    /// What it covers: its way, or all of what it begins on.
    #[serde(default, skip_serializing_if = "Covers::is_way")]
    #[ts(as = "Option<Covers>", optional)]
    pub covers: Covers,
    /// Where that goes up to edges: from how many degrees on they are sharp.
    #[serde(default = "crease", skip_serializing_if = "is_crease")]
    #[ts(as = "Option<f64>", optional)]
    pub crease: f64,
    /// How it gets from point to point.
    #[serde(default, skip_serializing_if = "Led::is_hand")]
    #[ts(as = "Option<Led>", optional)]
    pub led: Led,
    /// Led through its points, it comes back to the first.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[ts(as = "Option<bool>", optional)]
    pub closed: bool,
    /// Hidden, it does nothing.
    #[serde(default = "yes", skip_serializing_if = "Clone::clone")]
    #[ts(as = "Option<bool>", optional)]
    pub shown: bool,
}

/// How hard the brush is by itself.
const HARDNESS: f64 = 0.6;

/// From how many degrees on an edge is sharp by itself.
const CREASE: f64 = 30.0;

fn crease() -> f64 {
    CREASE
}

fn is_crease(degrees: &f64) -> bool {
    *degrees == CREASE
}

fn yes() -> bool {
    true
}

/// The settings that are seldom turned while one draws stand together under this.
const PEN: &str = "Pen";

/// What a stroke is drawn with: the settings that it keeps, by the names of its fields.
pub fn specs() -> Vec<ParamSpec> {
    let covers = [("way", "its way"), ("shell", "the shell"), ("part", "the part"), ("edges", "up to edges")];
    let led = [("hand", "as drawn"), ("corners", "cornered"), ("curve", "curved")];
    let tips = [("round", "round"), ("bristle", "bristle"), ("sponge", "sponge"), ("splash", "splash")];
    let pressed = [("flow", "flow"), ("width", "width"), ("both", "flow and width"), ("nothing", "nothing")];
    let tilted = [("nothing", "nothing"), ("width", "width"), ("flow", "flow")];
    let way = |spec: ParamSpec| spec.only_with("covers", &["way"]);
    let pen = |spec: ParamSpec| way(spec).in_group(PEN);
    vec![
        ParamSpec::choice("covers", "Covers", &covers, "Where the brush goes, or all of what it begins on."),
        ParamSpec::number(
            "crease",
            "Edges from",
            "°",
            (1.0, 120.0),
            CREASE,
            "How far two faces are turned that it stops between.",
        )
        .only_with("covers", &["edges"]),
        way(ParamSpec::choice(
            "led",
            "Line",
            &led,
            "As the hand goes, or through points that are set and may be moved later.",
        )),
        ParamSpec::switch("closed", "Closed", false, "From the last point it comes back to the first.")
            .only_with("led", &["corners", "curve"]),
        way(ParamSpec::choice(
            "tip",
            "Tip",
            &tips,
            "What the brush ends in: all of it touches, hairs, a sponge, or drops.",
        )),
        way(ParamSpec::length("radius", "Radius", (0.05, 1_000.0), 5.0, "From the middle of the brush to its border.")),
        way(ParamSpec::share(
            "hardness",
            "Hardness",
            HARDNESS,
            "0 falls off from the middle, 1 is even up to a sharp border.",
        )),
        ParamSpec::share("flow", "Flow", 1.0, "How much a stroke lays down in one go."),
        ParamSpec::share("value", "Value", 1.0, "What the mask is drawn to where nothing is taken away."),
        ParamSpec::switch("take", "Take away", false, "Takes away what the mask is there, rather than add to it."),
        pen(ParamSpec::switch("one_shell", "One shell", false, "Stays on the bit of mesh that it begins on.")),
        pen(ParamSpec::choice("pressed", "Pressure", &pressed, "What the pen’s pressure changes.")),
        pen(ParamSpec::choice("tilted", "Tilt", &tilted, "What laying the pen down changes: wider, or fainter.")),
    ]
}

/// How the hand is led while it draws: nothing that a stroke keeps.
pub fn hand_specs() -> Vec<ParamSpec> {
    let planes = [("none", "no"), ("x", "left and right"), ("y", "up and down"), ("z", "front and back")];
    vec![
        ParamSpec::share(
            "steady",
            "Steady",
            0.0,
            "How far the brush lags behind the pen, which evens out a shaking hand.",
        ),
        ParamSpec::choice("mirror", "Mirrored", &planes, "Draws a second stroke across the middle of the piece."),
    ]
}

impl Stroke {
    /// A new one as the brush stands by itself but for its radius, in mm.
    pub fn new(points: Points, radius: f64) -> Stroke {
        Stroke {
            id: String::new(),
            points,
            radius,
            hardness: HARDNESS,
            flow: 1.0,
            value: 1.0,
            take: false,
            one_shell: false,
            pressed: Pressed::default(),
            tilted: Tilted::default(),
            tip: Tip::default(),
            covers: Covers::default(),
            crease: CREASE,
            led: Led::default(),
            closed: false,
            shown: true,
        }
    }

    /// The numbers of [`specs`], by their keys.
    pub fn numbers(&self) -> [(&'static str, f64); 5] {
        [
            ("radius", self.radius),
            ("hardness", self.hardness),
            ("flow", self.flow),
            ("value", self.value),
            ("crease", self.crease),
        ]
    }

    /// All points that it goes over: those that the hand left, or those of the way through the ones that were set. None when they are not at hand.
    pub fn way(&self) -> Option<Cow<'_, [Point]>> {
        Some(path::way(&self.points.track()?.points, self.led, self.closed))
    }

    /// How far off its points the surface may lie that it is drawn on, in mm.
    pub fn reach(&self) -> f32 {
        if self.covers.is_way() { self.radius as f32 * draw::OFF } else { fill::REACH }
    }

    /// Whether it is shown and its points are at hand.
    pub fn is_drawn(&self) -> bool {
        self.shown && self.points.track().is_some()
    }

    /// Why it can't be drawn, if it can't: the setting and what is wanted of it.
    pub fn wrong(&self) -> Option<crate::setting::SettingError> {
        let specs = specs();
        let number = |(key, n): (&str, f64)| specs.iter().find(|s| s.key == key)?.check(&Value::Number(n)).err();
        self.numbers().into_iter().find_map(number)
    }

    /// Tells a hash everything that what it draws depends on.
    pub fn hash_into(&self, h: &mut blake3::Hasher) {
        h.update(self.points.hash().as_bytes());
        for (_, n) in self.numbers() {
            h.update(&n.to_bits().to_le_bytes());
        }
        h.update(&[u8::from(self.take), u8::from(self.one_shell), self.pressed as u8, self.tip as u8]);
        h.update(&[self.covers as u8, self.led as u8, u8::from(self.closed), self.tilted as u8]);
    }
}

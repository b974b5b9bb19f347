//! Pins: pictures laid at spots of the piece.
//!
//! A pin is held by a [`Spot`] (a point, a normal and an up, in millimetres) and laid from there onto whatever surface is near: thrown straight down, or wrapped around what is curved. Like strokes it
//! is a thing in space, so it lies where it was laid whatever the UVs do. A pin that goes along strokes is laid again and again on the way: stitches, rivets, tape, what is strewn.

mod along;
mod field;
mod frame;

use std::sync::{Arc, OnceLock};

use glam::Vec3;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

pub use field::{Directions, Laying, Pinned};
pub use frame::{Frame, Shape};

use crate::mesh::Piece;
use crate::raster::pyramid::MaskPicture;
use crate::setting::{ParamSpec, Resolved, SettingError};
use crate::stroke::{Bounds, Strokes, Tree, shell_near};

/// What holds a pin.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
pub struct Spot {
    /// The middle of the picture, in mm.
    pub at: [f64; 3],
    /// Away from the surface.
    pub normal: [f64; 3],
    /// Up the picture before it is turned; what of it points along the normal counts for nothing.
    pub up: [f64; 3],
}

impl Spot {
    /// Why it can't hold anything, if it can't.
    pub fn wrong(&self) -> Option<SettingError> {
        let wanted = |what: &str| Some(SettingError { setting: "Spot".into(), wanted: what.into() });
        let all = [self.at, self.normal, self.up];
        if all.iter().flatten().any(|v| !v.is_finite() || v.abs() > 1e6) {
            return wanted("numbers within a kilometre");
        }
        let [_, normal, up] = all.map(|v| Vec3::from(v.map(|c| c as f32)));
        if normal.try_normalize().is_none() || up.try_normalize().is_none() {
            return wanted("a normal and an up that point somewhere");
        }
        None
    }

    /// Tells a hash where it is.
    fn hash_into(&self, h: &mut blake3::Hasher) {
        for v in [self.at, self.normal, self.up].iter().flatten() {
            h.update(&v.to_bits().to_le_bytes());
        }
    }
}

/// How far above and below a pin the surface takes it by itself, in mm.
const DEPTH: f64 = 4.0;

/// What a step holds beside its settings: what was drawn, and where it was laid.
#[derive(Clone, Copy)]
pub struct ByHand<'a> {
    /// The strokes, in their order.
    pub strokes: &'a Strokes,
    /// The spot of a pin.
    pub spot: Option<&'a Spot>,
}

/// The settings of a pin.
pub fn specs() -> Vec<ParamSpec> {
    let rows: &[&str] = &["along"];
    vec![
        ParamSpec::picture("picture", "Picture", "Which of the pictures that were brought in for masks."),
        ParamSpec::choice(
            "channel",
            "Taken from",
            &[("alpha", "alpha"), ("grey", "grey"), ("red", "red"), ("green", "green"), ("blue", "blue")],
            "Which number of it is the mask. Beside the picture and where it is clear, nothing is laid.",
        ),
        ParamSpec::switch("negative", "Negative", false, "Turned round: full where the picture is dark or clear."),
        ParamSpec::length(
            "size",
            "Width",
            (0.1, 10_000.0),
            60.0,
            "Width of the picture on the piece; its height follows.",
        ),
        ParamSpec::number("turn", "Turn", "°", (-180.0, 180.0), 0.0, "Turned about its spot, against the clock."),
        ParamSpec::switch("mirrored", "Mirrored", false, "Left and right change places."),
        ParamSpec::choice(
            "lies",
            "Lies",
            &[("wrapped", "wrapped around"), ("thrown", "thrown straight down")],
            "Wrapped, it keeps its lengths around what is curved; thrown, it is as seen from right above its spot.",
        ),
        ParamSpec::length(
            "depth",
            "Depth",
            (0.05, 1_000.0),
            DEPTH,
            "How far above and below it the surface still takes it.",
        ),
        ParamSpec::switch("one_shell", "One shell", false, "Stays on the bit of mesh that its spot is on."),
        ParamSpec::choice(
            "laid",
            "Laid",
            &[("spot", "at its spot"), ("along", "along what is drawn")],
            "Once, or again and again along the strokes that are drawn for it.",
        ),
        ParamSpec::length("spacing", "Spacing", (0.5, 5_000.0), 60.0, "From one to the next along a stroke.")
            .only_with("laid", rows),
        ParamSpec::number("scatter", "Scatter", "mm", (0.0, 1_000.0), 0.0, "How far they stray from the stroke.")
            .only_with("laid", rows),
        ParamSpec::number(
            "stray",
            "Turned by chance",
            "°",
            (0.0, 180.0),
            0.0,
            "How far each is turned from the way of the stroke.",
        )
        .only_with("laid", rows),
        ParamSpec::number(
            "unlike",
            "Sizes by chance",
            "",
            (0.0, 0.9),
            0.0,
            "How much smaller than its width one may be.",
        )
        .only_with("laid", rows),
        ParamSpec::integer("seed", "Seed", (0.0, 9999.0), 1.0, "Another number, another arrangement.")
            .only_with("laid", rows),
    ]
}

/// A pin with its settings worked out: where its picture is laid, once or often.
#[derive(Debug)]
pub struct Pin {
    /// Its own picture, if the piece has it: the hash, and the numbers.
    pub picture: Option<(String, Arc<MaskPicture>)>,
    /// What is the same wherever it is laid.
    pub shape: Shape,
    /// Where it is laid; later ones lie over earlier ones.
    pub frames: Vec<Frame>,
    tree: OnceLock<Tree>,
    shells: OnceLock<Vec<u32>>,
}

impl Pin {
    /// Of resolved settings by [`specs`] and what the step holds; `h` is told all that it depends on but for the settings.
    pub fn new(
        s: &Resolved,
        by_hand: ByHand,
        picture: Option<(String, Arc<MaskPicture>)>,
        h: &mut blake3::Hasher,
    ) -> Pin {
        h.update(b"pin/1|").update(picture.as_ref().map_or("", |p| &p.0).as_bytes());
        let aspect = picture.as_ref().map_or(1.0, |p| p.1.aspect());
        let frames = if s.text("laid") == "along" {
            let drawn = by_hand.strokes.iter().filter(|stroke| stroke.shown);
            drawn
                .filter_map(|stroke| {
                    let way = stroke.way()?;
                    h.update(stroke.points.hash().as_bytes()).update(&[stroke.led as u8, u8::from(stroke.closed)]);
                    Some(along::frames(&way, s))
                })
                .flatten()
                .take(along::MOST)
                .collect()
        } else {
            by_hand.spot.iter().for_each(|spot| spot.hash_into(h));
            by_hand.spot.map(|spot| Frame::at(spot).turned(s.number("turn"))).into_iter().collect()
        };
        Pin { picture, shape: Shape::new(s, aspect), frames, tree: OnceLock::new(), shells: OnceLock::new() }
    }

    /// Which frames come near.
    fn tree(&self) -> &Tree {
        let reach = self.shape.reach(0.0);
        let bounds = |f: &Frame| Bounds::EMPTY.with(f.at).grown(reach * f.size.max(1.0));
        self.tree.get_or_init(|| Tree::build(self.frames.iter().map(bounds).collect()))
    }

    /// The shell of a piece that each of the frames stays on, if they do.
    fn shells(&self, piece: &Piece) -> Option<&[u32]> {
        let near = || self.frames.iter().map(|f| shell_near(piece, f.at)).collect();
        self.shape.one_shell.then(|| self.shells.get_or_init(near).as_slice())
    }
}

//! Mask lines: the row of steps, read from left to right, that makes a layer's mask.
//!
//! m starts at 1 (a line without steps shows everything). A source with field f, join ⊕ and amount a: m ← mix(m, m ⊕ f, a). A shaper g
//! with amount a: m ← mix(m, g(m), a). [`Step`] and [`MaskLine`] are what a document holds; [`line::Line`] is the line with every setting worked out, ready
//! to run over batches of texels.

pub mod bring;
pub mod field;
pub mod fit;
pub mod graded;
pub mod join;
pub mod line;
pub mod shaper;
pub mod source;
pub mod starter;

use std::collections::BTreeMap;
use std::sync::LazyLock;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

pub use join::Join;

use crate::bake::{READINGS, Reading, reading};
use crate::pattern::{self, PATTERNS, Pattern};
use crate::pin::{ByHand, Spot};
use crate::setting::{Param, ParamSpec, Settings, palette_spec, palette_stops};
use crate::stroke::{Stroke, Strokes};

/// One tile of a mask line.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
pub struct Step {
    /// Stable within the document; empty asks for a fresh one.
    #[serde(default)]
    pub id: String,
    /// Switched off, the step does nothing.
    #[serde(default = "yes")]
    pub on: bool,
    /// How a source meets the mask so far; shapers ignore it.
    #[serde(default)]
    pub join: Join,
    /// 0…1: how much of the step's effect is taken.
    #[serde(default = "full")]
    pub amount: Param,
    /// Which pattern, reading, source or shaper: a kind of the catalog.
    pub kind: String,
    /// Its settings; missing ones stand at their default.
    #[serde(default)]
    pub settings: Settings,
    /// What was drawn, where the kind is `strokes`.
    #[serde(default, skip_serializing_if = "none_drawn")]
    #[ts(as = "Option<Vec<Stroke>>", optional)]
    pub strokes: Strokes,
    /// What is to be minded of it, in the artist's words.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[ts(as = "Option<String>", optional)]
    pub note: String,
    /// Where it was laid, where the kind is `pin`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub spot: Option<Spot>,
}

fn none_drawn(strokes: &Strokes) -> bool {
    strokes.is_empty()
}

impl Step {
    /// What it holds beside its settings.
    pub fn by_hand(&self) -> ByHand<'_> {
        ByHand { strokes: &self.strokes, spot: self.spot.as_ref() }
    }

    /// Whether anything was drawn or laid on the piece by hand in it.
    pub fn is_drawn(&self) -> bool {
        !self.strokes.is_empty() || self.spot.is_some()
    }

    /// Leaves out what was drawn and laid on the piece by hand.
    pub fn leave_bare(&mut self) {
        (self.strokes, self.spot) = Default::default();
    }

    /// Calls `change` with its amount, its settings and those of the masks that drive them. A step of an unknown kind has none.
    pub fn each_param(&mut self, change: &mut dyn FnMut(&ParamSpec, &mut Param)) {
        let Some(kind) = StepKind::find(&self.kind) else { return };
        change_deep(&amount_spec(), &mut self.amount, change);
        for spec in kind.specs() {
            if let Some(p) = self.settings.get_mut(spec.key) {
                change_deep(spec, p, change);
            }
        }
    }

    /// What it brings in or works on, and the masks that drive its numbers: kinds and settings.
    pub fn sources(&self) -> impl Iterator<Item = (&str, &Settings)> {
        let driven = sources([&self.amount].into_iter().chain(self.settings.values()));
        [(self.kind.as_str(), &self.settings)].into_iter().chain(driven)
    }
}

/// The masks that drive some params: kinds and settings.
pub(crate) fn sources<'a>(params: impl Iterator<Item = &'a Param>) -> impl Iterator<Item = (&'a str, &'a Settings)> {
    params.filter_map(Param::source).map(|source| (source.kind.as_str(), &source.settings))
}

/// Calls `change` with a param and with those of the mask that drives it.
pub(crate) fn change_deep(spec: &ParamSpec, param: &mut Param, change: &mut dyn FnMut(&ParamSpec, &mut Param)) {
    change(spec, param);
    if let Param::Ramp(drive) = param {
        for stop in drive.stops.iter_mut().filter(|s| s.by.is_some()) {
            let Some(by) = stop.by.take() else { continue };
            let mut driven = Param::Drive(by);
            change(spec, &mut driven);
            match driven {
                Param::Drive(by) => stop.by = Some(by),
                Param::Const(value) => stop.value = value,
                _ => {}
            }
        }
        if let Some(by) = drive.palette.take() {
            let mut driven = Param::Drive(by);
            change(&palette_spec(&drive.stops), &mut driven);
            match driven {
                Param::Drive(by) => drive.palette = Some(by),
                Param::Const(value) => {
                    drive.stops = palette_stops(&value).unwrap_or_else(|| std::mem::take(&mut drive.stops))
                }
                _ => {}
            }
        }
    }
    let Some(source) = param.source_mut() else { return };
    for inner in StepKind::find(&source.kind).map_or(&[][..], StepKind::specs) {
        if let Some(p) = source.settings.get_mut(inner.key) {
            change(inner, p);
        }
    }
}

fn yes() -> bool {
    true
}

fn full() -> Param {
    1.0.into()
}

/// The row of steps that makes a layer's mask.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, JsonSchema, TS)]
pub struct MaskLine {
    /// Read from left to right.
    #[serde(default)]
    pub steps: Vec<Step>,
}

/// What a step's kind names.
#[derive(Clone, Copy)]
pub enum StepKind {
    /// A source of its own file.
    Source(&'static source::Source),
    /// A reading of the piece.
    Reading(&'static Reading),
    /// A pattern in space.
    Pattern(&'static Pattern),
    /// Changes what is there.
    Shaper(&'static shaper::Shaper),
}

impl StepKind {
    /// Looks a kind up in the lists of its families.
    pub fn find(kind: &str) -> Option<StepKind> {
        source::find(kind)
            .map(StepKind::Source)
            .or_else(|| reading::find(kind).map(StepKind::Reading))
            .or_else(|| pattern::find(kind).map(StepKind::Pattern))
            .or_else(|| shaper::find(kind).map(StepKind::Shaper))
    }

    /// Whether only the values of a finish know it.
    pub fn is_of_finish(self) -> bool {
        use source::Origin::{Colors, Own, Pinned, PinnedColors};
        matches!(self, StepKind::Source(s) if matches!(s.origin, Own | Colors(_) | Pinned(_) | PinnedColors(_)))
    }

    /// Whether it brings in colours rather than numbers.
    pub fn is_of_colors(self) -> bool {
        matches!(self, StepKind::Source(s) if matches!(s.origin, source::Origin::Colors(_) | source::Origin::PinnedColors(_)))
    }

    /// Whether it is drawn or laid by hand, and so no mask of a setting.
    pub fn is_by_hand(self) -> bool {
        matches!(self, StepKind::Source(s) if matches!(s.origin, source::Origin::Strokes | source::Origin::Pin))
    }

    /// What the artist reads.
    pub fn label(self) -> &'static str {
        match self {
            StepKind::Source(s) => s.label,
            StepKind::Reading(r) => r.label,
            StepKind::Pattern(p) => p.label,
            StepKind::Shaper(s) => s.label,
        }
    }

    /// What documents call it.
    pub(crate) fn kind(self) -> &'static str {
        match self {
            StepKind::Source(s) => s.kind,
            StepKind::Reading(r) => r.kind,
            StepKind::Pattern(p) => p.kind,
            StepKind::Shaper(s) => s.kind,
        }
    }

    /// The settings a step of this kind has. Those of measurements belong to the project.
    pub fn specs(self) -> &'static [ParamSpec] {
        SPECS.get(self.kind()).map_or(&[], Vec::as_slice)
    }
}

/// The settings of each kind, written out once: every step of a plan asks for its own, at every move of a drag.
static SPECS: LazyLock<BTreeMap<&'static str, Vec<ParamSpec>>> = LazyLock::new(|| {
    let sources = [source::SOURCES, source::OF_FINISH, source::OF_COLORS].concat();
    let all = sources.iter().map(|s| (s.kind, (s.specs)()));
    let all = all.chain(READINGS.iter().map(|r| (r.kind, (r.specs)())));
    let all = all.chain(PATTERNS.iter().map(|p| (p.kind, p.all_specs())));
    let all = all.chain(shaper::SHAPERS.iter().map(|s| (s.kind, (s.specs)())));
    // What is laid by hand lies as it was laid: nothing of it differs from place to place.
    let varies = |kind: &str| !StepKind::find(kind).is_some_and(StepKind::is_by_hand);
    let varying = |kind: &str, specs: Vec<ParamSpec>| {
        if varies(kind) { specs.into_iter().map(ParamSpec::varying).collect() } else { specs }
    };
    all.map(|(kind, specs)| (kind, varying(kind, specs))).collect()
});

/// The description of every step's amount.
pub fn amount_spec() -> ParamSpec {
    ParamSpec::share("amount", "Amount", 1.0, "How much of the step's effect is taken.").varying()
}

//! The catalog: every reading, pattern, source, shaper, join and channel, described. The interface is drawn from it.

use serde::Serialize;
use ts_rs::TS;

use crate::bake::{Extent, MEASUREMENTS, READINGS, weather};
use crate::document::{Dial, Layer, LayerKind, opacity_spec, steps_spec, tolerance_spec};
use crate::finish::adjust;
use crate::finish::channel::CHANNELS;
use crate::finish::preset::{ADJUSTMENTS, PALETTES, Preset};
use crate::finish::vary;
use crate::handoff::ready::READY as LAYOUTS;
use crate::mask::fit::{fitted, fresh};
use crate::mask::join::JOINS;
use crate::mask::shaper::SHAPERS;
use crate::mask::source::{OF_COLORS, OF_FINISH, SOURCES};
use crate::mask::starter::STARTERS;
use crate::mask::{Step, StepKind, amount_spec};
use crate::mesh::intake::PartsBy;
use crate::mesh::mend::{self, Sharing};
use crate::pattern::PATTERNS;
use crate::ready::{READY, fitted_layer};
use crate::setting::ParamSpec;
use crate::setting::formula::FUNCTIONS;
use crate::stroke;

/// One thing that can be used.
#[derive(Debug, Clone, PartialEq, Serialize, TS)]
pub struct Entry {
    /// Its key.
    pub kind: &'static str,
    /// `measurement`, `reading`, `pattern`, `source`, `own` (a source for the values of a finish alone), `colors` (one for its colours), `shaper`, `join`, `channel`, `starter` (of a mask line), `finish` (a ready one), `change` (a channel as a layer changes it), `adjustment` (a ready one), `palette` (a coat that varies), `plain` (a coat or a group to begin with), `layout` (of a hand-off), `way` (of telling parts), `sharing` (of texels), or `step`, `layer`, `piece` and `ladder` (what each of them has).
    pub family: &'static str,
    /// What the artist reads.
    pub label: &'static str,
    /// One sentence of help.
    pub help: &'static str,
    /// Its settings.
    pub params: Vec<ParamSpec>,
    /// Of a reading: the measurement that it is read from; empty when it costs no rays.
    pub measured: &'static str,
    /// Of a join: the sign that stands between two tiles.
    pub sign: &'static str,
    /// Of a join: the word that stands for it in the sentence.
    pub word: &'static str,
    /// What taking it puts into a mask line; empty for what is not put into one.
    pub steps: Vec<Step>,
    /// Of what lays something: the layer that it lays, or the group.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub layer: Option<Layer>,
    /// Of a ready finish: the dials that come with it.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    #[ts(as = "Option<Vec<Dial>>", optional)]
    pub dials: Vec<Dial>,
    /// Of a join: whether it brings its source in as it is where the mask is full, so that as the first of a line it needs no sign.
    pub opens: bool,
    /// Of a channel: whether every piece has it.
    pub always: bool,
}

fn entry(
    family: &'static str,
    kind: &'static str,
    label: &'static str,
    help: &'static str,
    params: Vec<ParamSpec>,
) -> Entry {
    Entry {
        kind,
        family,
        label,
        help,
        params,
        measured: "",
        sign: "",
        word: "",
        steps: vec![],
        layer: None,
        dials: vec![],
        opens: false,
        always: false,
    }
}

/// Everything there is, in the order it is shown.
pub fn catalog() -> Vec<Entry> {
    let mut out = vec![entry("weather", weather::KIND, weather::LABEL, weather::HELP, weather::specs())];
    out.extend(
        MEASUREMENTS.iter().map(|m| entry("measurement", m.kind, m.label, m.help, (m.specs)(Extent::default()))),
    );
    out.extend(READINGS.iter().map(|r| Entry {
        measured: r.measurement().map_or("", |m| m.kind),
        ..entry("reading", r.kind, r.label, r.help, StepKind::Reading(r).specs().to_vec())
    }));
    out.extend(
        PATTERNS.iter().map(|p| entry("pattern", p.kind, p.label, p.help, StepKind::Pattern(p).specs().to_vec())),
    );
    out.extend(SOURCES.iter().map(|s| entry("source", s.kind, s.label, s.help, StepKind::Source(s).specs().to_vec())));
    out.extend(OF_FINISH.iter().map(|s| entry("own", s.kind, s.label, s.help, (s.specs)())));
    out.extend(OF_COLORS.iter().map(|s| entry("colors", s.kind, s.label, s.help, (s.specs)())));
    out.extend(SHAPERS.iter().map(|s| entry("shaper", s.kind, s.label, s.help, StepKind::Shaper(s).specs().to_vec())));
    out.extend(
        STARTERS.iter().map(|s| Entry { steps: s.steps(), ..entry("starter", s.kind, s.label, s.help, vec![]) }),
    );
    out.extend(READY.iter().map(|r| Entry {
        layer: Some(r.layer()),
        dials: r.dials(),
        ..entry("finish", r.kind, &r.recipe.name, &r.recipe.note, vec![])
    }));
    out.extend(
        CHANNELS.iter().map(|c| Entry { always: c.always, ..entry("channel", c.kind, c.label, c.help, (c.specs)()) }),
    );
    out.extend(
        CHANNELS
            .iter()
            .filter(|c| !adjust::changes(c).is_empty())
            .map(|c| Entry { always: c.always, ..entry("change", c.kind, c.label, c.help, adjust::specs(c)) }),
    );
    let lays = |family, kind, label, help, layer: Layer| Entry {
        layer: Some(layer),
        ..entry(family, kind, label, help, vec![])
    };
    let adjusting = |a: &Preset| Layer::everywhere(a.label, LayerKind::Adjust { finish: a.finish() });
    let covering = |p: &Preset| Layer::everywhere(p.label, LayerKind::Coat { finish: p.finish() });
    out.push(lays("plain", "coat", "Coat", "One colour, half rough, without relief.", Layer::plain_coat()));
    out.push(lays(
        "plain",
        "group",
        "Group",
        "Holds layers: its mask and opacity go over all of them.",
        Layer::empty_group(),
    ));
    out.extend(ADJUSTMENTS.iter().map(|a| lays("adjustment", a.kind, a.label, a.help, adjusting(a))));
    out.extend(PALETTES.iter().map(|p| lays("palette", p.kind, p.label, p.help, covering(p))));
    out.extend(JOINS.iter().map(|(join, kind, label, sign, word, help)| Entry {
        sign,
        word,
        opens: join.leaves_source_on_full(),
        ..entry("join", kind, label, help, vec![])
    }));
    out.extend(FUNCTIONS.iter().map(|f| Entry { word: f.takes, ..entry("function", f.name, f.name, f.help, vec![]) }));
    out.extend(LAYOUTS.iter().map(|l| entry("layout", l.key, l.label, l.help, vec![])));
    for e in out.iter_mut().filter(|e| ["reading", "pattern", "source", "shaper"].contains(&e.family)) {
        e.steps = vec![fresh(e.kind)];
    }
    out.push(entry("brush", "stroke", "Brush", "What a stroke is drawn with.", stroke::specs()));
    out.push(entry("brush", "hand", "Hand", "How the hand is led while it draws.", stroke::hand_specs()));
    out.push(entry(
        "variation",
        "variation",
        "Vary",
        "How what lies below differs from place to place.",
        vary::specs(),
    ));
    out.push(entry("step", "step", "Step", "What every step of a mask line has.", vec![amount_spec()]));
    out.push(entry("piece", "piece", "Piece", "What tells the parts of the piece apart.", vec![tolerance_spec()]));
    out.extend(PartsBy::WAYS.map(|(_, kind, label, help)| entry("way", kind, label, help, vec![])));
    out.extend(Sharing::WAYS.map(|(_, kind, label, help)| entry("sharing", kind, label, help, vec![])));
    out.push(entry("mending", "mending", "Mending", "What is changed of a mesh as it is taken in.", mend::specs()));
    out.push(entry("ladder", "ladder", "Ladder", "One or two dials stepped over a range.", vec![steps_spec()]));
    out.push(entry("layer", "layer", "Layer", "What every layer has.", vec![opacity_spec()]));
    out
}

/// The same, for use on a piece with a diagonal of `diagonal` mm: what is put into a line begins with lengths that suit it.
pub fn catalog_for(diagonal: f32) -> Vec<Entry> {
    let fit =
        |e: Entry| Entry { steps: fitted(e.steps, diagonal), layer: e.layer.map(|l| fitted_layer(l, diagonal)), ..e };
    catalog().into_iter().map(fit).collect()
}

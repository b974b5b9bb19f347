//! The check list before writing: what would look wrong in someone else's renderer, each with the room where it is mended.

use serde::Serialize;
use ts_rs::TS;

use super::content::Content;
use super::height_that_fits;
use super::plan::Plan;
use crate::bake::{READINGS, Surface};
use crate::document::{Document, FileKind, LayerKind};
use crate::evaluate::Evaluation;
use crate::mesh::{Finding, Piece};

/// Share of the surface from which it is said that no coat covers it, or that a range cuts something off.
const SHARE: f32 = 0.002;
/// Share of the squares below which most of each file is empty.
const FILLED: f32 = 0.35;

/// Something to know of before writing.
#[derive(Debug, Clone, PartialEq, Serialize, TS)]
pub struct Check {
    /// Whether what is written would be wrong.
    pub serious: bool,
    /// What it is.
    pub what: String,
    /// What to do.
    pub remedy: String,
    /// The room where that is done: `surface`, `build`, `dials` or `handoff`.
    pub room: &'static str,
}

impl Check {
    /// What was found of the piece or its masks, with the room where it is mended.
    pub fn of(finding: Finding, room: &'static str) -> Check {
        Check { serious: finding.serious, what: finding.what, remedy: finding.remedy, room }
    }
}

fn note(serious: bool, room: &'static str, what: String, remedy: &str) -> Check {
    Check { serious, what, remedy: remedy.into(), room }
}

/// What can be told of a plan; of the numbers only where the draft is worked out, as far as it is measured.
pub fn checks(plan: &Plan, document: &Document, piece: &Piece, draft: Option<(&Surface, &Evaluation)>) -> Vec<Check> {
    let mut out = vec![];
    if document.layers.is_empty() {
        out.push(note(
            false,
            "build",
            "No coat is laid yet.".into(),
            "The files will show the bare piece. Lay a coat in Build first.",
        ));
    }
    let stood: Vec<&str> = READINGS.iter().filter(|r| r.is_stood_in(piece)).map(|r| r.label).collect();
    if !stood.is_empty() {
        out.push(note(
            false,
            "surface",
            format!("Pictures stand in for readings: {}.", stood.join(", ").to_lowercase()),
            "Take them away in Surface if the piece itself is to be measured.",
        ));
    }
    if plan.size < document.draft_size && plan.files.iter().any(|f| f.kind.is_picture()) {
        let (size, draft) = (plan.size, document.draft_size);
        out.push(note(
            false,
            "handoff",
            format!("Files of {size} texels are coarser than the {draft} that you look at."),
            "Take a larger size if they are to hold what is seen.",
        ));
    }
    if plan.files.iter().any(|f| f.kind == FileKind::Usd || f.kind == FileKind::MaterialX)
        && plan.pictures().any(|(p, _)| p.slots.len() > 4)
    {
        out.push(note(
            false,
            "handoff",
            "A file of many layers is not named by the material.".into(),
            "What the material wants is written in files of its own beside it.",
        ));
    }
    if let Some((surface, e)) = draft {
        of_draft(plan, document, surface, e, &mut out);
    }
    out
}

fn of_draft(plan: &Plan, document: &Document, surface: &Surface, e: &Evaluation, out: &mut Vec<Check>) {
    // What holds others has the sum of what lies in it; what only changes others covers nothing.
    let covers = document.layers.iter().filter(|l| !matches!(l.kind, LayerKind::Adjust { .. }));
    let visible = |id: &str| e.coverage.iter().find(|c| c.layer == id).map_or(0.0, |c| c.visible as f32);
    let bare = 1.0 - covers.map(|l| visible(&l.id)).sum::<f32>();
    if !document.layers.is_empty() && bare > SHARE {
        out.push(note(
            false,
            "build",
            format!("{} % of the surface is covered by no coat and shows the bare piece.", percent(bare)),
            "Lay a coat below all others if nothing is to be bare.",
        ));
    }
    let atlas = &surface.atlas;
    let squares = (atlas.sheets * atlas.size * atlas.size) as f32;
    let filled = atlas.texel.len() as f32 / squares;
    if filled < FILLED {
        out.push(note(
            false,
            "surface",
            format!("The UVs fill {} % of the squares: most of each file is empty.", percent(filled)),
            "Have them laid out anew (Mending), or take a larger size for the same sharpness.",
        ));
    }
    let mut told = std::collections::BTreeSet::new();
    for slot in plan.pictures().flat_map(|(p, _)| &p.slots) {
        let (Content::Channel(c, part), Some([low, high])) = (&slot.content, slot.range) else { continue };
        let Some(plane) = e.channels.get(c.kind) else { continue };
        let n = atlas.len();
        let values = &plane[part * n..(part + 1) * n];
        let (low, high) = (low.min(high), low.max(high));
        let slack = 1e-4 * (high - low);
        let beyond =
            values.iter().filter(|v| !(low - slack..=high + slack).contains(*v)).count() as f32 / n.max(1) as f32;
        if beyond <= SHARE * f32::from(u8::from(c.kind != "height")) || !told.insert(c.kind) {
            continue;
        }
        let [least, most] = values.iter().fold([f32::MAX, f32::MIN], |[l, h], v| [l.min(*v), h.max(*v)]);
        let unit = c.value().unit;
        let (what, remedy) = if c.kind == "height" {
            (
                format!(
                    "The relief reaches from {least:.2} to {most:.2} mm, and files hold no more than {low} to {high} mm: beyond, it is cut off."
                ),
                format!("Take {} mm as the height that is white.", height_that_fits([least, most])),
            )
        } else {
            (
                format!(
                    "{} of {} % of the texels lies beyond {low} to {high} {unit}, and is cut off.",
                    c.label,
                    percent(beyond)
                ),
                format!("It reaches from {least:.2} to {most:.2}: give that channel such a range, or write it as EXR."),
            )
        };
        out.push(Check { serious: true, what, remedy, room: "handoff" });
    }
}

fn percent(share: f32) -> String {
    let v = 100.0 * share;
    if v < 9.95 { format!("{v:.1}") } else { format!("{v:.0}") }
}

/// The height in mm that has to be white for no relief to be cut off, where the one that is said is too low.
pub fn fits(plan: &Plan, height: f32, e: &Evaluation) -> Option<f32> {
    let reach = e.channels.get("height")?.iter().fold([0.0f32; 2], |[low, high], h| [low.min(*h), high.max(*h)]);
    let beyond = reach[0].abs().max(reach[1]) > height;
    (plan.cuts_height() && beyond).then(|| height_that_fits(reach))
}

//! What was drawn or laid by hand and does nothing any more: it finds no surface, as after another mesh was taken in, or its points are gone. It is kept, and told.

use std::collections::BTreeMap;

use glam::Vec3;

use super::dial::dial_states;
use super::label::counted;
use super::tree::each_scope;
use super::{Document, Layer, LayerKind, Recipe, is_drawn, layers};
use crate::bake::bvh::Bvh;
use crate::mask::{Step, StepKind};
use crate::mesh::{Finding, Shape};
use crate::pin::Spot;
use crate::setting::{DialStates, Param, resolve};
use crate::stroke::Stroke;

/// As many points of a stroke are looked at; one that finds the surface is enough.
const LOOKED_AT: usize = 24;

/// Whether anything was drawn or laid by hand, so that there is something to look for.
pub fn has_by_hand(document: &Document) -> bool {
    is_drawn(&document.layers)
}

/// What recipes keep that was drawn by hand on pieces of another shape than this one, each layer's as a finding.
pub fn drawn_elsewhere(document: &Document, shape: &Shape) -> Vec<Finding> {
    let kept = |layer: &&Layer| match &layer.kind {
        LayerKind::Use { recipe, .. } => recipe.is_drawn_on_another(shape),
        _ => document.opened.as_ref().is_some_and(|o| o.layer == layer.id && o.recipe.is_drawn_on_another(shape)),
    };
    let told = |layer: &Layer| Finding {
        serious: false,
        what: format!("What “{}” keeps of strokes and pins belongs to a piece of another shape.", layer.name),
        remedy: "It shows nothing here. Draw on a coat of this piece, or loosen the recipe to lay it all the same."
            .into(),
    };
    layers(&document.layers).into_iter().filter(kept).map(told).collect()
}

/// Strokes and pins that find no surface of a piece within reach, and strokes whose points are gone, each step's as a finding; those that recipes in use
/// keep for a piece of its shape as well.
pub fn adrift(document: &Document, shape: &Shape, piece: &Bvh) -> Vec<Finding> {
    let dials = dial_states(&document.dials, &BTreeMap::new());
    let mut out = vec![];
    each_scope(&document.layers, &dials, None, &mut |all, dials, recipe| {
        if recipe.is_none_or(|r| !r.is_drawn_on_another(shape)) {
            out.extend(adrift_in(all, dials, recipe, piece));
        }
    });
    out
}

fn adrift_in(all: &[Layer], dials: &DialStates, recipe: Option<&Recipe>, piece: &Bvh) -> Vec<Finding> {
    let within = recipe.map(|r| format!(" in the recipe {}", r.name)).unwrap_or_default();
    let mut out = vec![];
    for layer in layers(all) {
        for step in &layer.mask.steps {
            let place = place(layer, step) + &within;
            let gone = step.strokes.iter().filter(|s| s.points.track().is_none()).count();
            if gone > 0 {
                out.push(Finding {
                    serious: true,
                    what: format!("The points of {} of {place} are gone from the data.", counted(gone)),
                    remedy: "They draw nothing. Take them from a copy of the project’s file, or remove them.".into(),
                });
            }
            let depth = depth(step, dials);
            let adrift = step.strokes.iter().filter(|s| finds(s, depth, piece) == Some(false)).count();
            if adrift > 0 {
                out.push(kept(format!("No surface is within reach of {} of {place}.", counted(adrift))));
            }
            if step.spot.as_ref().is_some_and(|spot| !holds(spot, depth.unwrap_or(0.0), piece)) {
                out.push(kept(format!("The pin of {place} finds no surface within its depth.")));
            }
        }
    }
    out
}

fn place(layer: &Layer, step: &Step) -> String {
    let label = StepKind::find(&step.kind).map_or_else(|| step.kind.clone(), |kind| kind.label().to_owned());
    format!("{} › {label}", layer.name)
}

fn kept(what: String) -> Finding {
    let remedy = "What finds none is kept and shows nothing. Draw or lay it anew where it belongs now, or remove it.";
    Finding { serious: false, what, remedy: remedy.into() }
}

/// Whether a stroke lies on the surface anywhere, within its own reach or that of the pin that is laid along it; nothing to say of one whose points are gone.
fn finds(stroke: &Stroke, depth: Option<f32>, piece: &Bvh) -> Option<bool> {
    let points = &stroke.points.track()?.points;
    let reach = depth.unwrap_or(stroke.reach());
    let step = points.len().div_ceil(LOOKED_AT);
    Some(points.iter().step_by(step).any(|p| meets(p.at, p.normal, reach, piece)))
}

/// How far above and below it a pin takes the surface, in mm, if the step is one; as far as it may come to where a mask drives that.
fn depth(step: &Step, dials: &DialStates) -> Option<f32> {
    let kind = StepKind::find(&step.kind)?;
    let spec = kind.specs().iter().find(|s| s.key == "depth")?;
    Some(match step.settings.get(spec.key) {
        Some(Param::Mask(drive)) => drive.low.max(drive.high) as f32,
        _ => resolve(kind.specs(), &step.settings, dials).number(spec.key),
    })
}

/// Whether a pin at a spot finds the surface within its depth.
fn holds(spot: &Spot, depth: f32, piece: &Bvh) -> bool {
    let [at, normal] = [spot.at, spot.normal].map(|v| Vec3::from(v.map(|c| c as f32)));
    meets(at, normal.normalize_or(Vec3::Y), depth, piece)
}

/// Whether there is a surface within reach of a place, along its normal.
fn meets(at: Vec3, normal: Vec3, reach: f32, piece: &Bvh) -> bool {
    piece.first_hit(at + normal * reach, -normal).is_some_and(|(far, ..)| far <= 2.0 * reach)
}

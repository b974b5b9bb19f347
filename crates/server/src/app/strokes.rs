//! What was drawn, looked up by a place of the piece, and in small.

use dustcoat_core::document::{self, Document, EditError};
use dustcoat_core::mask::Step;
use dustcoat_core::stroke::{Point, Sketch, Stroke, covering};

use super::{App, AppError};
use crate::views::{StrokeView, StrokesAsked, StrokesAt};

fn step_of<'a>(document: &'a Document, layer: &str, step: &str) -> Result<&'a Step, EditError> {
    let unknown = |what, id: &str| EditError::Unknown { what, id: id.into() };
    let layer = document::find_layer(&document.layers, layer).ok_or_else(|| unknown("layer", layer))?;
    layer.mask.steps.iter().find(|s| s.id == step).ok_or_else(|| unknown("mask step", step))
}

/// None when its points are gone.
fn seen(stroke: &Stroke) -> Option<StrokeView> {
    let Sketch { line, bounds } = Sketch::of(stroke)?;
    let set = stroke.points.track().filter(|_| !stroke.led.is_hand()).map(|t| &t.points[..]).unwrap_or_default();
    let row = |p: &Point| {
        let ([x, y, z], [nx, ny, nz]) = (p.at.to_array(), p.normal.to_array());
        [x, y, z, nx, ny, nz, p.pressure, p.time as f32, p.tilt]
    };
    Some(StrokeView { id: stroke.id.clone(), line, bounds, points: set.iter().map(row).collect() })
}

impl App {
    /// The ids of a step's strokes that lie at a place, the topmost first.
    ///
    /// # Errors
    /// [`AppError`] when there is no such project, layer or step.
    pub fn strokes_at(&self, project: i64, asked: &StrokesAt) -> Result<Vec<String>, AppError> {
        let document = self.db.project(project)?.document;
        let step = step_of(&document, &asked.layer, &asked.step)?;
        let piece = &self.surface_of(&document, document.draft_size)?.piece;
        let there = covering(&step.strokes, piece, asked.at.into(), asked.normal.into());
        Ok(there.into_iter().map(Into::into).collect())
    }

    /// Some of a step's strokes in small; those whose points are gone are left out.
    ///
    /// # Errors
    /// [`AppError`] when there is no such project, layer or step.
    pub fn strokes_seen(&self, project: i64, asked: &StrokesAsked) -> Result<Vec<StrokeView>, AppError> {
        let document = self.db.project(project)?.document;
        let step = step_of(&document, &asked.layer, &asked.step)?;
        Ok(step.strokes.iter().filter(|s| asked.strokes.contains(&s.id)).filter_map(seen).collect())
    }
}

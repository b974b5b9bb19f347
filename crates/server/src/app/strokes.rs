//! What was drawn, looked up by a place of the piece.

use dustcoat_core::document::{self, EditError};
use dustcoat_core::stroke::covering;

use super::{App, AppError};
use crate::views::StrokesAt;

impl App {
    /// The ids of a step's strokes that lie at a place, the topmost first.
    ///
    /// # Errors
    /// [`AppError`] when there is no such project, layer or step.
    pub fn strokes_at(&self, project: i64, asked: &StrokesAt) -> Result<Vec<String>, AppError> {
        let document = self.db.project(project)?.document;
        let unknown = |what, id: &str| EditError::Unknown { what, id: id.into() };
        let layer = document::find_layer(&document.layers, &asked.layer);
        let layer = layer.ok_or_else(|| unknown("layer", &asked.layer))?;
        let step = layer.mask.steps.iter().find(|s| s.id == asked.step);
        let step = step.ok_or_else(|| unknown("mask step", &asked.step))?;
        let there = covering(&step.strokes, asked.at.into(), asked.normal.into());
        Ok(there.into_iter().map(Into::into).collect())
    }
}

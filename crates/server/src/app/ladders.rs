//! Ladders: the steps of one or two dials, and the sheet of their pictures.

use std::sync::Arc;

use dustcoat_core::document::{self, Document, Edit, EditError, Rung};
use dustcoat_core::handoff::sheet::{Cell, sheet};

use super::{App, AppError};
use crate::views::{LadderRequest, LadderView, LookRequest, SheetRequest};

/// The steps of a ladder on a document.
///
/// # Errors
/// [`AppError`] when a dial can't be stepped so, or is stepped both ways.
pub fn ladder(document: &Document, request: &LadderRequest) -> Result<LadderView, AppError> {
    let across = document::rungs(document, &request.across)?;
    if request.down.as_ref().is_some_and(|down| down.dial == request.across.dial) {
        let label = document.dials.iter().find(|d| d.id == request.across.dial).map(|d| d.label.clone());
        let why = "a ladder steps one dial across and another one down; choose another one for down, or none";
        return Err(EditError::Dial { label: label.unwrap_or_default(), why }.into());
    }
    let down = request.down.as_ref().map(|down| document::rungs(document, down)).transpose()?;
    Ok(LadderView { across, down: down.unwrap_or_default() })
}

/// What leads to each step of a ladder, row by row, and what it is called.
pub fn steps(request: &LadderRequest, ladder: &LadderView) -> Vec<(Vec<Edit>, Vec<String>)> {
    let turn = |dial: &str, rung: &Rung| Edit::TurnDial { layer: None, dial: dial.into(), value: rung.value.clone() };
    let across = |rung: &Rung| (turn(&request.across.dial, rung), rung.label.clone());
    let Some(down) = &request.down else {
        return ladder.across.iter().map(across).map(|(edit, label)| (vec![edit], vec![label])).collect();
    };
    let row = |below: &Rung| {
        let (edit, label) = (turn(&down.dial, below), below.label.clone());
        let cell = move |rung| {
            let (first, words) = across(rung);
            (vec![first, edit.clone()], vec![words, label.clone()])
        };
        ladder.across.iter().map(cell).collect::<Vec<_>>()
    };
    ladder.down.iter().flat_map(row).collect()
}

impl App {
    /// The steps of a ladder in a project.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn ladder(&self, project: i64, request: &LadderRequest) -> Result<LadderView, AppError> {
        ladder(&self.db.project(project)?.document, request)
    }

    /// A ladder as one PNG; pictures that were looked at are at hand.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn ladder_sheet(self: &Arc<Self>, project: i64, request: &SheetRequest) -> Result<Vec<u8>, AppError> {
        let found = self.ladder(project, &request.ladder)?;
        let mut cells = vec![];
        let mut size = (0, 0);
        for (edits, words) in steps(&request.ladder, &found) {
            let look = self.look_pixels(project, &LookRequest { at: None, edits, still: request.still.clone() })?;
            size = look.size;
            cells.push(Cell { picture: look.pixels.to_vec(), words });
        }
        Ok(sheet(&cells, size, found.across.len() as u32))
    }
}

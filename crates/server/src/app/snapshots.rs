//! Snapshots: states kept by name, to wipe against and to go back to.

use dustcoat_core::document::{Document, limits};

use super::{App, AppError};
use crate::db::ProjectRow;
use crate::views::ProjectView;

impl App {
    /// Keeps the project as it stands.
    ///
    /// # Errors
    /// [`AppError::NoName`] without a name.
    pub fn keep_snapshot(&self, project: i64, name: &str) -> Result<ProjectView, AppError> {
        let name: String = name.trim().chars().take(limits::NAME).collect();
        if name.is_empty() {
            return Err(AppError::NoName);
        }
        self.db.keep_snapshot(project, &name)?;
        self.changed_view(project)
    }

    fn changed_view(&self, project: i64) -> Result<ProjectView, AppError> {
        let row = self.db.project(project)?;
        self.changed(&row);
        self.view_of(row)
    }

    /// Takes a snapshot off the list, or puts it back.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn set_snapshot_removed(&self, project: i64, id: i64, removed: bool) -> Result<ProjectView, AppError> {
        self.db.set_snapshot_removed(project, id, removed)?;
        self.changed_view(project)
    }

    /// Goes back to a snapshot: a revision like any other, which undo takes back.
    ///
    /// # Errors
    /// [`AppError`] when the revision is stale; nothing is changed then.
    pub fn go_back(&self, project: i64, id: i64, on: i64) -> Result<ProjectView, AppError> {
        let (name, document) = self.db.snapshot(project, id)?;
        let row = self.db.revise(project, on, &format!("go back to {name}"), &document)?;
        self.changed(&row);
        self.view_of(row)
    }

    /// A snapshot's document at the project's present draft size, on the same piece.
    ///
    /// # Errors
    /// [`AppError::OtherMesh`] when the mesh or what stands in for its readings was changed since.
    pub(super) fn snapshot_on(&self, row: &ProjectRow, id: i64) -> Result<Document, AppError> {
        let (name, mut document) = self.db.snapshot(row.id, id)?;
        document.draft_size = row.document.draft_size;
        let (then, now) = (self.piece(&document.intake)?, self.piece(&row.document.intake)?);
        if then.hash == now.hash { Ok(document) } else { Err(AppError::OtherMesh(name)) }
    }
}

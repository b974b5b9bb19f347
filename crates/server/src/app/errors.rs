//! Everything that can go wrong, gathered; each says what is wrong and what to do.

use dustcoat_core::document::EditError;
use dustcoat_core::document::pictured::SetError;
use dustcoat_core::evaluate::EvaluateError;
use dustcoat_core::handoff::HandoffError;
use dustcoat_core::mesh::MeshError;
use dustcoat_core::recipe::package::PackageError;
use dustcoat_core::still::shoot::StillError;
use dustcoat_core::task::Cancelled;

use super::patches::{GREATEST, SIDE};
use crate::db::DbError;

/// What went wrong.
#[derive(Debug, thiserror::Error)]
pub enum AppError {
    /// In the database.
    #[error(transparent)]
    Db(#[from] DbError),
    /// With an edit.
    #[error(transparent)]
    Edit(#[from] EditError),
    /// With a mesh.
    #[error(transparent)]
    Mesh(#[from] MeshError),
    /// With a package.
    #[error(transparent)]
    Package(#[from] PackageError),
    /// With a picture.
    #[error(transparent)]
    Picture(#[from] dustcoat_core::raster::picture::PictureError),
    /// While evaluating.
    #[error(transparent)]
    Evaluate(#[from] EvaluateError),
    /// With a hand-off.
    #[error(transparent)]
    Handoff(#[from] HandoffError),
    /// With a still.
    #[error(transparent)]
    Still(#[from] StillError),
    /// On disk.
    #[error("The file can't be written: {0}. Nothing else was changed; make room in the data folder and try again.")]
    Written(#[from] std::io::Error),
    /// Stopped.
    #[error(transparent)]
    Cancelled(#[from] Cancelled),
    /// A patch that is not there.
    #[error(
        "The textures have no such patch: its size is a power of two from {SIDE} to {GREATEST}, and its place lies within them."
    )]
    NoPatch,
    /// A size that pictures aren't shown in.
    #[error("Pictures are shown with 256, 1024 or 4096 texels along the longer side, not with {0}.")]
    NoSide(u32),
    /// A spot where a picture is clear.
    #[error("The picture is clear there, so that spot has no colour. Click where something is to be seen.")]
    ClearSpot,
    /// A grey that gives back nothing, or more than all.
    #[error("A grey gives back from 0.01 to 1 of the light, not {0}.")]
    NoGrey(f32),
    /// A file that nobody brought in.
    #[error("“{0}” was not brought in, or is gone. Bring it in again.")]
    NotBrought(String),
    /// A kind that is not there.
    #[error("There is no reading “{0}”.")]
    NoReading(String),
    /// Nothing to save.
    #[error("This mask line has no steps, so there is nothing to save. Put some into it first.")]
    EmptyLine,
    /// A ready finish that is not there.
    #[error("There is no ready finish “{0}”.")]
    NoFinish(String),
    /// Pictures that make no finish.
    #[error(transparent)]
    Pictured(#[from] SetError),
    /// A picture that serves the piece already.
    #[error(
        "“{0}” serves this piece in another way already, in the Surface room. Take it away there, or give the finish another file."
    )]
    ServesOtherwise(String),
    /// A demo piece that is not there.
    #[error("There is no demo piece “{0}”.")]
    NoDemo(String),
    /// A made-up picture that there is not.
    #[error("There is no made-up picture “{0}”. Pick one from the list.")]
    NoMadePicture(String),
    /// A favourite without a name, or with one that is no name.
    #[error("What is liked is named by 1 to {0} bytes. Reload the page; it names things itself.")]
    NoThing(usize),
    /// A snapshot without a name.
    #[error("Give the snapshot a name.")]
    NoName,
    /// A snapshot of another mesh.
    #[error(
        "{0} was kept on another mesh, so the two can't be laid side by side. Going back to it is possible all the same."
    )]
    OtherMesh(String),
    /// A place that no chart covers.
    #[error("Nothing of the piece lies there. Click on the piece itself.")]
    NothingThere,
    /// A file that was fetched, or a day old.
    #[error(
        "This file is not kept any more: what was written stands until it was fetched, or for a day. Write it again."
    )]
    WrittenGone,
    /// Pixels that are not held any more.
    #[error("These pixels are not held any more. Reload the page.")]
    PixelsGone,
}

impl AppError {
    /// Whether somebody asked to stop, which is no failure.
    pub fn is_cancelled(&self) -> bool {
        matches!(
            self,
            AppError::Cancelled(_)
                | AppError::Evaluate(EvaluateError::Cancelled(_))
                | AppError::Still(StillError::Cancelled(_))
        )
    }
}

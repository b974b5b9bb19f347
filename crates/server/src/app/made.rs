//! Made-up pictures for pins, brought in from the demo's world.

use dustcoat_demo::pins::{self, MadePicture};

use super::{App, AppError};
use crate::views::ProjectView;

/// Pixels of a small one along its longer side.
const SMALL: u32 = 200;

fn find(key: &str) -> Result<&'static MadePicture, AppError> {
    pins::find(key).ok_or_else(|| AppError::NoMadePicture(key.into()))
}

impl App {
    /// A made-up picture in small, as a PNG.
    ///
    /// # Errors
    /// [`AppError::NoMadePicture`]
    pub fn made_picture(&self, key: &str) -> Result<Vec<u8>, AppError> {
        let made = find(key)?;
        let held = self.pixels_of(&format!("made/{key}"), || made.small(SMALL));
        Ok(held.bytes.to_vec())
    }

    /// Brings a made-up picture in for a project's masks.
    ///
    /// # Errors
    /// [`AppError`] when there is none of that key or the revision is stale; the project is as it was then.
    pub fn take_made(&self, project: i64, on: i64, key: &str) -> Result<ProjectView, AppError> {
        let made = find(key)?;
        self.bring_picture(project, on, &made.file(), Some("mask"), &made.png())
    }
}

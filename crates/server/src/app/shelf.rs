//! Pictures that take seconds to make and are looked at all the time, on disk: ready finishes, recipes and mask lines on the swatch ball. Each lies under a hash of what it shows.

use std::collections::VecDeque;
use std::convert::Infallible;
use std::fs;
use std::io::Write;
use std::path::PathBuf;
use std::sync::Mutex;
use std::time::Duration;

use dustcoat_core::handoff::png;
use dustcoat_core::ready::{self, READY};
use dustcoat_demo::finishes;

use super::{App, AppError, lock};
use crate::db::DbError;

/// Pixels of a ready finish.
const FINISH: [u32; 2] = [184, 148];
/// Samples to a pixel.
const SAMPLES: u32 = 24;
/// As whom the server asks for what nobody wants yet.
pub const AHEAD: &str = "ahead of all pages";
/// How long nobody must have asked for anything before a picture is made ahead.
const QUIET: Duration = Duration::from_secs(3);

/// The folder of pictures.
pub struct Shelf {
    folder: PathBuf,
    /// One is made at a time, by all threads; whoever waited finds it made.
    making: Mutex<()>,
}

impl Shelf {
    /// In a folder that is made when first needed.
    pub fn new(folder: PathBuf) -> Self {
        Self { folder, making: Mutex::default() }
    }

    /// The PNG of some content, made where it is not there. A disk that is full is no reason not to show it.
    fn picture(&self, content: &[u8], make: impl FnOnce() -> Vec<u8>) -> Vec<u8> {
        let Ok(png) = self.made::<Infallible>(content, || Ok(make()));
        png
    }

    /// The same of what can fail.
    pub(super) fn made<E>(&self, content: &[u8], make: impl FnOnce() -> Result<Vec<u8>, E>) -> Result<Vec<u8>, E> {
        let mut key = blake3::Hasher::new();
        key.update(env!("CARGO_PKG_VERSION").as_bytes()).update(b"|").update(content);
        let path = self.folder.join(format!("{}.png", key.finalize().to_hex()));
        if let Ok(png) = fs::read(&path) {
            return Ok(png);
        }
        let _mine = lock(&self.making);
        if let Ok(png) = fs::read(&path) {
            return Ok(png);
        }
        let png = make()?;
        let kept = fs::create_dir_all(&self.folder).and_then(|()| {
            // Whole or not at all: another reader may come in between.
            let mut file = tempfile::Builder::new().prefix("making-").tempfile_in(&self.folder)?;
            file.write_all(&png)?;
            file.persist(&path).map_err(|e| e.error)
        });
        if let Err(error) = kept {
            eprintln!("dustcoat: a picture could not be kept: {error}");
        }
        Ok(png)
    }
}

impl App {
    /// A ready finish on the swatch ball, as a PNG.
    ///
    /// # Errors
    /// [`AppError::NoFinish`]
    pub fn finish_picture(&self, kind: &str) -> Result<Vec<u8>, AppError> {
        let finish = ready::find(kind).ok_or_else(|| AppError::NoFinish(kind.into()))?;
        let content = serde_json::to_vec(&finish.recipe).map_err(|e| DbError::Broken(e.to_string()))?;
        let [w, h] = FINISH;
        Ok(self.shelf.picture(&content, || png::rgba8(&finishes::picture(finish, w, h, SAMPLES), w, h)))
    }

    /// A recipe of the cabinet on the swatch ball, as a PNG.
    ///
    /// # Errors
    /// [`AppError`] when there is no such recipe.
    pub fn recipe_picture(&self, id: i64) -> Result<Vec<u8>, AppError> {
        let recipe = self.db.recipe(id)?;
        let content = serde_json::to_vec(&recipe).map_err(|e| DbError::Broken(e.to_string()))?;
        let [w, h] = FINISH;
        Ok(self.shelf.picture(&content, || png::rgba8(&finishes::recipe(&recipe, w, h, SAMPLES), w, h)))
    }

    /// A mask line of the cabinet on the swatch ball, as a PNG.
    ///
    /// # Errors
    /// [`AppError`] when there is no such line.
    pub fn line_picture(&self, id: i64) -> Result<Vec<u8>, AppError> {
        let line = self.db.lines()?.into_iter().find(|l| l.id == id).ok_or(DbError::NotFound("mask line"))?;
        let content = serde_json::to_vec(&line.steps).map_err(|e| DbError::Broken(e.to_string()))?;
        let [w, h] = FINISH;
        Ok(self.shelf.picture(&content, || png::rgba8(&finishes::line(&line.steps, w, h, SAMPLES), w, h)))
    }

    /// Makes the pictures of all ready finishes and of the cabinet that are not there yet, one by one, while nobody asks for anything else.
    pub fn fill_shelf(&self) {
        let recipes = self.db.cabinet().unwrap_or_default();
        let lines = self.db.lines().unwrap_or_default();
        for kind in READY.iter().map(|r| r.kind) {
            self.wait_for_quiet();
            let _ = self.finish_picture(kind);
        }
        for recipe in recipes.iter().filter(|r| !r.marks.removed) {
            self.wait_for_quiet();
            let _ = self.recipe_picture(recipe.id);
        }
        for line in lines.iter().filter(|l| !l.marks.removed) {
            self.wait_for_quiet();
            let _ = self.line_picture(line.id);
        }
    }

    /// Measures all projects and makes their pictures for the front door, one by one, while nobody asks for anything else: what is asked for stops it, and it begins anew.
    pub fn take_pictures(&self) {
        let mut left: VecDeque<i64> = self.cards().unwrap_or_default().iter().map(|card| card.id).collect();
        while let Some(project) = left.pop_front() {
            self.wait_for_quiet();
            let Ok(cancel) = self.turns.begin(AHEAD, 0) else { continue };
            if self.take_picture(project, &cancel).is_err_and(|e| e.is_cancelled()) {
                left.push_back(project);
            }
        }
    }

    fn wait_for_quiet(&self) {
        while self.told.since_last().is_some_and(|since| since < QUIET) || self.jobs.any() {
            std::thread::sleep(QUIET / 4);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_picture_is_made_once_and_outlives_the_app() {
        let data = tempfile::tempdir().unwrap();
        let folder = data.path().join("pictures");
        let png = Shelf::new(folder.clone()).picture(b"rust", || vec![1, 2, 3]);
        assert_eq!(png, [1, 2, 3]);
        let shelf = Shelf::new(folder.clone());
        assert_eq!(shelf.picture(b"rust", || panic!("it is there")), [1, 2, 3]);
        assert_eq!(shelf.picture(b"paint", || vec![4]), [4], "another content is another picture");
        // A folder that can't be written: it is made all the same.
        let blocked = data.path().join("a file");
        fs::write(&blocked, b"").unwrap();
        assert_eq!(Shelf::new(blocked).picture(b"rust", || vec![5]), [5]);
    }
}

//! What projects hold that others can use as well: palettes and pictures for masks, each once.

use std::collections::BTreeSet;

use super::{App, AppError};
use crate::views::{FoundPalette, FoundPicture, FoundThings};

impl App {
    /// The palettes and the pictures of all projects, those of the newest project first.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn found_things(&self) -> Result<FoundThings, AppError> {
        let mut found = FoundThings::default();
        let mut seen = BTreeSet::new();
        for card in self.db.projects()? {
            let document = self.db.project(card.id)?.document;
            for palette in document.study.palettes {
                if !found.palettes.iter().any(|f| f.palette == palette) {
                    found.palettes.push(FoundPalette { project: card.name.clone(), palette });
                }
            }
            for picture in document.intake.pictures.into_iter().filter(|p| p.purpose == "mask") {
                if seen.insert(picture.hash.clone()) {
                    let (id, project) = (card.id, card.name.clone());
                    found.pictures.push(FoundPicture { id, project, picture });
                }
            }
        }
        Ok(found)
    }
}

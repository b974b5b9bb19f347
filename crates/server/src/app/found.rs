//! What projects hold that others can use as well: palettes and pictures for masks, each once.

use std::collections::BTreeSet;

use super::{App, AppError};
use crate::views::{Event, FavouriteRequest, FoundPalette, FoundPicture, FoundThings};

/// What a thing may be known by is no longer than this, in bytes.
const LONGEST: usize = 2_000;

impl App {
    /// The palettes and the pictures of all projects, those of the newest project first.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn found_things(&self) -> Result<FoundThings, AppError> {
        let mut found = FoundThings { favourites: self.db.favourites()?, ..FoundThings::default() };
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

    /// Makes a thing a favourite, or no longer; what there is then.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn set_favourite(&self, request: &FavouriteRequest) -> Result<FoundThings, AppError> {
        if request.thing.is_empty() || request.thing.len() > LONGEST {
            return Err(AppError::NoThing(LONGEST));
        }
        self.db.set_favourite(&request.thing, request.favourite)?;
        self.send(Event::Cabinet);
        self.found_things()
    }
}

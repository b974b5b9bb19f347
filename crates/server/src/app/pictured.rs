//! Finishes from pictures: a set of files is set aside, told apart, and laid as one coat.

use dustcoat_core::document::pictured::{self, SHOWS, Shows};
use dustcoat_core::document::{Edit, Layer, LayerKind};
use dustcoat_core::mask::MaskLine;
use dustcoat_core::mesh::intake::PictureUse;
use dustcoat_core::raster::picture::Picture;

use super::pieces::picture_use;
use super::{App, AppError};
use crate::views::{EditRequest, LayPictured, ProjectView, SetAside, ToldPicture, ToldPictures};

impl App {
    /// Keeps a picture without using it yet, so that a set can be told apart before anything is laid. What is never used goes when the data is tidied.
    ///
    /// # Errors
    /// [`AppError`] when it can't be read.
    pub fn set_aside(&self, file: &str, bytes: &[u8]) -> Result<SetAside, AppError> {
        let size = Picture::decode(file, bytes)?.size();
        Ok(SetAside { hash: self.db.keep_asset(bytes)?, file: file.into(), size })
    }

    /// What the pictures of a set are.
    ///
    /// # Errors
    /// [`AppError`] when one was not set aside.
    pub fn tell_pictures(&self, set: &[SetAside]) -> Result<ToldPictures, AppError> {
        let read = |one: &SetAside| Ok(Picture::decode(&one.file, &self.db.asset(&one.hash)?)?);
        let pictures = set.iter().map(read).collect::<Result<Vec<_>, AppError>>()?;
        let told: Vec<_> = set.iter().map(|one| one.file.as_str()).zip(&pictures).collect();
        let view = |(one, told): (&SetAside, pictured::Told)| ToldPicture {
            picture: one.clone(),
            shows: told.shows,
            why: told.why.into(),
        };
        let files: Vec<&str> = set.iter().map(|one| one.file.as_str()).collect();
        Ok(ToldPictures {
            name: pictured::name(&files),
            pictures: set.iter().zip(pictured::tell(&told)).map(view).collect(),
            shows: SHOWS.iter().map(|(shows, label)| (*shows, (*label).into())).collect(),
            width: pictured::WIDE,
            relief: pictured::DEEP,
        })
    }

    /// Brings a set of pictures in and lays the coat that they make, as one revision.
    ///
    /// # Errors
    /// [`AppError`] when the set makes no finish, a picture serves the piece in another way, or the revision is stale; the project is as it was then.
    pub fn lay_pictured(&self, project: i64, request: &LayPictured) -> Result<ProjectView, AppError> {
        let row = self.db.project(project)?;
        let mut intake = row.document.intake.clone();
        let piece = self.piece(&intake)?;
        let (mut brought, mut named) = (vec![], vec![]);
        for (one, shows) in request.pictures.iter().filter(|(_, shows)| *shows != Shows::Nothing) {
            match intake.pictures.iter().find(|p| p.hash == one.hash) {
                Some(there) if there.purpose == "mask" => {}
                Some(there) => return Err(AppError::ServesOtherwise(there.file.clone())),
                None => {
                    let used = picture_use(&intake.mesh, &piece, &one.file, "mask", &self.db.asset(&one.hash)?)?;
                    // A finish is laid over the whole piece, whatever sheet a number in a file name calls to mind.
                    let used = PictureUse { sheet: String::new(), ..used };
                    intake.add_picture(used.clone());
                    brought.push(Edit::AddPicture { picture: used });
                }
            }
            let file = intake.pictures.iter().find(|p| p.hash == one.hash).map_or(&one.file, |p| &p.file);
            named.push((file.clone(), *shows));
        }
        let (finish, dial) = pictured::finish(&named, request.width, request.relief, request.tiles)?;
        let layer = Layer {
            id: String::new(),
            name: request.name.clone(),
            shown: true,
            opacity: 1.0.into(),
            mask: MaskLine::default(),
            publish: None,
            note: String::new(),
            kind: LayerKind::Coat { finish },
        };
        let (inside, index) = (request.inside.clone(), request.index);
        // What is done is told by its first edit.
        let mut edits = vec![Edit::AddLayer { inside, index, layer, dials: vec![dial] }];
        edits.extend(brought);
        self.edit(project, &EditRequest { revision: request.revision, edits })
    }
}

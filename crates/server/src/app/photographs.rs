//! Pictures of a project as they are looked at: those that serve the piece, and those on its board. In small, their colours, and what a spot of one says.

use dustcoat_core::document::{self, Document, ToldChannel};
use dustcoat_core::handoff::png;
use dustcoat_core::mesh::palette::hex;
use dustcoat_core::raster::main_colors::main_colors;
use dustcoat_core::raster::picture::{Grid, Picture};
use dustcoat_core::raster::tone::Tone;
use dustcoat_core::setting::Swatch;

use super::{App, AppError};
use crate::db::DbError;
use crate::views::{ToneRequest, ToneView};

/// The sizes that pictures are looked at in, along the longer side.
pub const SIDES: [u32; 3] = [256, 1024, 4096];
/// What a grey that is told against may give back of the light.
const GREYS: std::ops::RangeInclusive<f32> = 0.01..=1.0;

/// A share as it is shown and kept: in thousandths, but never none.
fn rounded(share: f32) -> f64 {
    ((f64::from(share) * 1000.0).round() / 1000.0).max(0.001)
}

fn as_png(small: &Grid<[u8; 4]>) -> Vec<u8> {
    png::rgba8(small.values.as_flattened(), small.width, small.height)
}

impl App {
    /// A picture of a project of at most `side` texels along each side, as a PNG, or the largest as a JPEG. They are made once, one at a time, and stay on disk: what is
    /// photographed has many texels.
    ///
    /// # Errors
    /// [`AppError`] when the project has no such picture, it can't be read, or that is no size in which it is shown.
    pub fn brought_picture(&self, project: i64, hash: &str, side: u32) -> Result<Vec<u8>, AppError> {
        if !SIDES.contains(&side) {
            return Err(AppError::NoSide(side));
        }
        let file = self.picture_name(project, hash)?;
        self.shelf.made(format!("brought/{hash}/{side}").as_bytes(), || {
            let picture = Picture::decode(&file, &self.db.asset(hash)?)?;
            let jpeg = if side > SIDES[1] { picture.jpeg(side) } else { None };
            Ok(jpeg.unwrap_or_else(|| as_png(&picture.shown(side))))
        })
    }

    /// What a picture of a project is called.
    fn picture_name(&self, project: i64, hash: &str) -> Result<String, AppError> {
        let row = self.db.project(project)?;
        let pictures = row.document.intake.pictures.iter().map(|p| (p.hash.as_str(), p.file.as_str()));
        let found = pictures.chain(row.document.study.files()).find(|(h, _)| *h == hash);
        Ok(found.ok_or(DbError::NotFound("picture"))?.1.to_owned())
    }

    /// A picture of a project in small, as it is shown.
    fn small(&self, project: i64, hash: &str, side: u32) -> Result<Grid<[u8; 4]>, AppError> {
        let png = self.brought_picture(project, hash, side)?;
        Ok(Picture::decode("its picture in small", &png)?.preview(side))
    }

    /// The few colours that stand for a picture that was brought in, the most frequent first; as often as they are in it.
    ///
    /// # Errors
    /// [`AppError`] when the project has no such picture, or it can't be read.
    pub fn picture_colors(&self, project: i64, hash: &str, count: u8) -> Result<Vec<Swatch>, AppError> {
        let small = self.small(project, hash, SIDES[0])?;
        let swatch = |(c, share): ([u8; 3], f32)| Swatch { color: hex(c), weight: rounded(share) };
        Ok(main_colors(&small, count).into_iter().map(swatch).collect())
    }

    /// What the channels of a picture are, to be taken for masks.
    ///
    /// # Errors
    /// [`AppError`] when the project has no such picture, or it can't be read.
    pub fn told_channels(&self, project: i64, hash: &str) -> Result<Vec<ToldChannel>, AppError> {
        let file = self.picture_name(project, hash)?;
        Ok(document::told_channels(&file, &Picture::decode(&file, &self.db.asset(hash)?)?))
    }

    /// What a spot of a picture says.
    ///
    /// # Errors
    /// [`AppError`] when the project has no such picture, it can't be read, or nothing of it is there.
    pub fn tone(&self, project: i64, hash: &str, request: &ToneRequest) -> Result<ToneView, AppError> {
        let small = self.small(project, hash, SIDES[1])?;
        let at = |place| Tone::of(&small, place).ok_or(AppError::ClearSpot);
        let tone = at(request.at)?;
        let back = match &request.grey {
            Some(grey) if !GREYS.contains(&grey.is) => return Err(AppError::NoGrey(grey.is)),
            Some(grey) => Some(tone.against(&at(grey.at)?, grey.is)),
            None => None,
        };
        Ok(ToneView {
            color: hex(tone.color()),
            luminance: tone.luminance(),
            given_back: back.map(|s| s.luminance()),
            neutral: back.map(|s| hex(s.color())),
        })
    }

    /// Files that one document names and another didn't are there: what an edit names was brought in before.
    pub(super) fn check_files(&self, old: &Document, new: &Document) -> Result<(), AppError> {
        let before = old.files();
        for (hash, file) in new.files() {
            if !before.iter().any(|(h, _)| *h == hash) && !self.db.has_asset(hash)? {
                return Err(AppError::NotBrought(file.to_owned()));
            }
        }
        Ok(())
    }
}

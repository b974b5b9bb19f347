//! Hand-off: files planned, written at their own size, zipped for download.

use std::io::Write;
use std::time::Instant;

use dustcoat_core::document::Document;
use dustcoat_core::evaluate::bands::BUDGET;
use dustcoat_core::evaluate::{self, Context, EvaluateError};
use dustcoat_core::handoff::{self, Handoff, Layout};
use dustcoat_core::mesh::Finding;
use dustcoat_core::raster::LARGEST_WHOLE;
use dustcoat_core::task::Cancel;
use zip::write::SimpleFileOptions;

use super::{App, AppError};
use crate::views::{HandoffDone, HandoffView, JobKind};

impl App {
    /// What would be written, and what stands against it.
    ///
    /// # Errors
    /// [`AppError::Handoff`] when the layout makes no sense.
    pub fn plan_handoff(&self, project: i64, layout: Layout) -> Result<HandoffView, AppError> {
        let row = self.db.project(project)?;
        let piece = self.piece(&row.document.intake)?;
        let channels = evaluate::channels(&row.document, &piece);
        let files = layout.plan(&row.document.name, &piece.sheets, &channels)?;
        let mut problems: Vec<Finding> = piece.findings.iter().filter(|f| f.serious).cloned().collect();
        problems.extend(self.lost_in(&row.document, &piece)?);
        if row.document.layers.is_empty() {
            problems.push(Finding {
                serious: false,
                what: "No coat is laid yet.".into(),
                remedy: "The files will show the bare piece. Lay a coat in Build first.".into(),
            });
        }
        let reach = if files.iter().any(|f| f.map == "height") { self.height_reach(&row.document)? } else { None };
        let fits = reach.filter(|[low, high]| low.abs().max(*high) > layout.height_range).map(|[low, high]| {
            let fits = handoff::height_that_fits([low, high]);
            problems.push(Finding {
                serious: true,
                what: format!(
                    "The relief reaches from {low:.2} to {high:.2} mm, and the height map holds no more than {0} mm up and down: beyond, it is cut off.",
                    layout.height_range
                ),
                remedy: format!("Take {fits} mm as the height that is white."),
            });
            fits
        });
        Ok(HandoffView { layout, files, unlaid: handoff::unlaid(&channels), problems, fits })
    }

    /// The least and the greatest height of the draft, in mm, as far as it is measured; none where it can't be told yet.
    fn height_reach(&self, document: &Document) -> Result<Option<[f32; 2]>, AppError> {
        let surface = self.surface_of(document, document.draft_size)?;
        let measured = self.at_hand(&evaluate::wanted(document, &surface.piece), &surface, true);
        match evaluate::evaluate(document, &self.context(&surface, &measured, &Cancel::default())) {
            Ok(e) => {
                let all = e.channels["height"].iter();
                Ok(Some(all.fold([0.0f32; 2], |[low, high], h| [low.min(*h), high.max(*h)])))
            }
            Err(EvaluateError::Missing(_) | EvaluateError::NoTexels) => Ok(None),
            Err(other) => Err(other.into()),
        }
    }

    /// Writes the files and zips them.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn write_handoff(&self, project: i64, layout: &Layout) -> Result<HandoffDone, AppError> {
        let clock = Instant::now();
        let row = self.db.project(project)?;
        let piece = self.piece(&row.document.intake)?;
        let channels = evaluate::channels(&row.document, &piece);
        let files = layout.plan(&row.document.name, &piece.sheets, &channels)?;
        let surface = self.surface_of(&row.document, layout.size.min(LARGEST_WHOLE))?;
        let measured = self.ensure_needs(project, &row.document, &surface)?;
        let occlusion = measured.occlusion(&row.document, &surface).map(|o| o.1);
        let occlusion = occlusion.as_ref().map(|o| o.as_slice());
        let job = self.jobs.begin(project, JobKind::HandOff, vec![]);
        let tell = |label: &str, share: f32| job.tell(label, share, None);
        let context = Context { progress: &tell, ..self.context(&surface, &measured, &job.cancel) };
        let writing =
            Handoff { document: &row.document, context: &context, layout, files: &files, occlusion, budget: BUDGET };
        let mut written = self.written.begin()?;
        let mut zip = zip::ZipWriter::new(written.as_file_mut());
        // PNGs don't shrink further; storing them is fast.
        let options = SimpleFileOptions::default().compression_method(zip::CompressionMethod::Stored).large_file(true);
        let mut done = 0;
        writing.write::<AppError>(&mut |file, bytes| {
            done += 1;
            tell(&format!("Writing {}", file.name), done as f32 / files.len() as f32);
            zip.start_file(&file.name, options).map_err(std::io::Error::from)?;
            Ok(zip.write_all(&bytes)?)
        })?;
        zip.finish().map_err(std::io::Error::from)?;
        let name = format!("{}-{}.zip", row.document.name, layout.size);
        let (download, bytes) = self.written.keep(written)?;
        Ok(HandoffDone { download, name, files, bytes, seconds: clock.elapsed().as_secs_f64() })
    }
}

//! Hand-off: files planned, written at their own size, zipped for download.

use std::io::{Cursor, Write};
use std::time::Instant;

use dustcoat_core::document;
use dustcoat_core::evaluate::bands::BUDGET;
use dustcoat_core::evaluate::{self, Context};
use dustcoat_core::handoff::{self, Handoff, Layout};
use dustcoat_core::mesh::Finding;
use dustcoat_core::raster::LARGEST_WHOLE;
use zip::write::SimpleFileOptions;

use super::{App, AppError};
use crate::views::{HandoffDone, HandoffView};

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
        problems.extend(document::lost_names(&row.document, &piece));
        if row.document.layers.is_empty() {
            problems.push(Finding {
                serious: false,
                what: "No coat is laid yet.".into(),
                remedy: "The files will show the bare piece. Lay a coat in Build first.".into(),
            });
        }
        Ok(HandoffView { layout, files, unlaid: handoff::unlaid(&channels), problems })
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
        self.ensure_needs(project, &row.document, &surface)?;
        let readings = |hash: &str| self.held(hash);
        let occlusion = self.occlusion(&row.document, &surface).map(|o| o.1);
        let occlusion = occlusion.as_ref().map(|o| o.as_slice());
        let bytes = self.working(project, |cancel, tell| {
            let context = Context { progress: tell, ..self.context(&surface, &readings, cancel) };
            let job = Handoff {
                document: &row.document,
                context: &context,
                layout,
                files: &files,
                occlusion,
                budget: BUDGET,
            };
            let mut zip = zip::ZipWriter::new(Cursor::new(Vec::new()));
            // PNGs don't shrink further; storing them is fast.
            let options = SimpleFileOptions::default().compression_method(zip::CompressionMethod::Stored);
            let mut done = 0;
            job.write::<AppError>(&mut |file, bytes| {
                done += 1;
                tell(&format!("Writing {}", file.name), done as f32 / files.len() as f32);
                let written = zip.start_file(&file.name, options).and_then(|()| Ok(zip.write_all(&bytes)?));
                written.expect("a ZIP in memory takes planned names once each");
                Ok(())
            })?;
            Ok(zip.finish().expect("a ZIP in memory can be closed").into_inner())
        })?;
        let (size, name) = (bytes.len() as u64, format!("{}-{}.zip", row.document.name, layout.size));
        let download = self.pixels_of(&format!("zip/{}", blake3::hash(&bytes)), || bytes);
        Ok(HandoffDone { download, name, files, bytes: size, seconds: clock.elapsed().as_secs_f64() })
    }
}

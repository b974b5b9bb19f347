//! Stills: the path tracer's pictures of a project as it stands, from where the page looks at it.

use std::io::Write;
use std::time::Instant;

use bytes::Bytes;
use dustcoat_core::evaluate;
use dustcoat_core::handoff::png;
use dustcoat_core::still::ground::{GREY, Ground, SHADE};
use dustcoat_core::still::light::{self, LIGHTS, PANORAMA};
use dustcoat_core::still::shoot::{StillError, StillSettings, Surround, shoot_shown};
use zip::write::SimpleFileOptions;

use super::{App, AppError};
use crate::views::{GroundView, JobKind, LightsView, StillDone, SurroundView};

impl App {
    /// What light there is, and what may surround the piece.
    pub fn lights() -> LightsView {
        let surround = |(key, label): (Surround, &'static str)| SurroundView { key, label, byte: key.byte() };
        let all =
            [(Surround::Grey, "grey"), (Surround::Light, "light"), (Surround::Dark, "dark"), (Surround::Sky, "sky")];
        LightsView { lights: LIGHTS, rim: light::RIM, surrounds: all.map(surround).to_vec(), panorama: PANORAMA }
    }

    /// The panorama of a set-up of light: little-endian f32, red, green and blue a texel.
    ///
    /// # Errors
    /// [`AppError`] when there is no such light.
    pub fn panorama(&self, key: &str) -> Result<Vec<u8>, AppError> {
        let light = light::find(key).ok_or_else(|| StillError::Light(key.into()))?;
        let held = self.pixels_of(&format!("panorama/{key}"), || {
            light.panorama().into_iter().flatten().flat_map(f32::to_le_bytes).collect()
        });
        Ok(held.bytes.to_vec())
    }

    /// The ground under a project's piece, and how open it is to the sky.
    ///
    /// # Errors
    /// [`AppError`] when the project is gone.
    pub fn ground(&self, project: i64) -> Result<GroundView, AppError> {
        let (_, surface) = self.laid_out(project)?;
        let ground = Ground::of(&surface.piece);
        let telling = self.telling();
        let pixels = telling.of(&format!("ground/{}", surface.piece.hash), || {
            ground.open(&surface).into_iter().map(|o| (o * 255.0 + 0.5) as u8).collect()
        });
        telling.done(&format!("ground of {project}"));
        Ok(GroundView { middle: ground.middle.to_array(), fades: ground.fades, grey: GREY, size: SHADE, pixels })
    }

    /// Takes a still or the pictures of a turntable.
    ///
    /// # Errors
    /// [`AppError`]; stopping is one.
    pub fn take_still(&self, project: i64, settings: &StillSettings) -> Result<StillDone, AppError> {
        let clock = Instant::now();
        settings.check()?;
        let (row, surface) = self.laid_out(project)?;
        let measured = self.ensure_needs(project, &row.document, &surface)?;
        let job = self.jobs.begin(project, JobKind::Still, vec![]);
        let tell = |label: &str, share: f32| job.tell(label, share, None);
        let e = evaluate::evaluate(&row.document, &self.context(&surface, &measured, &job.cancel))?;
        let (w, h) = (settings.width, settings.height);
        let show = |samples: u32, pixels: Vec<u8>| job.show(samples, png::rgba8(&pixels, w, h));
        let taken = shoot_shown(&surface, &e, settings, &job.cancel, &tell, &show)?;
        let mut files: Vec<Vec<u8>> = taken.iter().map(|p| png::rgba8(p, w, h)).collect();
        let name = &row.document.name;
        let mut file = self.written.begin()?;
        let name = if files.len() == 1 {
            file.write_all(&files.remove(0))?;
            format!("{name}.png")
        } else {
            zip_into(file.as_file_mut(), name, &files)?;
            format!("{name}-turntable.zip")
        };
        let (download, bytes) = self.written.keep(file)?;
        Ok(StillDone { download, name, bytes, seconds: clock.elapsed().as_secs_f64() })
    }

    /// What a still that is being taken looks like so far, as a PNG: none before the first samples, and none any more once it is done.
    pub fn still_so_far(&self, project: i64, job: u64) -> Option<Bytes> {
        self.jobs.picture(project, job)
    }
}

/// Pictures in the order of the turn. PNGs don't shrink further.
fn zip_into(file: &mut std::fs::File, name: &str, files: &[Vec<u8>]) -> std::io::Result<()> {
    let mut zip = zip::ZipWriter::new(file);
    let options = SimpleFileOptions::default().compression_method(zip::CompressionMethod::Stored);
    for (k, file) in files.iter().enumerate() {
        zip.start_file(format!("{name}-{:03}.png", k + 1), options)?;
        zip.write_all(file)?;
    }
    zip.finish()?;
    Ok(())
}

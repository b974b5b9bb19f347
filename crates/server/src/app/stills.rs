//! Stills: the path tracer's pictures of a project as it stands, from where the page looks at it.

use std::io::{Cursor, Write};
use std::time::Instant;

use dustcoat_core::evaluate;
use dustcoat_core::handoff::png;
use dustcoat_core::still::ground::{GREY, Ground, SHADE};
use dustcoat_core::still::light::{self, LIGHTS, PANORAMA};
use dustcoat_core::still::shoot::{StillError, StillSettings, Surround, shoot};
use zip::write::SimpleFileOptions;

use super::{App, AppError};
use crate::views::{GroundView, LightsView, StillDone, SurroundView};

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
        let address = self.pixels_of(&format!("panorama/{key}"), || {
            light.panorama().into_iter().flatten().flat_map(f32::to_le_bytes).collect()
        });
        Ok(self.pixels(&address).map(|p| p.to_vec()).unwrap_or_default())
    }

    /// The ground under a project's piece, and how open it is to the sky.
    ///
    /// # Errors
    /// [`AppError`] when the project is gone.
    pub fn ground(&self, project: i64) -> Result<GroundView, AppError> {
        let (_, surface) = self.laid_out(project)?;
        let ground = Ground::of(&surface.piece);
        let pixels = self.pixels_of(&format!("ground/{}", surface.piece.hash), || {
            ground.open(&surface).into_iter().map(|o| (o * 255.0 + 0.5) as u8).collect()
        });
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
        self.ensure_needs(project, &row.document, &surface)?;
        let readings = |hash: &str| self.held(hash);
        let taken = self.working(project, |cancel, tell| {
            let e = evaluate::evaluate(&row.document, &self.context(&surface, &readings, cancel))?;
            Ok(shoot(&surface, &e, settings, cancel, tell)?)
        })?;
        let (w, h) = (settings.width, settings.height);
        let mut files: Vec<Vec<u8>> = taken.iter().map(|p| png::rgba8(p, w, h)).collect();
        let name = &row.document.name;
        let (bytes, name) = if files.len() == 1 {
            (files.remove(0), format!("{name}.png"))
        } else {
            (zipped(name, &files), format!("{name}-turntable.zip"))
        };
        let size = bytes.len() as u64;
        let download = self.pixels_of(&format!("still/{}", blake3::hash(&bytes)), || bytes);
        Ok(StillDone { download, name, bytes: size, seconds: clock.elapsed().as_secs_f64() })
    }
}

/// Pictures in the order of the turn. PNGs don't shrink further.
fn zipped(name: &str, files: &[Vec<u8>]) -> Vec<u8> {
    let mut zip = zip::ZipWriter::new(Cursor::new(Vec::new()));
    let options = SimpleFileOptions::default().compression_method(zip::CompressionMethod::Stored);
    for (k, file) in files.iter().enumerate() {
        let started = zip.start_file(format!("{name}-{:03}.png", k + 1), options);
        started.and_then(|()| Ok(zip.write_all(file)?)).expect("a ZIP in memory takes numbered names once each");
    }
    zip.finish().expect("a ZIP in memory can be closed").into_inner()
}

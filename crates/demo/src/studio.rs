//! A studio: one prop, measured once, to take stills of in any dress.

use std::sync::{Arc, Mutex, PoisonError};

use dustcoat_core::bake::{Surface, measure, measurement};
use dustcoat_core::document::Document;
use dustcoat_core::evaluate::{Cache, Context, Measured, evaluate, needs};
use dustcoat_core::mesh::Piece;
use dustcoat_core::still::shoot::{StillSettings, shoot};
use dustcoat_core::task::{Cancel, silent};

/// A prop, and what was measured of it already.
pub struct Studio {
    surface: Surface,
    measured: Mutex<Measured>,
    rays: Option<f64>,
}

impl Studio {
    /// The demo piece of that key, with textures of `size` texels a side; measured with so many rays a texel where the documents' own are not wanted.
    ///
    /// # Panics
    /// When there is no such piece: keys are written down in the code alone.
    pub fn of(key: &str, size: u32, rays: Option<f64>) -> Studio {
        let piece = crate::piece(key).unwrap_or_else(|| panic!("the demo has no {key}")).imported();
        Studio { surface: Surface::new(piece, size), measured: Mutex::default(), rays }
    }

    /// The prop.
    pub fn piece(&self) -> &Piece {
        &self.surface.piece
    }

    /// RGBA8 pixels of a still of it in a dress.
    ///
    /// # Panics
    /// When the document or the settings are none that the core takes: this serves what the demo has written itself.
    pub fn take(&self, document: &Document, settings: &StillSettings) -> Vec<u8> {
        let surface = &self.surface;
        let (cache, cancel) = (Cache::new(1 << 27), Cancel::default());
        let never = "nobody stops it";
        let mut known = self.measured.lock().unwrap_or_else(PoisonError::into_inner);
        for key in needs(document, &surface.piece) {
            let hash = key.hash(&surface.piece.hash, surface.atlas.size);
            let Some(m) = measurement::find(key.kind).filter(|_| known.get(&hash).is_none()) else { continue };
            let settings =
                self.rays.map_or(key.settings.clone(), |rays| key.settings.clone().with_number("rays", rays));
            known.insert(hash, Arc::new(measure(m, surface, &settings, &cancel, &silent).expect(never)));
        }
        let measured = known.clone();
        drop(known);
        let context = Context { surface, measured: &measured, cache: &cache, cancel: &cancel, progress: &silent };
        let e = evaluate(document, &context).expect("all that it needs was measured");
        shoot(surface, &e, settings, &cancel, &silent).expect(never).swap_remove(0)
    }
}

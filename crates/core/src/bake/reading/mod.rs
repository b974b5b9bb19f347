//! The readings: what is known of each texel from the piece alone. One file each, one line each in [`READINGS`].
//!
//! Some are read from a [measurement](super::measurement), which costs rays and is kept. Others follow from position, normal or number alone and are computed where
//! they are used. A picture that was brought in may stand in for any of them.

mod altitude;
mod border;
mod damp;
mod dust;
mod edges;
mod facing;
mod flow;
mod frost;
mod grain;
mod ground;
mod occlusion;
mod part;
mod rain;
mod recesses;
mod shell;
mod sun;
mod thickness;
mod touch;

use std::sync::Arc;

use rayon::prelude::*;

use super::measurement::{self, Extent, Measurement, MeasurementKey};
use super::{Surface, weather};
use crate::mesh::Piece;
use crate::mesh::parts::StandIn;
use crate::raster::Plane;
use crate::setting::{DialStates, ParamSpec, ParamType, Resolved, Settings, resolve};

pub use shell::random;

/// A run of covered texels to compute a reading for.
pub struct Run<'a> {
    /// The surface.
    pub surface: &'a Surface,
    /// First covered texel.
    pub start: usize,
}

/// Where a reading's values come from.
pub enum Origin {
    /// From a plane of a measurement.
    Measured {
        /// Kind of the measurement.
        of: &'static str,
        /// Which of its planes, by the step's settings.
        plane: fn(&Resolved) -> usize,
        /// Makes the reading of what was measured, in place, by the step's settings and those of the weather that it follows.
        read: fn(&mut [f32], &Resolved),
    },
    /// Computed on the spot: fills a run with values 0…1.
    Computed(fn(&Run, &Resolved, &mut [f32])),
}

/// A reading: description and computation.
pub struct Reading {
    /// Key.
    pub kind: &'static str,
    /// What the artist reads.
    pub label: &'static str,
    /// One sentence of help.
    pub help: &'static str,
    /// Its settings, which belong to the step.
    pub specs: fn() -> Vec<ParamSpec>,
    /// Settings of the weather by which it is read, whatever of the weather was measured already, by key.
    pub weather: &'static [&'static str],
    /// Where its values come from.
    pub origin: Origin,
}

/// All readings.
pub static READINGS: &[&Reading] = &[
    &occlusion::READING,
    &edges::READING,
    &recesses::READING,
    &thickness::READING,
    &facing::READING,
    &altitude::READING,
    &ground::READING,
    &grain::READING,
    &shell::READING,
    &part::READING,
    &border::READING,
    &rain::READING,
    &flow::READING,
    &sun::READING,
    &dust::READING,
    &touch::READING,
    &damp::READING,
    &frost::READING,
];

/// The reading of that kind.
pub fn find(kind: &str) -> Option<&'static Reading> {
    READINGS.iter().copied().find(|r| r.kind == kind)
}

/// The reading of a name, with the settings that the name says: `edges`, or `edges:fine` for one of the ways in which it is read.
pub fn named(name: &str) -> Option<(&'static Reading, Settings)> {
    let (kind, way) = name.split_once(':').map_or((name, None), |(k, w)| (k, Some(w)));
    let reading = find(kind)?;
    let Some(way) = way else { return Some((reading, Settings::new())) };
    let spec = reading.ways().filter(|s| s.choices.iter().any(|c| c.0 == way))?;
    Some((reading, [(spec.key.to_owned(), way.into())].into()))
}

impl Reading {
    /// A reading without settings, of one plane of a measurement as it is.
    const fn as_measured(
        kind: &'static str,
        label: &'static str,
        help: &'static str,
        (of, plane): (&'static str, fn(&Resolved) -> usize),
    ) -> Reading {
        Reading {
            kind,
            label,
            help,
            specs: Vec::new,
            weather: &[],
            origin: Origin::Measured { of, plane, read: |_, _| {} },
        }
    }

    /// The setting that says in which of several ways it is read: at which radius, towards where.
    pub fn ways(&self) -> Option<ParamSpec> {
        (self.specs)().into_iter().find(|s| s.kind == ParamType::Choice)
    }

    /// The measurement that it is read from, if it is one that costs rays.
    pub fn measurement(&self) -> Option<&'static Measurement> {
        match self.origin {
            Origin::Measured { of, .. } => measurement::find(of),
            Origin::Computed(_) => None,
        }
    }

    /// What it is read by: settings of its own, as they are kept, and those of a project's weather that it follows.
    pub fn settings(&self, own: &Settings, weather: &Settings) -> Resolved {
        self.read_by(resolve(&(self.specs)(), own, &DialStates::new()), weather)
    }

    /// What it is read by: a step's own settings, which dials may have turned, and those of a project's weather that it follows.
    pub fn read_by(&self, mut own: Resolved, weather: &Settings) -> Resolved {
        if self.weather.is_empty() {
            return own;
        }
        own.0.extend(resolve(&weather::some(self.weather), weather, &DialStates::new()).0);
        own
    }

    /// Fills a run with values 0…1, one per covered texel from `run.start` on. `settings` are what it [is read by](Reading::read_by); `measured` holds the planes of its measurement; without them it reads 0.
    pub fn fill(&self, run: &Run, settings: &Resolved, measured: Option<&Plane>, out: &mut [f32]) {
        let piece = &run.surface.piece;
        if let Some(stand_in) = piece.stand_ins.get(self.kind) {
            return stand_in_values(run, &stand_in.1, out);
        }
        if let (Some(curvature), Origin::Measured { read, .. }) = (self.curvature_picture(piece), &self.origin) {
            stand_in_values(run, &curvature.1, out);
            // Such a picture is bright where the surface stands out; the ball integral is small there.
            out.iter_mut().for_each(|v| *v = 1.0 - *v);
            return read(out, settings);
        }
        match (&self.origin, measured) {
            (Origin::Computed(fill), _) => fill(run, settings, out),
            (Origin::Measured { plane, read, .. }, Some(planes)) => {
                let start = plane(settings) * run.surface.atlas.len() + run.start;
                out.copy_from_slice(&planes[start..start + out.len()]);
                read(out, settings);
            }
            (Origin::Measured { .. }, None) => out.fill(0.0),
        }
    }

    /// The picture that it is read from, with a hash of it, if one was brought in.
    pub fn stand_in<'a>(&self, piece: &'a Piece) -> Option<&'a (String, Arc<StandIn>)> {
        piece.stand_ins.get(self.kind).or_else(|| self.curvature_picture(piece))
    }

    /// Whether it is read from a picture that was brought in.
    pub fn is_stood_in(&self, piece: &Piece) -> bool {
        self.stand_in(piece).is_some()
    }

    /// The picture of curvature that it is read from, if it is one of the readings of curvature and there is such a picture.
    fn curvature_picture<'a>(&self, piece: &'a Piece) -> Option<&'a (String, Arc<StandIn>)> {
        let ours = matches!(self.origin, Origin::Measured { of: "curvature", .. });
        piece.stand_ins.get("curvature").filter(|_| ours)
    }

    /// The reading over a whole surface, on all cores.
    pub fn plane(&self, surface: &Surface, settings: &Resolved, measured: Option<&Plane>) -> Plane {
        const RUN: usize = 4096;
        let mut out = vec![0.0; surface.atlas.len()];
        out.par_chunks_mut(RUN).enumerate().for_each(|(i, chunk)| {
            self.fill(&Run { surface, start: i * RUN }, settings, measured, chunk);
        });
        out
    }

    /// The key of the measurement that a piece needs for this reading: none if it costs no rays, or if a picture stands in for it.
    pub fn key(&self, piece: &Piece, project: &dyn Fn(&str) -> Settings) -> Option<MeasurementKey> {
        let measurement = self.measurement().filter(|_| !self.is_stood_in(piece))?;
        Some(MeasurementKey::new(measurement, Extent::of(piece), &project(measurement.kind)))
    }
}

/// A picture's numbers under the texels of a run, mixed from the four around each place.
fn stand_in_values(run: &Run, stand_in: &StandIn, out: &mut [f32]) {
    let StandIn::Number(grids) = stand_in else { return out.fill(0.0) };
    for (i, v) in out.iter_mut().enumerate() {
        let (uv, sheet) = run.surface.atlas.uv(run.start + i);
        *v = grids[sheet].smooth(uv);
    }
}

/// The setting of readings that are measured at three radii.
fn radius_spec() -> ParamSpec {
    ParamSpec::choice(
        "radius",
        "Radius",
        &[("medium", "Medium"), ("fine", "Fine"), ("broad", "Broad")],
        "At which of the three sizes, set in the Surface room, the shape is looked at.",
    )
}

fn radius_plane(settings: &Resolved) -> usize {
    match settings.text("radius") {
        "fine" => 0,
        "broad" => 2,
        _ => 1,
    }
}

//! A band of a surface: some rows of its squares, above the whole surface at another size, mostly a smaller one; or a patch, a square of it that is looked at closely.
//!
//! What looks around a texel, and what is measured, is known on the whole surface ([`Band::read`]); all else is worked out for the band's own texels.

use std::ops::Range;

use glam::Vec2;
use rayon::prelude::*;

use super::Surface;
use super::atlas::{Atlas, BAND};
use super::levels::{Corner, beside};
use super::places::{Places, Spot};
use super::seams;
use crate::raster::Plane;

/// Rows of a sheet.
pub struct Band<'a> {
    /// Its texels, those of a margin above and below included, from which gutters are filled and slopes taken. It knows nothing of what lies across a seam but what [`Band::fringe`] says.
    pub surface: Surface,
    /// The rows that it is for, counted over all sheets.
    pub rows: Range<u32>,
    /// The whole surface at its own size.
    base: &'a Surface,
}

/// The middles of a texel's quarters, from its own.
const QUARTERS: [Vec2; 4] =
    [Vec2::new(-0.25, -0.25), Vec2::new(0.25, -0.25), Vec2::new(-0.25, 0.25), Vec2::new(0.25, 0.25)];

/// Places just beyond the borders of charts.
pub struct Fringe<'a> {
    /// Where in the squares each of them lies.
    pub at: Vec<u32>,
    /// The places themselves.
    pub places: Places<'a>,
}

impl<'a> Band<'a> {
    /// Lays out at most `height` rows of a sheet (at least 32), from `first` on, at `size` texels a side. `first` is a multiple of 32.
    pub fn build(base: &'a Surface, size: u32, first: u32, height: u32) -> Self {
        let sheet = first / size * size..(first / size + 1) * size;
        let rows = first..(first + (height / BAND).max(1) * BAND).min(sheet.end);
        let margin = ((size / 64).max(4) + 1).next_multiple_of(BAND);
        let held = rows.start.saturating_sub(margin).max(sheet.start)..(rows.end + margin).min(sheet.end);
        Self::of(base, Atlas::rows(&base.piece, size, held), rows)
    }

    /// A patch: `side` texels a side of one sheet's square, `margin` more on every side as far as the sheet goes, at `size` texels a side. `corner` is its first column and row there.
    pub fn patch(base: &'a Surface, size: u32, sheet: u32, corner: [u32; 2], side: u32, margin: u32) -> Self {
        let held = |at: u32| at.saturating_sub(margin)..(at + side + margin).min(size);
        let (columns, rows) = (held(corner[0]), held(corner[1]));
        let rows = rows.start + sheet * size..rows.end + sheet * size;
        Self::of(base, Atlas::part(&base.piece, size, rows.clone(), columns), rows)
    }

    /// Lays the texels over the whole surface.
    fn of(base: &'a Surface, mut atlas: Atlas, rows: Range<u32>) -> Self {
        atlas.texel_length = base.atlas.texel_length * base.atlas.size as f32 / atlas.size as f32;
        atlas.total_area = base.atlas.total_area;
        atlas.side = base.atlas.side;
        let surface = base.laid_out(atlas).with_finer(base.finer.clone());
        Self { surface, rows, base }
    }

    /// The covered texels of its own rows, without the margin.
    pub fn own(&self) -> Range<usize> {
        let (atlas, size) = (&self.surface.atlas, self.surface.atlas.size);
        let before = |row: u32| atlas.texel.partition_point(|at| at / size < row);
        before(self.rows.start)..before(self.rows.end)
    }

    /// What lies across the seams within a texel and a half of its charts' borders: slopes are taken from there.
    pub fn fringe(&self) -> Fringe<'a> {
        const REACH: f32 = 1.5;
        let beyond = seams::fringe(self.base, &self.surface.atlas, REACH);
        let (at, spots): (Vec<u32>, Vec<Spot>) = beyond.into_iter().unzip();
        Fringe { at, places: Places::new(self.base, &self.surface, &spots, 1.0) }
    }

    /// What a plane of the whole surface, or several one after the other, holds at the band's texels: mixed from the four around each, across seams; where its texels are much
    /// smaller, the mean of those that lie on each.
    pub fn read(&self, planes: &[f32]) -> Plane {
        let base = &self.base.atlas;
        planes.chunks(base.len().max(1)).flat_map(|plane| self.read_one(plane)).collect()
    }

    fn read_one(&self, plane: &[f32]) -> Plane {
        let (from, to, piece) = (&self.base.atlas, &self.surface.atlas, &self.surface.piece);
        let seams = self.base.seams();
        // A patch reads so little of it that the rest isn't laid out.
        let square = (to.len() > from.len() / 8).then(|| seams.square(from, plane));
        let value = |at: usize| square.as_ref().map_or_else(|| seams.value(from, plane, at), |square| square[at]);
        let ratio = from.size as f32 / to.size as f32;
        // Between four texels that lie side by side all count alike: at up to twice the size one such place takes in the whole texel, at four times it takes four.
        let places: &[Vec2] = if ratio > 2.0 { &QUARTERS } else { &[Vec2::ZERO] };
        let one = |i: usize| {
            let (at, chart) = (to.texel[i], piece.chart_of[to.triangle[i] as usize]);
            let centre = Vec2::from([at % to.size, at / to.size % to.size].map(|c| (c as f32 + 0.5) * ratio - 0.5));
            let around = |by: &Vec2| Corner::around(at / (to.size * to.size), centre + *by * ratio);
            let (sum, count) = places
                .iter()
                .filter_map(|by| around(by).mixed(self.base, &value, chart))
                .fold((0.0, 0.0f32), |(sum, count), v| (sum + v, count + 1.0));
            if count > 0.0 { sum / count } else { beside(to, i, from, plane) }
        };
        (0..to.len()).into_par_iter().with_min_len(4096).map(one).collect()
    }
}

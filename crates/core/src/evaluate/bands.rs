//! Evaluation band by band, for textures of another size than the surface that they are worked out on: too large to be worked out whole, or so small that a finer one is measured.
//!
//! Patterns, joins, pointwise shapers and finishes are evaluated at every texel of a band. What looks around — blur, borders, runs, creep, a cut by coverage — and what is
//! measured is worked out once on the whole surface, and read between its texels.

use std::collections::BTreeMap;
use std::sync::Arc;

use super::anywhere::Anywhere;
use super::coverage::{LayerCoverage, shares, sums};
use super::{Context, EvaluateError, Evaluation, Highest, finer, highest};
use crate::bake::Band;
use crate::document::Document;
use crate::raster::Plane;

/// Bytes that a band may take, what is written from it not counted.
pub const BUDGET: usize = 1 << 30;
/// Bytes of a texel in the atlas, its place to look up and its share of the gutter.
const ATLAS: usize = 46;

type Channels = BTreeMap<&'static str, Arc<Plane>>;

/// A document worked out so far that its bands can be evaluated one by one.
pub struct Bands<'a> {
    anywhere: Anywhere<'a>,
    /// The layers whose masks are asked for, with their ids.
    wanted: Vec<(String, usize)>,
    /// Size of the textures that are written.
    size: u32,
    /// Area that each layer covers in the bands so far, and all of it, in mm².
    covered: Vec<f64>,
    area: f64,
}

impl<'a> Bands<'a> {
    /// Works out what needs the whole surface, on the one that the context holds; `size` is what the bands have, `masks` the ids of layers whose masks they have as well.
    ///
    /// # Errors
    /// As [`super::evaluate`], and [`EvaluateError::NoLayer`].
    pub fn new(
        document: &Document,
        context: &'a Context<'a>,
        size: u32,
        masks: &[String],
    ) -> Result<Self, EvaluateError> {
        let plan = context.plan(document);
        let of: Vec<usize> = masks.iter().map(|id| plan.find(id)).collect::<Result<_, _>>()?;
        let anywhere = Anywhere::new(Arc::new(plan), context, &of)?;
        let covered = vec![0.0; 2 * anywhere.plan.layers.len()];
        Ok(Self { size, anywhere, wanted: masks.iter().cloned().zip(of).collect(), covered, area: 0.0 })
    }

    /// The channels that the piece has, with the greatest value of each that there can be.
    pub fn highest(&self) -> Highest {
        highest(&self.anywhere.plan)
    }

    /// How many rows fit into a budget of bytes.
    pub fn rows(&self, budget: usize) -> u32 {
        let components: usize = self.anywhere.plan.channels().iter().map(|(c, _)| c.bare.len()).sum();
        let planes = self.anywhere.plan.layers.len() + self.anywhere.width() + 3 * components + 2 * self.wanted.len();
        let row = self.size as usize * (ATLAS + 4 * planes);
        ((budget / row) as u32).clamp(64, self.size)
    }

    /// The channels of a band, margin included; its own texels are added to the coverage.
    ///
    /// # Errors
    /// [`EvaluateError::Cancelled`] when asked to stop.
    pub fn evaluate(&mut self, band: &Band) -> Result<Evaluation, EvaluateError> {
        if band.surface.atlas.is_empty() {
            return Ok(self.nothing());
        }
        let read = |plane: &[f32]| band.read(plane);
        let (channels, _, masks, computed) = self.anywhere.at(&band.surface, &read)?;
        let finer = finer::channels(&self.anywhere, &band.surface, &channels)?;
        let channels = finer.into_iter().map(|(kind, plane)| (kind, Arc::new(plane))).collect();
        let fringe = self.fringe(band, &channels)?;
        let own = band.own();
        self.area += band.surface.atlas.area[own.clone()].iter().map(|a| f64::from(*a)).sum::<f64>();
        let sums = sums(&self.anywhere.plan, &masks, &band.surface, self.anywhere.context.cancel, own)?;
        self.covered.iter_mut().zip(sums).for_each(|(c, s)| *c += s);
        let mut out = self.evaluation(channels, computed, fringe);
        if !self.wanted.is_empty() {
            let of: Vec<usize> = self.wanted.iter().map(|w| w.1).collect();
            let single = self.anywhere.masks(&of, &band.surface, &read)?;
            let fine = finer::masks(&self.anywhere, &band.surface, &of, &single)?;
            out.masks = self.wanted.iter().map(|w| w.0.clone()).zip(fine.into_iter().map(Arc::new)).collect();
        }
        Ok(out)
    }

    /// The channels of a patch, margin included, one sample a texel: what is looked at so closely that a texel is no larger than what is seen of it. Nothing is added to the coverage.
    ///
    /// # Errors
    /// [`EvaluateError::Cancelled`] when asked to stop.
    pub fn patch(&self, patch: &Band) -> Result<Evaluation, EvaluateError> {
        if patch.surface.atlas.is_empty() {
            return Ok(self.nothing());
        }
        let (channels, _, _, computed) = self.anywhere.at(&patch.surface, &|plane| patch.read(plane))?;
        let fringe = self.fringe(patch, &channels)?;
        Ok(self.evaluation(channels, computed, fringe))
    }

    /// Where no chart lies.
    fn nothing(&self) -> Evaluation {
        let channels = self.anywhere.plan.channels().iter().map(|(c, _)| (c.kind, Arc::new(vec![]))).collect();
        self.evaluation(channels, vec![], vec![])
    }

    fn evaluation(&self, channels: Channels, computed: Vec<String>, fringe: Vec<(u32, f32)>) -> Evaluation {
        let (keys, highest) = (BTreeMap::new(), highest(&self.anywhere.plan));
        Evaluation { channels, keys, highest, masks: BTreeMap::new(), coverage: vec![], computed, fringe }
    }

    /// Heights right beyond the borders of a band's charts; none where there is no relief, and so no slope to take.
    fn fringe(&self, band: &Band, channels: &Channels) -> Result<Vec<(u32, f32)>, EvaluateError> {
        if channels.get("height").is_none_or(|height| height.windows(2).all(|h| h[0] == h[1])) {
            return Ok(vec![]);
        }
        let fringe = band.fringe();
        if fringe.at.is_empty() {
            return Ok(vec![]);
        }
        let found = self.anywhere.at(&fringe.places.surface, &|plane| fringe.places.read(plane))?.0;
        Ok(fringe.at.into_iter().zip(found["height"].iter().copied()).collect())
    }

    /// Coverage over all bands that were evaluated.
    pub fn coverage(&self) -> Vec<LayerCoverage> {
        let share = |c: &f64| (c / self.area.max(1e-12)) as f32;
        shares(&self.anywhere.plan, &self.covered.iter().map(share).collect::<Vec<_>>())
    }
}

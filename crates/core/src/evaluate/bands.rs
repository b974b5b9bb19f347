//! Evaluation band by band, for textures that are too large to be worked out whole.
//!
//! Patterns, joins, pointwise shapers and finishes are evaluated at every texel of a band. What looks around — blur, borders, runs, creep, a cut by coverage — and what is
//! measured is worked out once on the whole surface at the largest size that is, and read between its texels.

use std::collections::BTreeMap;
use std::sync::Arc;

use super::coverage::{LayerCoverage, shares, sums};
use super::{
    Cache, Context, EvaluateError, Evaluation, Highest, Masks, Measured, Plan, coats, highest, mask_after, needs_of,
};
use crate::bake::{Band, MeasurementKey};
use crate::document::Document;
use crate::raster::Plane;

/// Bytes that a band may take, what is written from it not counted.
pub const BUDGET: usize = 1 << 30;
/// Bytes of a texel in the atlas, its place to look up and its share of the gutter.
const ATLAS: usize = 46;

/// A document worked out so far that its bands can be evaluated one by one.
pub struct Bands<'a> {
    context: &'a Context<'a>,
    plan: Plan,
    /// Size of the textures that are written.
    size: u32,
    /// By key at that size: what lines are after their last step that looks around, on the surface of the context.
    around: Vec<(blake3::Hash, Arc<Plane>)>,
    /// What is measured on that surface, by what it would be called at the size.
    measured: Vec<(String, Arc<Plane>)>,
    /// Area that each layer covers in the bands so far, and all of it, in mm².
    covered: Vec<f64>,
    area: f64,
}

impl<'a> Bands<'a> {
    /// Works out what needs the whole surface, on the one that the context holds; `size` is what the bands have.
    ///
    /// # Errors
    /// As [`super::evaluate`].
    pub fn new(document: &Document, context: &'a Context<'a>, size: u32) -> Result<Self, EvaluateError> {
        let surface = context.surface;
        let plan = context.plan(document);
        let last_whole = |i: usize| plan.layers[i].line.whole_before(plan.layers[i].line.ops.len());
        // Nobody asks for the lines of hidden layers, unless they are followed.
        let read = plan.read(plan.counting(), true);
        let reshaped: Vec<usize> = (0..plan.layers.len()).filter(|i| read[*i][0] && last_whole(*i) > 0).collect();
        let mut masks = Masks::new(&plan, context, reshaped.iter().copied(), false)?;
        let mut around = vec![];
        for i in reshaped {
            let given = masks.given(i)?;
            let (layer, upto) = (&plan.layers[i], last_whole(i));
            let plane = mask_after(&layer.line, upto, &layer.name, context, &given, &mut masks.computed)?;
            around.push((layer.line.after[upto - 1], plane));
        }
        let at = |key: &MeasurementKey, size| key.hash(&surface.piece.hash, size);
        let keys = needs_of(&plan);
        context.check_readings(keys.iter().collect())?;
        let measured =
            keys.iter().filter_map(|k| Some((at(k, size), context.measured.get(&at(k, surface.atlas.size))?.clone())));
        let measured = measured.collect();
        let covered = vec![0.0; 2 * plan.layers.len()];
        Ok(Self { context, size, around, measured, covered, area: 0.0, plan })
    }

    /// The channels that the piece has, with the greatest value of each that there can be.
    pub fn highest(&self) -> Highest {
        highest(&self.plan)
    }

    /// How many rows fit into a budget of bytes.
    pub fn rows(&self, budget: usize) -> u32 {
        let components: usize = self.plan.channels().iter().map(|(c, _)| c.bare.len()).sum();
        let texels = self.context.surface.atlas.len().max(1);
        let measured: usize = self.measured.iter().map(|m| m.1.len() / texels).sum();
        let planes = self.plan.layers.len() + self.around.len() + measured + 2 * components;
        let row = self.size as usize * (ATLAS + 4 * planes);
        ((budget / row) as u32).clamp(64, self.size)
    }

    /// The channels of a band, margin included; its own texels are added to the coverage.
    ///
    /// # Errors
    /// [`EvaluateError::Cancelled`] when asked to stop.
    pub fn evaluate(&mut self, band: &Band) -> Result<Evaluation, EvaluateError> {
        if band.surface.atlas.is_empty() {
            let channels = self.plan.channels().iter().map(|(c, _)| (c.kind, Arc::new(vec![]))).collect();
            let (keys, highest) = (BTreeMap::new(), highest(&self.plan));
            return Ok(Evaluation { channels, keys, highest, coverage: vec![], computed: vec![] });
        }
        let measured: Measured =
            self.measured.iter().map(|(hash, plane)| (hash.clone(), Arc::new(band.read(plane)))).collect();
        let none = Cache::new(0);
        let mut context = Context { surface: &band.surface, measured: &measured, cache: &none, ..*self.context };
        let known = |(hash, plane): &(blake3::Hash, Arc<Plane>)| {
            (context.key("mask", hash.to_hex().as_str()), Arc::new(band.read(plane)))
        };
        let cache = Cache::knowing(self.around.iter().map(known).collect(), 0);
        context.cache = &cache;
        let (channels, keys, masks, computed) = coats(&self.plan, &context)?;
        let own = band.own();
        self.area += band.surface.atlas.area[own.clone()].iter().map(|a| f64::from(*a)).sum::<f64>();
        let sums = sums(&self.plan, &masks, &context, own)?;
        self.covered.iter_mut().zip(sums).for_each(|(c, s)| *c += s);
        Ok(Evaluation { channels, keys, highest: highest(&self.plan), coverage: vec![], computed })
    }

    /// Coverage over all bands that were evaluated.
    pub fn coverage(&self) -> Vec<LayerCoverage> {
        let share = |c: &f64| (c / self.area.max(1e-12)) as f32;
        shares(&self.plan, &self.covered.iter().map(share).collect::<Vec<_>>())
    }
}

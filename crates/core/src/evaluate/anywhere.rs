//! A document worked out so far that it can be evaluated at any places of a surface: what looks around — blur, borders, runs, creep, a cut by coverage — and what is measured is
//! taken from the whole surface and read between its texels, all else is worked out at the places themselves.

use std::collections::BTreeMap;
use std::sync::Arc;

use super::{Cache, Coats, Context, EvaluateError, Masks, Measured, Plan, coats, each_once, mask_after, masks_of};
use crate::bake::{MeasurementKey, Surface};
use crate::raster::Plane;

/// What is taken from the whole surface.
pub(super) struct Anywhere<'a> {
    pub context: &'a Context<'a>,
    pub plan: Arc<Plan>,
    /// What lines are after their last step that looks around.
    around: Vec<(blake3::Hash, Arc<Plane>)>,
    measured: Vec<(MeasurementKey, Arc<Plane>)>,
}

impl<'a> Anywhere<'a> {
    /// Works out what needs the whole surface, which is the context's; for masks of the layers `also` as well, whether or not they are shown.
    pub fn new(plan: Arc<Plan>, context: &'a Context<'a>, also: &[usize]) -> Result<Self, EvaluateError> {
        let last_whole = |i: usize| plan.layers[i].line.whole_before(plan.layers[i].line.ops.len());
        // Nobody asks for the lines of hidden layers, unless they are followed.
        let read = plan.read(plan.counting().chain(also.iter().copied()), true);
        let reshaped: Vec<usize> = (0..plan.layers.len()).filter(|i| read[*i][0] && last_whole(*i) > 0).collect();
        let mut masks = Masks::new(&plan, context, reshaped.iter().copied(), false)?;
        let mut around = vec![];
        for i in reshaped {
            let given = masks.given(i)?;
            let (layer, upto) = (&plan.layers[i], last_whole(i));
            let plane = mask_after(&layer.line, upto, &layer.name, context, &given, &mut masks.computed)?;
            around.push((layer.line.after[upto - 1], plane));
        }
        drop(masks);
        let mut read = plan.needs(plan.counting(), true);
        read.extend(plan.needs(also.iter().copied(), false));
        let keys = each_once(read);
        context.check_readings(keys.iter().collect())?;
        let hash = |k: &MeasurementKey| k.hash(&context.surface.piece.hash, context.surface.atlas.size);
        let held = |k: MeasurementKey| Some((context.measured.get(&hash(&k))?.clone(), k));
        let measured = keys.into_iter().filter_map(held).map(|(plane, k)| (k, plane)).collect();
        Ok(Self { context, plan, around, measured })
    }

    /// How many values a place is given of what is known of the whole surface.
    pub fn width(&self) -> usize {
        let texels = self.context.surface.atlas.len().max(1);
        self.around.len() + self.measured.iter().map(|m| m.1.len() / texels).sum::<usize>()
    }

    /// The coats at some places, laid out as a surface; `read` gives what a plane of the whole surface holds there.
    pub fn at(&self, places: &Surface, read: &dyn Fn(&[f32]) -> Plane) -> Result<Coats, EvaluateError> {
        self.with(places, read, |context| coats(&self.plan, context))
    }

    /// The masks of some layers there, whether or not they are shown.
    pub fn masks(
        &self,
        of: &[usize],
        places: &Surface,
        read: &dyn Fn(&[f32]) -> Plane,
    ) -> Result<Vec<Arc<Plane>>, EvaluateError> {
        self.with(places, read, |context| masks_of(&self.plan, context, of))
    }

    fn with<T>(
        &self,
        places: &Surface,
        read: &dyn Fn(&[f32]) -> Plane,
        work: impl FnOnce(&Context) -> Result<T, EvaluateError>,
    ) -> Result<T, EvaluateError> {
        let size = places.atlas.size;
        let measured: Measured = self
            .measured
            .iter()
            .map(|(key, plane)| (key.hash(&places.piece.hash, size), Arc::new(read(plane))))
            .collect();
        let none = Cache::new(0);
        let mut context = Context { surface: places, measured: &measured, cache: &none, ..*self.context };
        let known = |(hash, plane): &(blake3::Hash, Arc<Plane>)| {
            (context.key("mask", hash.to_hex().as_str()), Arc::new(read(plane)))
        };
        let known: BTreeMap<String, Arc<Plane>> = self.around.iter().map(known).collect();
        let cache = Cache::knowing(known, 0);
        context.cache = &cache;
        work(&context)
    }
}

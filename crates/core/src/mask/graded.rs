//! Numbers that a mask drives, so that they differ from place to place.
//!
//! What has such numbers is made several times over, on a ladder of rungs from the number where the mask is 0 to the number where it is 1; each texel takes from the
//! two rungs that its own mask lies between. So no pattern and no shaper has to know that its numbers vary. Two driven numbers make a ladder of ladders.

use std::sync::Arc;

use super::field::{BATCH, Field, Fields};
use crate::bake::Surface;
use crate::setting::{ParamSpec, ParamType, Resolved};

/// Rungs for what is cheap and works value by value: fine enough that no step is seen.
pub const FINE: usize = 33;
/// Rungs for a pattern's own numbers.
pub const MIDDLE: usize = 9;
/// Rungs for a pattern's lengths, and for what asks what lies around.
pub const COARSE: usize = 5;

/// One number that a mask drives.
pub struct Driver {
    /// The setting.
    pub spec: ParamSpec,
    /// The mask that drives it.
    pub field: Arc<Field>,
    /// The number where the mask is 0.
    pub low: f64,
    /// The number where it is 1.
    pub high: f64,
}

impl Driver {
    /// The numbers of at most `most` rungs; whole ones once each.
    fn rungs(&self, most: usize) -> Vec<f64> {
        let apart = (self.high - self.low).abs();
        let whole = self.spec.kind == ParamType::Integer;
        let n = if whole { most.min(apart.round() as usize + 1) } else { most };
        if n < 2 || apart == 0.0 {
            return vec![self.low];
        }
        (0..n).map(|k| self.spec.between(self.low, self.high, k as f64 / (n - 1) as f64)).collect()
    }
}

/// Something made of settings, some of whose numbers may be driven.
pub enum Graded<T> {
    /// The same everywhere.
    Even(T),
    /// Along a mask: one for each rung, from 0 to 1.
    Along(Arc<Field>, Vec<Graded<T>>),
}

impl<T> Graded<T> {
    /// Makes it once, or once for every rung. `rungs` says how many there are for a number.
    pub fn new(
        settings: &Resolved,
        drivers: &[Driver],
        rungs: &dyn Fn(&ParamSpec) -> usize,
        make: &mut dyn FnMut(&Resolved) -> T,
    ) -> Self {
        let Some((first, others)) = drivers.split_first() else { return Graded::Even(make(settings)) };
        let one = |number: f64| {
            let settings = settings.clone().with_number(first.spec.key, number);
            Self::new(&settings, others, rungs, make)
        };
        Graded::Along(first.field.clone(), first.rungs(rungs(&first.spec)).into_iter().map(one).collect())
    }

    /// The same ladder of something else.
    pub fn map<U>(self, to: &dyn Fn(T) -> U) -> Graded<U> {
        match self {
            Graded::Even(one) => Graded::Even(to(one)),
            Graded::Along(by, rungs) => Graded::Along(by, rungs.into_iter().map(|r| r.map(to)).collect()),
        }
    }

    /// Every single one.
    pub fn each(&self) -> Vec<&T> {
        match self {
            Graded::Even(one) => vec![one],
            Graded::Along(_, rungs) => rungs.iter().flat_map(Graded::each).collect(),
        }
    }

    /// The masks that drive it.
    pub fn drivers(&self) -> Vec<&Field> {
        match self {
            Graded::Even(_) => vec![],
            Graded::Along(by, rungs) => {
                [by.as_ref()].into_iter().chain(rungs.first().into_iter().flat_map(Graded::drivers)).collect()
            }
        }
    }

    /// Runs it over a batch: `apply` writes what one of them makes of the batch that starts at `start`.
    pub fn run(
        &self,
        surface: &Surface,
        fields: &dyn Fields,
        start: usize,
        out: &mut [f32],
        apply: &mut dyn FnMut(&T, &mut [f32]),
    ) {
        match self {
            Graded::Even(one) => apply(one, out),
            Graded::Along(by, rungs) => {
                let mut t = [0.0f32; BATCH];
                let t = &mut t[..out.len()];
                by.fill(surface, fields, start, t);
                blend(t, rungs.len(), false, out, &mut |k, out| rungs[k].run(surface, fields, start, out, apply));
            }
        }
    }
}

/// How much the `k`-th of `rungs` rungs counts where the mask is `t`.
#[inline(always)]
pub fn share(t: f32, k: usize, rungs: usize) -> f32 {
    (1.0 - (t * (rungs - 1) as f32 - k as f32).abs()).max(0.0)
}

/// Puts together what the rungs give; those that no texel of the batch asks for are left out. Where two `unlike` patterns overlap they would grey each other out:
/// their spread is kept, as Heitz & Neyret (2018) keep it.
pub fn blend(t: &[f32], rungs: usize, unlike: bool, out: &mut [f32], fill: &mut dyn FnMut(usize, &mut [f32])) {
    let before: Vec<f32> = out.to_vec();
    out.fill(0.0);
    let mut one = vec![0.0f32; out.len()];
    for k in (0..rungs).filter(|k| t.iter().any(|t| share(*t, *k, rungs) > 0.0)) {
        one.copy_from_slice(&before);
        fill(k, &mut one);
        for ((out, t), v) in out.iter_mut().zip(t).zip(&one) {
            *out += share(*t, k, rungs) * v;
        }
    }
    if unlike && rungs > 1 {
        for (out, t) in out.iter_mut().zip(t) {
            let into = (t * (rungs - 1) as f32).fract();
            let kept = (into * into + (1.0 - into) * (1.0 - into)).sqrt();
            *out = (0.5 + (*out - 0.5) / kept).clamp(0.0, 1.0);
        }
    }
}

/// How much of a step's effect is taken.
pub enum Amount {
    /// The same everywhere.
    Even(f32),
    /// From the first number where the mask is 0 to the second where it is 1.
    Along(Arc<Field>, f32, f32),
}

impl Amount {
    /// The greatest that it gets.
    pub fn highest(&self) -> f32 {
        match self {
            Amount::Even(number) => *number,
            Amount::Along(_, low, high) => low.max(*high),
        }
    }

    /// The mask that drives it.
    pub fn driver(&self) -> Option<&Field> {
        match self {
            Amount::Even(_) => None,
            Amount::Along(by, ..) => Some(by),
        }
    }
}

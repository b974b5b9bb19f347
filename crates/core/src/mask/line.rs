//! A mask line with every setting worked out, run over batches of covered texels.
//!
//! Consecutive pointwise steps run fused: one batch goes through all of them while it is in the cache. A step that asks what lies around ends such a run; the mask
//! before it is made whole first.

use std::ops::Range;
use std::sync::Arc;

use super::bring::{Around, Bringing, hash_step};
use super::field::{BATCH, Field, Fields, Lays};
use super::graded::{Amount, COARSE, Driver, FINE, Graded};
use super::join::Join;
use super::shaper::{BorderShape, Reshape, Shape, Shaper, Work};
use super::{MaskLine, StepKind};
use crate::bake::{MeasurementKey, Surface};
use crate::pin::{ByHand, Pin};
use crate::setting::{DialStates, Resolved, resolve};
use crate::stroke::Strokes;

/// One step, worked out.
pub enum Op {
    /// m ← mix(m, m ⊕ f, amount)
    Join(Join, Amount, Field),
    /// m ← mix(m, g(m), amount), value by value.
    Shape(Amount, Graded<Shape>),
    /// The same, by how far each texel lies from the mask's border; told within that many mm and a texel.
    Border(Amount, f32, Graded<BorderShape>),
    /// The same, over the whole mask.
    Reshape(Amount, Graded<Reshape>),
}

impl Op {
    /// Whether it asks what lies around, and so needs the whole mask before it.
    pub fn is_whole(&self) -> bool {
        matches!(self, Op::Border(..) | Op::Reshape(..))
    }

    /// How much of it is taken.
    pub fn amount(&self) -> &Amount {
        match self {
            Op::Join(_, amount, _) | Op::Shape(amount, _) | Op::Border(amount, ..) | Op::Reshape(amount, _) => amount,
        }
    }

    /// The fields that it reads: what it brings in and the masks that drive its numbers. Those that are made of others come as they are.
    pub fn fields(&self) -> Vec<&Field> {
        let mut all: Vec<&Field> = match self {
            Op::Join(_, _, field) => vec![field],
            Op::Shape(_, graded) => graded.drivers(),
            Op::Border(_, _, graded) => graded.drivers(),
            Op::Reshape(_, graded) => graded.drivers(),
        };
        all.extend(self.amount().driver());
        all
    }
}

/// A line, worked out.
pub struct Line {
    /// The steps that do anything, with their ids.
    pub ops: Vec<(String, Op)>,
    /// blake3 of everything the mask depends on but for piece and size.
    pub hash: blake3::Hash,
    /// The same of the mask as it stands after each of `ops`.
    pub after: Vec<blake3::Hash>,
}

impl Default for Line {
    /// A line without steps.
    fn default() -> Self {
        Line { ops: vec![], hash: blake3::Hasher::new().finalize(), after: vec![] }
    }
}

impl Line {
    /// Works a line out. Steps of unknown kinds can't be in a validated document and are skipped.
    pub fn new(line: &MaskLine, dials: &DialStates, around: &mut dyn Around) -> Line {
        let mut h = blake3::Hasher::new();
        let (mut ops, mut after) = (vec![], vec![]);
        for step in line.steps.iter().filter(|s| s.on) {
            let Some(kind) = StepKind::find(&step.kind) else { continue };
            let mut own = blake3::Hasher::new();
            let mut bringing = Bringing { dials, around };
            let amount = bringing.amount(&step.amount, &mut own);
            if matches!(amount, Amount::Even(0.0)) {
                continue;
            }
            let specs = kind.specs();
            let mut driven = blake3::Hasher::new();
            let drivers = bringing.drivers(specs, &step.settings, &mut driven);
            own.update(driven.finalize().as_bytes());
            let settings = resolve(specs, &step.settings, dials);
            let op = match kind {
                StepKind::Shaper(s) => {
                    hash_step(&step.kind, &settings, &mut own);
                    shaping(s, amount, &settings, &drivers)
                }
                _ if kind.is_by_hand() => {
                    let none = Strokes::default();
                    let elsewhere = bringing.around.is_drawn_elsewhere();
                    let by_hand = if elsewhere { ByHand { strokes: &none, spot: None } } else { step.by_hand() };
                    Op::Join(step.join, amount, bringing.by_hand(kind, &settings, by_hand, &mut own))
                }
                _ => Op::Join(
                    step.join,
                    amount,
                    bringing.field(&step.kind, kind, &settings, (&drivers, &driven), &mut own),
                ),
            };
            h.update(own.finalize().as_bytes());
            h.update(&[step.join as u8]);
            ops.push((step.id.clone(), op));
            after.push(h.finalize());
        }
        Line { ops, hash: h.finalize(), after }
    }

    /// Whether it shows everything.
    pub fn is_even(&self) -> bool {
        self.ops.is_empty()
    }

    /// All fields that it reads, those that others are made of included.
    pub fn fields(&self) -> Vec<&Field> {
        self.ops.iter().flat_map(|(_, op)| op.fields()).flat_map(Field::all).collect()
    }

    /// The pins of its steps, in their order, each with a hash of all that it depends on.
    pub fn pins(&self) -> Vec<(Arc<Pin>, String)> {
        let pin = |(_, op): &(String, Op)| match op {
            Op::Join(_, _, Field::Pinned(_, Lays::Mask(pin), hash)) => Some((pin.clone(), hash.clone())),
            _ => None,
        };
        self.ops.iter().filter_map(pin).collect()
    }

    /// The measurements it needs.
    pub fn needs(&self) -> impl Iterator<Item = &MeasurementKey> {
        self.fields().into_iter().filter_map(|field| match field {
            Field::Reading(_, _, key) => key.as_ref(),
            _ => None,
        })
    }

    /// How many of the first `upto` steps there are up to the last one that asks what lies around, that one included.
    pub fn whole_before(&self, upto: usize) -> usize {
        self.ops[..upto].iter().rposition(|(_, op)| op.is_whole()).map_or(0, |i| i + 1)
    }

    /// Runs some pointwise steps over the covered texels from `start` on, at most [`BATCH`] of them: `m` holds the mask before the first of them.
    /// Calls `after` with the mask after each step.
    pub fn run(
        &self,
        steps: Range<usize>,
        surface: &Surface,
        fields: &dyn Fields,
        start: usize,
        m: &mut [f32],
        mut after: impl FnMut(usize, &[f32]),
    ) {
        let mut f = [0.0f32; BATCH];
        let f = &mut f[..m.len()];
        for i in steps {
            let op = &self.ops[i].1;
            let join = match op {
                // At the beginning of a line there is nothing to draw over: it shows where something was drawn.
                Op::Join(Join::Replace, _, field) if i > 0 && field.lies_over() => {
                    f.copy_from_slice(m);
                    field.over(surface, fields, start, f);
                    Join::Replace
                }
                Op::Join(join, _, field) => {
                    field.fill(surface, fields, start, f);
                    *join
                }
                // Taken as it is: shapers stay within 0 to 1 by themselves.
                Op::Shape(Amount::Even(1.0), Graded::Even(shape)) => {
                    shape(m);
                    after(i, m);
                    continue;
                }
                Op::Shape(_, graded) => {
                    f.copy_from_slice(m);
                    graded.run(surface, fields, start, f, &mut |shape, m| shape(m));
                    Join::Replace
                }
                Op::Border(..) | Op::Reshape(..) => {
                    unreachable!("steps that ask what lies around are never in a fused run")
                }
            };
            op.amount().join(join, surface, fields, start, m, f);
            after(i, m);
        }
    }
}

/// A shaper's step.
fn shaping(shaper: &Shaper, amount: Amount, settings: &Resolved, drivers: &[Driver]) -> Op {
    let made = |rungs: usize| Graded::new(settings, drivers, &|_| rungs, &mut |s| (shaper.work)(s));
    let wrong = "what a shaper works on hangs on its choices, which nothing drives";
    match (shaper.work)(settings) {
        Work::Point(_) => Op::Shape(
            amount,
            made(FINE).map(&|w| match w {
                Work::Point(shape) => shape,
                _ => unreachable!("{wrong}"),
            }),
        ),
        Work::Border(..) => {
            let graded = made(FINE);
            let reach = |w: &&Work| if let Work::Border(reach, _) = w { *reach } else { 0.0 };
            let reach = graded.each().iter().map(reach).fold(0.0, f32::max);
            let shape = |w| match w {
                Work::Border(_, shape) => shape,
                _ => unreachable!("{wrong}"),
            };
            Op::Border(amount, reach, graded.map(&shape))
        }
        Work::Whole(_) => Op::Reshape(
            amount,
            made(COARSE).map(&|w| match w {
                Work::Whole(reshape) => reshape,
                _ => unreachable!("{wrong}"),
            }),
        ),
    }
}

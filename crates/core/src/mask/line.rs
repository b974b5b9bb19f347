//! A mask line with every setting worked out, run over batches of covered texels.
//!
//! Consecutive pointwise steps run fused: one batch goes through all of them while it is in the cache. A step that asks what lies around ends such a run; the mask
//! before it is made whole first. Fields that are worth keeping (patterns) come in through [`Fields`],
//! which the evaluator backs with its cache and which may also compute them on the spot.

use std::ops::Range;
use std::sync::Arc;

use super::join::Join;
use super::shaper::{Reshape, Shape, Work};
use super::source::Origin;
use super::{MaskLine, StepKind, amount_spec};
use crate::bake::reading::Run;
use crate::bake::{MeasurementKey, Surface, reading};
use crate::finish::channel::{self, Channel};
use crate::pattern;
use crate::pattern::picture::PictureField;
use crate::raster::Plane;
use crate::raster::pyramid::MaskPicture;
use crate::setting::{DialStates, Resolved, Value, resolve, resolve_one};

/// Texels per batch: two buffers of it fit the first-level cache with room to spare.
pub const BATCH: usize = 4096;

/// Planes that a line reads: measurements and cached pattern fields, by hash.
pub trait Fields: Sync {
    /// The plane of a hash, one value per covered texel, or none when it must be computed on the spot.
    fn plane(&self, hash: &str) -> Option<Arc<Plane>>;
}

/// What a source brings in.
pub enum Field {
    /// A reading with the step's settings, and the measurement that it is read from, if it costs rays.
    Reading(&'static reading::Reading, Resolved, Option<MeasurementKey>),
    /// A source that is computed on the spot.
    Source(fn(&Surface, &Resolved, usize, &mut [f32]), Resolved),
    /// Another layer's mask: its index in the plan, and its hash.
    Layer(usize, String),
    /// A channel of what lies below: which one, the value of its components, the step's settings, and a hash of it all.
    Below(&'static Channel, fn(&Resolved, &[f32]) -> f32, Resolved, String),
    /// Nothing anywhere: what was to be brought in is gone.
    Nothing,
    /// A pattern and the hash of its settings.
    Pattern(pattern::Placed, String),
}

/// What a line reads of the document around it.
pub trait Around {
    /// The measurement that a reading is read from, if it costs rays.
    fn measured(&mut self, reading: &reading::Reading) -> Option<MeasurementKey>;
    /// A picture for masks by its file name: its hash and its numbers.
    fn picture(&mut self, name: &str) -> Option<(String, Arc<MaskPicture>)>;
    /// The layer that publishes its mask under a name: its index in the plan, and the hash of its mask.
    fn follow(&mut self, name: &str) -> Option<(usize, blake3::Hash)>;
    /// The hash of a channel of what lies below.
    fn below(&mut self, channel: &'static Channel) -> blake3::Hash;
}

/// One step, worked out.
pub enum Op {
    /// m ← mix(m, m ⊕ f, amount)
    Join(Join, f32, Field),
    /// m ← mix(m, g(m), amount), value by value.
    Shape(f32, Shape),
    /// The same, over the whole mask.
    Reshape(f32, Reshape),
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
            let Value::Number(amount) = resolve_one(&amount_spec(), Some(&step.amount), dials) else { continue };
            if amount == 0.0 {
                continue;
            }
            let settings = resolve(&kind.specs(), &step.settings, dials);
            let key = if let StepKind::Reading(r) = kind { around.measured(r) } else { None };
            let mut own = blake3::Hasher::new();
            own.update(step.kind.as_bytes());
            settings.hash_into(&mut own);
            if let Some(key) = &key {
                key.settings.hash_into(&mut own);
            }
            let mut brought = Field::Nothing;
            if let StepKind::Source(s) = kind {
                brought = match s.origin {
                    Origin::Here(fill) => Field::Source(fill, settings.clone()),
                    Origin::Picture(name) => match around.picture(&name(&settings)) {
                        Some((hash, picture)) => {
                            own.update(hash.as_bytes());
                            let field = Box::new(PictureField::new(&picture, &settings));
                            let hash = own.clone().finalize().to_hex().to_string();
                            Field::Pattern(pattern::Placed::of(field, &settings), hash)
                        }
                        None => Field::Nothing,
                    },
                    Origin::Follow(name) => match around.follow(&name(&settings)) {
                        Some((index, hash)) => {
                            own.update(hash.as_bytes());
                            Field::Layer(index, hash.to_hex().to_string())
                        }
                        None => Field::Nothing,
                    },
                    Origin::Below(channel, value) => match channel::find(channel(&settings)) {
                        Some(channel) => {
                            own.update(around.below(channel).as_bytes());
                            let hash = own.clone().finalize().to_hex().to_string();
                            Field::Below(channel, value, settings.clone(), hash)
                        }
                        None => Field::Nothing,
                    },
                };
            }
            let own = own.finalize();
            h.update(own.as_bytes()).update(&amount.to_bits().to_le_bytes());
            h.update(&[step.join as u8]);
            let amount = amount as f32;
            let op = match kind {
                StepKind::Shaper(s) => match (s.work)(&settings) {
                    Work::Point(shape) => Op::Shape(amount, shape),
                    Work::Whole(reshape) => Op::Reshape(amount, reshape),
                },
                StepKind::Source(_) => Op::Join(step.join, amount, brought),
                StepKind::Pattern(p) => Op::Join(
                    step.join,
                    amount,
                    Field::Pattern(pattern::Placed::new(p, &settings), own.to_hex().to_string()),
                ),
                StepKind::Reading(r) => Op::Join(step.join, amount, Field::Reading(r, settings, key)),
            };
            ops.push((step.id.clone(), op));
            after.push(h.finalize());
        }
        Line { ops, hash: h.finalize(), after }
    }

    /// Whether it shows everything.
    pub fn is_even(&self) -> bool {
        self.ops.is_empty()
    }

    /// The measurements it needs.
    pub fn needs(&self) -> impl Iterator<Item = &MeasurementKey> {
        self.ops.iter().filter_map(|(_, op)| match op {
            Op::Join(_, _, Field::Reading(_, _, key)) => key.as_ref(),
            _ => None,
        })
    }

    /// How many of the first `upto` steps there are up to the last one that asks what lies around, that one included.
    pub fn whole_before(&self, upto: usize) -> usize {
        self.ops[..upto].iter().rposition(|(_, op)| matches!(op, Op::Reshape(..))).map_or(0, |i| i + 1)
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
            match op {
                Op::Join(join, amount, field) => {
                    field.fill(surface, fields, start, f);
                    join.apply(*amount, m, f);
                }
                Op::Shape(amount, shape) => {
                    f.copy_from_slice(m);
                    shape(f);
                    Join::Replace.apply(*amount, m, f);
                }
                Op::Reshape(..) => unreachable!("steps that ask what lies around are never in a fused run"),
            }
            after(i, m);
        }
    }
}

impl Field {
    /// Values 0…1 for the covered texels from `start` on.
    pub fn fill(&self, surface: &Surface, fields: &dyn Fields, start: usize, out: &mut [f32]) {
        let copy = |plane: Arc<Plane>, out: &mut [f32]| out.copy_from_slice(&plane[start..start + out.len()]);
        match self {
            Field::Reading(r, settings, key) => {
                // The evaluator refuses to start without its measurements; 0 is what "nothing measured" means elsewhere.
                let hash = key.as_ref().map(|k| k.hash(&surface.piece.hash, surface.atlas.size));
                let planes = hash.and_then(|h| fields.plane(&h));
                r.fill(&Run { surface, start }, settings, planes.as_deref(), out);
            }
            Field::Source(fill, settings) => fill(surface, settings, start, out),
            Field::Layer(_, hash) | Field::Below(_, _, _, hash) => match fields.plane(hash) {
                Some(plane) => copy(plane, out),
                None => out.fill(0.0),
            },
            Field::Nothing => out.fill(0.0),
            Field::Pattern(pattern, hash) => match fields.plane(hash) {
                Some(plane) => copy(plane, out),
                None => pattern.fill(surface, start, out),
            },
        }
    }
}

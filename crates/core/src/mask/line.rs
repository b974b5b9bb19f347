//! A mask line with every setting worked out, run over batches of covered texels.
//!
//! Consecutive pointwise steps run fused: one batch goes through all of them while it is in the cache. A step that asks what lies around ends such a run; the mask
//! before it is made whole first. Fields that are worth keeping (patterns) come in through [`Fields`],
//! which the evaluator backs with its cache and which may also compute them on the spot.

use std::ops::Range;
use std::sync::Arc;

use super::graded::{Amount, COARSE, Driver, FINE, Graded, MIDDLE, blend};
use super::join::Join;
use super::shaper::{BorderShape, Reshape, Shape, Shaper, Work};
use super::source::Origin;
use super::{MaskLine, StepKind, amount_spec};
use crate::bake::reading::Run;
use crate::bake::{MeasurementKey, Surface, reading};
use crate::finish::channel::{self, Channel};
use crate::pattern;
use crate::pattern::picture::PictureField;
use crate::raster::Plane;
use crate::raster::pyramid::MaskPicture;
use crate::setting::{
    DialStates, MaskDrive, MaskSource, Param, ParamSpec, Resolved, Settings, Value, resolve, resolve_one,
};

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
    /// One value everywhere.
    Even(f32),
    /// Nothing anywhere: what was to be brought in is gone.
    Nothing,
    /// A pattern and the hash of its settings.
    Pattern(pattern::Placed, String),
    /// Made on a ladder, since a mask drives one of its numbers.
    Graded(Box<Ladder>),
}

/// A field at several numbers, and the mask that picks between them.
pub struct Ladder {
    /// Picks: the first rung where it is 0, the last where it is 1.
    pub by: Arc<Field>,
    /// From the first number to the last.
    pub rungs: Vec<Field>,
    /// Neighbouring rungs have little in common: patterns of other lengths.
    pub unlike: bool,
    /// Of everything that it depends on.
    pub hash: String,
}

/// What a line reads of the document around it.
pub trait Around {
    /// The measurement that a reading is read from, if it costs rays.
    fn measured(&mut self, reading: &reading::Reading) -> Option<MeasurementKey>;
    /// A picture for masks by its file name: its hash and its numbers.
    fn picture(&mut self, name: &str) -> Option<(String, Arc<MaskPicture>)>;
    /// The layer that publishes its mask under a name: its index in the plan, and the hash of its mask.
    fn follow(&mut self, name: &str) -> Option<(usize, blake3::Hash)>;
    /// The layer's own mask, for the values of its finish: its index in the plan, and the hash of its mask.
    fn own(&mut self) -> Option<(usize, blake3::Hash)> {
        None
    }
    /// The name of the use that the layer belongs to, all that hold it included; empty outside of recipes.
    fn within(&mut self) -> String {
        String::new()
    }
    /// The hash of a channel of what lies below.
    fn below(&mut self, channel: &'static Channel) -> blake3::Hash;
}

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
            let drivers = bringing.drivers(&specs, &step.settings, &mut driven);
            own.update(driven.finalize().as_bytes());
            let settings = resolve(&specs, &step.settings, dials);
            let op = match kind {
                StepKind::Shaper(s) => {
                    hash_step(&step.kind, &settings, &mut own);
                    shaping(s, amount, &settings, &drivers)
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

/// Works out what steps and finishes bring in.
pub struct Bringing<'a> {
    /// What the dials stand at.
    pub dials: &'a DialStates,
    /// What lies around.
    pub around: &'a mut dyn Around,
}

impl Bringing<'_> {
    /// How much of something is taken. `own` is told everything that it depends on.
    pub fn amount(&mut self, param: &Param, own: &mut blake3::Hasher) -> Amount {
        self.number(&amount_spec(), Some(param), own)
    }

    /// A number that may vary along a mask.
    pub fn number(&mut self, spec: &ParamSpec, param: Option<&Param>, own: &mut blake3::Hasher) -> Amount {
        if let Some(Param::Mask(drive)) = param {
            let driver = self.driver(spec.clone(), drive, own);
            return Amount::Along(driver.field, driver.low as f32, driver.high as f32);
        }
        let Value::Number(amount) = resolve_one(spec, param, self.dials) else {
            return Amount::Even(0.0);
        };
        own.update(&amount.to_bits().to_le_bytes());
        Amount::Even(amount as f32)
    }

    /// The numbers of a step that masks drive.
    fn drivers(&mut self, specs: &[ParamSpec], settings: &Settings, own: &mut blake3::Hasher) -> Vec<Driver> {
        let driven = settings.iter().filter_map(|(key, param)| match param {
            Param::Mask(drive) => Some((specs.iter().find(|s| s.key == key)?.clone(), drive)),
            _ => None,
        });
        driven.map(|(spec, drive)| self.driver(spec, drive, own)).collect()
    }

    fn driver(&mut self, spec: ParamSpec, drive: &MaskDrive, own: &mut blake3::Hasher) -> Driver {
        own.update(spec.key.as_bytes());
        own.update(&drive.low.to_bits().to_le_bytes()).update(&drive.high.to_bits().to_le_bytes());
        Driver { spec, field: Arc::new(self.brought(&drive.mask, own)), low: drive.low, high: drive.high }
    }

    /// The mask that drives something. `own` is told everything that it depends on.
    pub fn brought(&mut self, source: &MaskSource, own: &mut blake3::Hasher) -> Field {
        let Some(kind) = StepKind::find(&source.kind) else { return Field::Nothing };
        let settings = resolve(&kind.specs(), &source.settings, self.dials);
        let mut inner = blake3::Hasher::new();
        let field = self.even_field(&source.kind, kind, &settings, &mut inner);
        own.update(inner.finalize().as_bytes());
        field
    }

    /// The colours of a picture, red, green and blue; none when the picture is gone. `own` is told everything that it depends on.
    pub fn colors(&mut self, source: &MaskSource, own: &mut blake3::Hasher) -> Option<[Field; 3]> {
        let kind = StepKind::find(&source.kind)?;
        let StepKind::Source(s) = kind else { return None };
        let Origin::Colors(name) = s.origin else { return None };
        let settings = resolve(&kind.specs(), &source.settings, self.dials);
        hash_step(&source.kind, &settings, own);
        let (hash, picture) = self.around.picture(&name(&settings))?;
        own.update(hash.as_bytes());
        let all = PictureField::colors(&picture, &settings);
        let mut component = 0u8;
        Some(all.map(|field| {
            component += 1;
            let hash = own.clone().update(&[component]).finalize().to_hex().to_string();
            Field::Pattern(pattern::Placed::of(Box::new(field), &settings), hash)
        }))
    }

    /// What a source brings in. `own` is told everything that it depends on.
    fn field(
        &mut self,
        name: &str,
        kind: StepKind,
        settings: &Resolved,
        (drivers, driven): (&[Driver], &blake3::Hasher),
        own: &mut blake3::Hasher,
    ) -> Field {
        let rungs = |spec: &ParamSpec| match kind {
            StepKind::Reading(_) => FINE,
            _ if spec.log => COARSE,
            _ => MIDDLE,
        };
        let mut hashes = driven.clone();
        let graded = Graded::new(settings, drivers, &rungs, &mut |settings| {
            let mut one = blake3::Hasher::new();
            let field = self.even_field(name, kind, settings, &mut one);
            hashes.update(one.finalize().as_bytes());
            field
        });
        own.update(hashes.finalize().as_bytes());
        let unlike: Vec<bool> = drivers.iter().map(|d| d.spec.log && !matches!(kind, StepKind::Reading(_))).collect();
        ladder(graded, &unlike, &mut hashes)
    }

    fn even_field(&mut self, name: &str, kind: StepKind, settings: &Resolved, own: &mut blake3::Hasher) -> Field {
        hash_step(name, settings, own);
        let hash = |own: &blake3::Hasher| own.finalize().to_hex().to_string();
        match kind {
            StepKind::Reading(r) => {
                let key = self.around.measured(r);
                if let Some(key) = &key {
                    key.settings.hash_into(own);
                }
                Field::Reading(r, settings.clone(), key)
            }
            StepKind::Pattern(p) => Field::Pattern(pattern::Placed::new(p, settings), hash(own)),
            StepKind::Source(s) => match s.origin {
                Origin::Here(fill) => Field::Source(fill, settings.clone()),
                Origin::Picture(name) => match self.around.picture(&name(settings)) {
                    Some((picture_hash, picture)) => {
                        own.update(picture_hash.as_bytes());
                        let field = Box::new(PictureField::new(&picture, settings));
                        Field::Pattern(pattern::Placed::of(field, settings), hash(own))
                    }
                    None => Field::Nothing,
                },
                // Colours are no mask: they come in by `colors`.
                Origin::Colors(_) => Field::Nothing,
                Origin::Use(seed) => {
                    let name = self.around.within();
                    own.update(name.as_bytes());
                    let [a, b, c, d, ..] = *blake3::hash(name.as_bytes()).as_bytes();
                    Field::Even(reading::random(u32::from_le_bytes([a, b, c, d]), seed(settings)))
                }
                Origin::Follow(name) => match self.around.follow(&name(settings)) {
                    Some((index, mask)) => {
                        own.update(mask.as_bytes());
                        Field::Layer(index, mask.to_hex().to_string())
                    }
                    None => Field::Nothing,
                },
                Origin::Own => match self.around.own() {
                    Some((index, mask)) => {
                        own.update(mask.as_bytes());
                        Field::Layer(index, mask.to_hex().to_string())
                    }
                    None => Field::Nothing,
                },
                Origin::Below(channel, value) => match channel::find(channel(settings)) {
                    Some(channel) => {
                        own.update(self.around.below(channel).as_bytes());
                        Field::Below(channel, value, settings.clone(), hash(own))
                    }
                    None => Field::Nothing,
                },
            },
            StepKind::Shaper(_) => Field::Nothing,
        }
    }
}

fn hash_step(kind: &str, settings: &Resolved, own: &mut blake3::Hasher) {
    own.update(kind.as_bytes());
    settings.hash_into(own);
}

/// Fields on a ladder as one field. `unlike` says of each driven number whether its rungs have little in common; `hash` knows all that they depend on.
fn ladder(graded: Graded<Field>, unlike: &[bool], hash: &mut blake3::Hasher) -> Field {
    match graded {
        Graded::Even(field) => field,
        Graded::Along(by, rungs) => {
            let rungs = rungs.into_iter().map(|r| ladder(r, &unlike[1..], hash)).collect();
            // Each ladder within a ladder has a hash of its own.
            hash.update(b"|");
            Field::Graded(Box::new(Ladder { by, rungs, unlike: unlike[0], hash: hash.finalize().to_hex().to_string() }))
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

impl Amount {
    /// The amounts of a batch.
    pub fn fill(&self, surface: &Surface, fields: &dyn Fields, start: usize, out: &mut [f32]) {
        match self {
            Amount::Even(amount) => out.fill(*amount),
            Amount::Along(by, low, high) => {
                by.fill(surface, fields, start, out);
                out.iter_mut().for_each(|t| *t = low + (high - low) * *t);
            }
        }
    }

    /// m ← mix(m, m ⊕ f, amount) over a batch.
    pub fn join(&self, join: Join, surface: &Surface, fields: &dyn Fields, start: usize, m: &mut [f32], f: &[f32]) {
        match self {
            Amount::Even(amount) => join.apply(*amount, m, f),
            Amount::Along(..) => {
                let mut t = [0.0f32; BATCH];
                let t = &mut t[..m.len()];
                self.fill(surface, fields, start, t);
                join.apply_by(t, m, f);
            }
        }
    }
}

impl Field {
    /// Itself and all that it is made of.
    pub fn all(&self) -> Vec<&Field> {
        match self {
            Field::Graded(ladder) => [self, ladder.by.as_ref()]
                .into_iter()
                .chain(ladder.by.all())
                .chain(ladder.rungs.iter().flat_map(Field::all))
                .collect(),
            _ => vec![self],
        }
    }

    /// The hash of a field that is worth keeping.
    pub fn kept(&self) -> Option<&str> {
        match self {
            Field::Pattern(_, hash) => Some(hash),
            Field::Graded(ladder) => Some(&ladder.hash),
            _ => None,
        }
    }

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
            Field::Even(value) => out.fill(*value),
            Field::Nothing => out.fill(0.0),
            Field::Pattern(pattern, hash) => match fields.plane(hash) {
                Some(plane) => copy(plane, out),
                None => pattern.fill(surface, start, out),
            },
            Field::Graded(ladder) => match fields.plane(&ladder.hash) {
                Some(plane) => copy(plane, out),
                None => {
                    let mut t = vec![0.0f32; out.len()];
                    ladder.by.fill(surface, fields, start, &mut t);
                    let rungs = &ladder.rungs;
                    blend(&t, rungs.len(), ladder.unlike, out, &mut |k, out| {
                        rungs[k].fill(surface, fields, start, out);
                    });
                }
            },
        }
    }
}

//! What sources bring into a line, batch by batch. Fields that are worth keeping (patterns, ladders) come in through [`Fields`], which the evaluator backs with its
//! cache; what it doesn't hold is computed on the spot.

use std::sync::Arc;

use super::graded::{Amount, blend};
use super::join::Join;
use crate::bake::reading::Run;
use crate::bake::{Atlas, MeasurementKey, Surface, reading};
use crate::finish::channel::Channel;
use crate::pattern;
use crate::pin::{Pin, Pinned};
use crate::raster::Plane;
use crate::raster::pyramid::Levels;
use crate::setting::Resolved;
use crate::stroke::{Drawing, Stroke, Strokes};

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
    /// What was painted for the UVs.
    Painted(Painted),
    /// What was drawn by hand.
    Drawn(Box<Drawn>),
    /// What pins lay: a mask, or a value of a finish, and a hash of it all.
    Pinned(Box<Pinned>, Lays, String),
    /// Made on a ladder, since a mask drives one of its numbers.
    Graded(Box<Ladder>),
}

/// A number of a picture that was painted for the UVs.
pub struct Painted {
    /// Its numbers.
    pub levels: Arc<Levels>,
    /// Full where the picture is dark.
    pub negative: bool,
    /// The sheet that it is laid on, or all of them.
    pub sheet: Option<usize>,
}

impl Painted {
    /// The numbers under the covered texels from `start` on, evened out over a texel; 0 on other sheets.
    fn fill(&self, atlas: &Atlas, start: usize, out: &mut [f32]) {
        let texels = self.levels.levels[0].width as f32 / atlas.size as f32;
        for (i, v) in out.iter_mut().enumerate() {
            let (uv, sheet) = atlas.uv(start + i);
            *v = match self.sheet {
                Some(wanted) if wanted != sheet => 0.0,
                _ if self.negative => 1.0 - self.levels.evened(uv, texels),
                _ => self.levels.evened(uv, texels),
            };
        }
    }
}

/// What pins lay.
#[derive(Clone)]
pub enum Lays {
    /// A mask; and the pin itself, which the layer's finish lies by.
    Mask(Arc<Pin>),
    /// A value of a finish, as it is where anything of it is laid.
    Value,
}

/// What was drawn by hand. Of what is held of it by a hash, the first half is laid down and the second left of the mask before.
pub struct Drawn {
    /// The strokes, hidden ones among them.
    pub strokes: Strokes,
    /// A hash of what is drawn after each of the last strokes that are, the whole at the end: from one of these on, new ones are drawn.
    pub after: Vec<String>,
    /// All of them, ready to be drawn.
    pub drawing: Drawing,
}

impl Drawn {
    /// As many of the last strokes may be new, and only they be drawn.
    pub const NEW: usize = 16;

    /// The strokes that are drawn: those that are shown and whose points are at hand.
    pub fn shown(&self) -> impl Iterator<Item = &Stroke> {
        self.strokes.iter().filter(|s| s.is_drawn())
    }

    fn hash(&self) -> Option<&str> {
        self.after.last().map(String::as_str)
    }

    /// What is laid down on the covered texels from `start` on, and what is left of the mask before.
    fn fill(&self, surface: &Surface, fields: &dyn Fields, start: usize, add: &mut [f32], keep: &mut [f32]) {
        match self.hash().and_then(|hash| fields.plane(hash)) {
            Some(both) => {
                let (added, kept) = both.split_at(both.len() / 2);
                add.copy_from_slice(&added[start..start + add.len()]);
                keep.copy_from_slice(&kept[start..start + keep.len()]);
            }
            None => self.drawing.fill(surface, start, add, keep),
        }
    }
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
            Field::Drawn(drawn) => drawn.hash(),
            Field::Pinned(_, Lays::Value, hash) => Some(hash),
            _ => None,
        }
    }

    /// Whether it is drawn over the mask that stands before it, where it would take its place.
    pub fn lies_over(&self) -> bool {
        matches!(self, Field::Drawn(_) | Field::Pinned(..))
    }

    /// Draws over the mask of the covered texels from `start` on; what isn't drawn leaves it as it is.
    pub fn over(&self, surface: &Surface, fields: &dyn Fields, start: usize, m: &mut [f32]) {
        let (mut a, mut b) = ([0.0f32; BATCH], [0.0f32; BATCH]);
        let (a, b) = (&mut a[..m.len()], &mut b[..m.len()]);
        match self {
            Field::Drawn(drawn) => {
                drawn.fill(surface, fields, start, a, b);
                m.iter_mut().zip(a).zip(b).for_each(|((m, add), keep)| *m = *m * *keep + *add);
            }
            Field::Pinned(pinned, ..) => {
                pinned.lay(surface, start, a, b);
                m.iter_mut().zip(a).zip(b).for_each(|((m, value), weight)| *m += (*value - *m) * *weight);
            }
            _ => {}
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
            Field::Painted(painted) => painted.fill(&surface.atlas, start, out),
            Field::Nothing => out.fill(0.0),
            Field::Pattern(pattern, hash) => match fields.plane(hash) {
                Some(plane) => copy(plane, out),
                None => pattern.fill(surface, start, out),
            },
            Field::Drawn(drawn) => {
                let mut keep = [0.0f32; BATCH];
                drawn.fill(surface, fields, start, out, &mut keep[..out.len()]);
            }
            Field::Pinned(pinned, lays, hash) => match (lays, fields.plane(hash)) {
                (Lays::Value, Some(plane)) => copy(plane, out),
                (lays, _) => {
                    let mut weight = [0.0f32; BATCH];
                    let weight = &mut weight[..out.len()];
                    pinned.lay(surface, start, out, weight);
                    if let Lays::Mask(_) = lays {
                        out.iter_mut().zip(weight).for_each(|(v, w)| *v *= *w);
                    }
                }
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

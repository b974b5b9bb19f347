//! Run: streaks that run from the mask down the piece.
//!
//! Each texel goes up the surface against the flow and takes on what the mask holds where a streak begins, if the streak comes down that far. A streak begins where a
//! noise that is drawn out along the flow stands high; its middle comes furthest, so it thins out to a point. Where the surface lies nearly level the way goes on
//! as it came for a little, over the edge of a ledge.

use std::sync::Arc;

use glam::Vec3;
use rayon::prelude::*;

use super::{Given, Shaper, Work};
use crate::bake::Surface;
use crate::bake::levels::{down, up};
use crate::bake::links::{Walker, in_texels, normal};
use crate::lattice::{octaves, seed_spec, sum};
use crate::mask::field::BATCH;
use crate::setting::{ParamSpec, Resolved};
use crate::task::{Cancel, Cancelled};

pub static SHAPER: Shaper = Shaper {
    kind: "run",
    label: "Run",
    help: "Streaks that run from the mask down the piece: rust below bolts, soot below vents, rain on a dusty side.",
    specs: || {
        vec![
            ParamSpec::length("length", "Length", (1.0, 2000.0), 60.0, "How far the longest streaks come."),
            ParamSpec::length("width", "Width", (0.2, 200.0), 4.0, "Width of a streak where it begins."),
            ParamSpec::share("density", "Density", 0.45, "How much of the mask sends streaks down."),
            ParamSpec::share("wander", "Wander", 0.2, "How far streaks stray to the side."),
            ParamSpec::share("fade", "Fade", 0.6, "How much weaker a streak is at its end."),
            ParamSpec::choice(
                "towards",
                "Towards",
                &[("down", "down"), ("up", "up"), ("x", "x"), ("-x", "against x"), ("z", "z"), ("-z", "against z")],
                "Which way they run: gravity, rising soot, or the wind.",
            ),
            ParamSpec::choice(
                "keep",
                "Gives",
                &[("both", "mask and streaks"), ("streaks", "streaks alone")],
                "Whether what sends them down stays in the mask.",
            ),
            seed_spec(),
        ]
    },
    work: |s| {
        let run = Run::new(s);
        Work::whole(move |surface, mask, given| {
            let levels = surface.down_to(run.width * 0.5);
            let streaks = run.streaks(levels[levels.len() - 1], &down(&levels, mask), given)?;
            let streaks = up(&levels, streaks);
            Ok(if run.keep { streaks.iter().zip(mask).map(|(s, m)| s.max(*m)).collect() } else { streaks })
        })
    },
};

struct Run {
    length: f32,
    width: f32,
    density: f32,
    wander: f32,
    fade: f32,
    flow: Vec3,
    keep: bool,
    seed: u32,
}

/// Below this sine of the slope the surface counts as level.
const LEVEL: f32 = 0.12;

impl Run {
    fn new(s: &Resolved) -> Self {
        Self {
            length: s.number("length"),
            width: s.number("width"),
            density: s.number("density"),
            wander: s.number("wander"),
            fade: s.number("fade"),
            flow: match s.text("towards") {
                "up" => Vec3::Y,
                "x" => Vec3::X,
                "-x" => Vec3::NEG_X,
                "z" => Vec3::Z,
                "-z" => Vec3::NEG_Z,
                _ => Vec3::NEG_Y,
            },
            keep: s.text("keep") != "streaks",
            seed: s.integer("seed"),
        }
    }

    /// Noise at each texel's place, drawn out `along` times in the direction of the flow.
    fn noise(&self, surface: &Surface, size: f32, count: u32, along: f32, salt: u32) -> Vec<f32> {
        let a = &surface.atlas;
        let squeezed = |axis: usize, v: &[f32]| -> Vec<f32> {
            let by = if self.flow[axis] == 0.0 { 1.0 } else { 1.0 / along };
            v.iter().map(|c| c * by).collect()
        };
        let mut out = vec![0.0; a.len()];
        let octaves = octaves(size, count, 2.0, 0.5, self.seed ^ salt, 1.0);
        sum(&octaves, &squeezed(0, &a.px), &squeezed(1, &a.py), &squeezed(2, &a.pz), &mut out);
        out
    }

    /// How strong a streak is that comes so far, after it has gone a part of that, both in mm.
    fn strength(&self, gone: f32, comes: f32) -> f32 {
        let left = 1.0 - gone / comes;
        (left * 4.0).min(1.0) * (1.0 - self.fade * (1.0 - left))
    }

    /// What the ways of streaks hang on, as a name: all settings but those that only say how strong they are.
    fn key(&self, stride: f32) -> String {
        let Self { length, width, density, wander, flow, seed, .. } = self;
        format!("run/{stride}/{length}/{width}/{density}/{wander}/{flow}/{seed}")
    }

    fn streaks(&self, surface: &Surface, mask: &[f32], given: &Given) -> Result<Vec<f32>, Cancelled> {
        let key = self.key(surface.atlas.texel_length);
        if let Some(ways) = given.keeper.kept(&key).and_then(|kept| kept.downcast::<Ways>().ok()) {
            return self.along(&ways, mask, given.cancel);
        }
        let flow = self.flow_on(surface);
        // The second time somebody is likely to be dragging something below: then the ways are worth finding in full, for no mask changes them.
        let again = format!("{key}/again");
        let expected = surface.atlas.len() as f32 * (self.length / surface.atlas.texel_length) * self.density * 0.5;
        if given.keeper.kept(&again).is_some() && expected * 8.0 < given.keeper.room() as f32 * 0.1 {
            let ways = Arc::new(self.ways(surface, flow, given.cancel)?);
            given.keeper.keep(key, ways.clone(), ways.bytes());
            return self.along(&ways, mask, given.cancel);
        }
        given.keeper.keep(again, Arc::new(()), 1);
        let reach = &flow.reach;
        let (longest, strongest) = self.at_most(reach, mask);
        let one = |i: usize| {
            if i.is_multiple_of(1024) {
                given.cancel.check()?;
            }
            let mut best = Self::begins(reach[i], mask[i]);
            if best < strongest * self.strength(0.0, longest) {
                self.walk(surface, &flow, i, longest, |here, gone| {
                    best = best.max(self.comes_down(reach[here], mask[here], gone));
                    best < strongest * self.strength(gone, longest)
                });
            }
            Ok(best)
        };
        (0..surface.atlas.len()).into_par_iter().with_min_len(512).map(one).collect()
    }

    /// How strong a streak is where it begins.
    fn begins(reach: f32, mask: f32) -> f32 {
        mask * (reach * 4.0).min(1.0)
    }

    /// How strong a streak is that has come down so far from a texel.
    fn comes_down(&self, reach: f32, mask: f32, gone: f32) -> f32 {
        let comes = self.length * reach;
        if comes <= gone {
            return 0.0;
        }
        mask * self.strength(gone, comes) * (reach * 6.0).min(1.0)
    }

    /// The longest streak that there is, and the strongest mask that sends one down: nothing stronger than that comes from farther away.
    fn at_most(&self, reach: &[f32], mask: &[f32]) -> (f32, f32) {
        let sources = || mask.iter().zip(reach).filter(|(m, r)| **m > 0.0 && **r > 0.0);
        (self.length * sources().map(|s| *s.1).fold(0.0, f32::max), sources().map(|s| *s.0).fold(0.0, f32::max))
    }

    /// What the surface and the settings say, whatever the mask holds.
    fn flow_on(&self, surface: &Surface) -> Flow {
        let stride = surface.atlas.texel_length;
        let start = self.noise(surface, self.width * 1.6, 2, 8.0, 0x11);
        let cut = cut_for(self.density);
        let reach: Vec<f32> = start.iter().map(|n| ((n - cut) / (0.75 - cut).max(0.2)).clamp(0.0, 1.0)).collect();
        let stray = self.noise(surface, self.width * 5.0, 2, 3.0, 0x77);
        let against = -self.flow;
        let leave = |i: usize| {
            let n = normal(surface, i as u32);
            let slope = against - n * n.dot(against);
            if slope.length() <= LEVEL {
                return None;
            }
            let up = slope.normalize();
            let way = (up + n.cross(up) * stray[i] * self.wander * 2.0).normalize();
            in_texels(surface, i as u32, way * stride).map(|by| (by, way))
        };
        let leaves = (0..surface.atlas.len()).into_par_iter().with_min_len(4096).map(leave).collect();
        Flow { reach, leaves }
    }

    /// Goes up the surface against the flow from a texel, as far as `longest` mm: `meet` is told of each texel on the way and how far it lies, and says whether to go on.
    fn walk(
        &self,
        surface: &Surface,
        flow: &Flow,
        from: usize,
        longest: f32,
        mut meet: impl FnMut(usize, f32) -> bool,
    ) {
        let (links, stride) = (surface.links(), surface.atlas.texel_length);
        let (mut walker, mut gone, mut level, mut before) = (Walker::at(from as u32), 0.0f32, 0.0f32, Vec3::ZERO);
        while gone < longest {
            let goes_on = match flow.leaves[walker.texel as usize] {
                Some((by, way)) => {
                    (level, before) = (0.0, way);
                    walker.shift(surface, links, by)
                }
                // A little way over a ledge's edge, and no further.
                None => {
                    let n = normal(surface, walker.texel);
                    level += stride;
                    before = (before - n * n.dot(before)).normalize_or_zero();
                    level <= 2.0 * self.width && walker.step(surface, links, before * stride)
                }
            };
            if !goes_on {
                return;
            }
            gone += stride;
            if !meet(walker.texel as usize, gone) {
                return;
            }
        }
    }

    /// Every texel's way, in full: what could send a streak down to it.
    fn ways(&self, surface: &Surface, flow: Flow, cancel: &Cancel) -> Result<Ways, Cancelled> {
        let longest = self.length * flow.reach.iter().copied().fold(0.0, f32::max);
        let starts: Vec<usize> = (0..surface.atlas.len()).step_by(BATCH).collect();
        let some = |start: &usize| {
            cancel.check()?;
            let mut met = Met { ends: vec![], all: vec![] };
            for i in *start..(*start + BATCH).min(surface.atlas.len()) {
                self.walk(surface, &flow, i, longest, |here, gone| {
                    if self.length * flow.reach[here] > gone {
                        met.all.push((here as u32, gone));
                    }
                    true
                });
                met.ends.push(met.all.len());
            }
            Ok(met)
        };
        Ok(Ways { batches: starts.par_iter().map(some).collect::<Result<_, _>>()?, reach: flow.reach })
    }

    /// The streaks of a mask where all ways are known.
    fn along(&self, ways: &Ways, mask: &[f32], cancel: &Cancel) -> Result<Vec<f32>, Cancelled> {
        let reach = &ways.reach;
        let (longest, strongest) = self.at_most(reach, mask);
        let mut out = vec![0.0f32; mask.len()];
        let batches = out.par_chunks_mut(BATCH).zip(&ways.batches).enumerate();
        batches.try_for_each(|(b, (out, met))| {
            cancel.check()?;
            let mut first = 0;
            for (k, (out, end)) in out.iter_mut().zip(&met.ends).enumerate() {
                let i = b * BATCH + k;
                let mut best = Self::begins(reach[i], mask[i]);
                for (here, gone) in &met.all[first..*end] {
                    if best >= strongest * self.strength(*gone, longest) {
                        break;
                    }
                    best = best.max(self.comes_down(reach[*here as usize], mask[*here as usize], *gone));
                }
                (*out, first) = (best, *end);
            }
            Ok(())
        })?;
        Ok(out)
    }
}

/// What the surface and the settings say, whatever the mask holds.
struct Flow {
    /// Share of the length that a streak from each texel comes down: none where it has no streak.
    reach: Vec<f32>,
    /// Which way each texel is left against the flow; none where it lies nearly level.
    leaves: Vec<Option<([f32; 2], Vec3)>>,
}

/// Every texel's way up the surface: kept while what runs down it changes.
struct Ways {
    reach: Vec<f32>,
    /// Of each batch of texels.
    batches: Vec<Met>,
}

/// What is met on the ways of a batch of texels.
struct Met {
    /// Where each texel's way ends in `all`.
    ends: Vec<usize>,
    /// Texels, one way after the other, and how far each lies, in mm.
    all: Vec<(u32, f32)>,
}

impl Ways {
    fn bytes(&self) -> u64 {
        let batches = self.batches.iter().map(|met| (met.ends.len() + met.all.capacity()) * 8);
        (batches.sum::<usize>() + self.reach.len() * 4) as u64
    }
}

/// The noise value above which about that share of it lies: it is nearly normal with a deviation of 0.27.
fn cut_for(share: f32) -> f32 {
    // A logistic stands in for the normal's quantile: within 0.02 for shares from 0.02 to 0.98.
    let p = share.clamp(0.005, 0.995);
    0.27 * 0.588 * libm::logf((1.0 - p) / p)
}

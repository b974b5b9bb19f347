//! Run: streaks that run from the mask down the piece.
//!
//! Each texel goes up the surface against the flow and takes on what the mask holds where a streak begins, if the streak comes down that far. A streak begins where a
//! noise that is drawn out along the flow stands high; its middle comes furthest, so it thins out to a point. Where the surface lies nearly level the way goes on
//! as it came for a little, over the edge of a ledge.

use glam::Vec3;
use rayon::prelude::*;

use super::{Shaper, Work};
use crate::bake::Surface;
use crate::bake::levels::{down, up};
use crate::bake::links::{Walker, in_texels, normal};
use crate::pattern::lattice::{octaves, seed_spec, sum};
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
        Work::whole(move |surface, mask, cancel| {
            let levels = surface.down_to(run.width * 0.5);
            let streaks = run.streaks(levels[levels.len() - 1], &down(&levels, mask), cancel)?;
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

    fn streaks(&self, surface: &Surface, mask: &[f32], cancel: &Cancel) -> Result<Vec<f32>, Cancelled> {
        let (links, stride) = (surface.links(), surface.atlas.texel_length);
        // Share of the length that a streak from each texel comes down: none where it has no streak.
        let start = self.noise(surface, self.width * 1.6, 2, 8.0, 0x11);
        let cut = cut_for(self.density);
        let reach: Vec<f32> = start.iter().map(|n| ((n - cut) / (0.75 - cut).max(0.2)).clamp(0.0, 1.0)).collect();
        let stray = self.noise(surface, self.width * 5.0, 2, 3.0, 0x77);
        let against = -self.flow;
        // Which way each texel is left against the flow; none where it lies nearly level.
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
        let ways: Vec<Option<([f32; 2], Vec3)>> =
            (0..surface.atlas.len()).into_par_iter().with_min_len(4096).map(leave).collect();
        // The longest streak that there is, and the strongest mask that sends one down: nothing stronger than that comes from farther away.
        let sources = || mask.iter().zip(&reach).filter(|(m, r)| **m > 0.0 && **r > 0.0);
        let longest = self.length * sources().map(|s| *s.1).fold(0.0, f32::max);
        let strongest = sources().map(|s| *s.0).fold(0.0, f32::max);
        let one = |i: usize| {
            if i.is_multiple_of(1024) {
                cancel.check()?;
            }
            let (mut walker, mut gone, mut level) = (Walker::at(i as u32), 0.0f32, 0.0f32);
            let (mut best, mut before) = (mask[i] * (reach[i] * 4.0).min(1.0), Vec3::ZERO);
            while gone < longest && best < strongest * self.strength(gone, longest) {
                let goes_on = match ways[walker.texel as usize] {
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
                    break;
                }
                gone += stride;
                let here = walker.texel as usize;
                let comes = self.length * reach[here];
                if comes <= gone {
                    continue;
                }
                best = best.max(mask[here] * self.strength(gone, comes) * (reach[here] * 6.0).min(1.0));
            }
            Ok(best)
        };
        (0..surface.atlas.len()).into_par_iter().with_min_len(512).map(one).collect()
    }
}

/// The noise value above which about that share of it lies: it is nearly normal with a deviation of 0.27.
fn cut_for(share: f32) -> f32 {
    // A logistic stands in for the normal's quantile: within 0.02 for shares from 0.02 to 0.98.
    let p = share.clamp(0.005, 0.995);
    0.27 * 0.588 * libm::logf((1.0 - p) / p)
}

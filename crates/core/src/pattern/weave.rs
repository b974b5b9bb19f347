//! Weave: warp and weft threads that go over and under each other.

use multiversion::multiversion;

use crate::lattice::{cell, clamp, hash, seed_spec, unit, value_noise};

use super::{Field, Pattern};
use crate::setting::{ParamSpec, Resolved};

/// The pattern.
pub static PATTERN: Pattern = Pattern {
    kind: "weave",
    label: "Weave",
    help: "Woven threads, over and under: canvas, sacking, a bench cloth. 1 on the crest of a thread, 0 in the gaps.",
    axes: super::Axes::Two,
    specs,
    field: |s| Box::new(Weave::new(s)),
};

fn specs() -> Vec<ParamSpec> {
    vec![
        ParamSpec::choice(
            "output",
            "Gives",
            &[("height", "height of the thread"), ("warp", "warp threads only"), ("thread", "random per thread")],
            "Which number of the weave is taken.",
        ),
        ParamSpec::choice(
            "binding",
            "Binding",
            &[("plain", "plain"), ("twill", "twill 2/2"), ("basket", "basket")],
            "How the threads cross.",
        ),
        ParamSpec::length("size", "Thread", (0.05, 200.0), 2.0, "From one thread to the next."),
        ParamSpec::share("width", "Width", 0.85, "Width of a thread as a share of that."),
        ParamSpec::share("uneven", "Uneven", 0.3, "How unlike each other the threads are."),
        seed_spec(),
    ]
}

struct Weave {
    output: u8,
    binding: u8,
    frequency: f32,
    width: f32,
    uneven: f32,
    seed: u32,
}

impl Weave {
    fn new(s: &Resolved) -> Self {
        Self {
            output: match s.text("output") {
                "warp" => 1,
                "thread" => 2,
                _ => 0,
            },
            binding: match s.text("binding") {
                "twill" => 1,
                "basket" => 2,
                _ => 0,
            },
            frequency: 1.0 / s.number("size").max(1e-3),
            width: s.number("width").max(0.05),
            uneven: s.number("uneven"),
            seed: s.integer("seed").wrapping_mul(0xc2b2_ae35),
        }
    }

    /// Whether the warp lies on top where warp thread i crosses weft thread j.
    #[inline(always)]
    fn warp_on_top(&self, i: u32, j: u32) -> bool {
        match self.binding {
            1 => (i.wrapping_add(j) & 3) < 2,
            2 => ((i >> 1).wrapping_add(j >> 1)) & 1 == 0,
            _ => i.wrapping_add(j) & 1 == 0,
        }
    }

    /// Height of a thread 0…1 at `across` its middle (−½…½) and `along` in a crossing (0…1), under the crossings before, here and after.
    #[inline(always)]
    fn thread(&self, across: f32, along: f32, over: [bool; 3], fat: f32) -> f32 {
        let half = 0.5 * self.width * fat;
        let a = across / half;
        if a.abs() >= 1.0 {
            return 0.0;
        }
        // Half-way to the neighbouring crossing the thread is half-way up.
        let level = |o: bool| if o { 1.0 } else { 0.0 };
        let here = level(over[1]);
        let (to, t) = if along < 0.5 { (level(over[0]), 0.5 - along) } else { (level(over[2]), along - 0.5) };
        let height = here + (to - here) * t * t * 2.0;
        (1.0 - a * a).sqrt() * (0.45 + 0.55 * height)
    }
}

impl Field for Weave {
    fn sample(&self, x: &[f32], y: &[f32], _: &[f32], out: &mut [f32]) {
        sample(self, x, y, out);
    }
}

#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
fn sample(s: &Weave, x: &[f32], y: &[f32], out: &mut [f32]) {
    let (x, y) = (&x[..out.len()], &y[..out.len()]);
    for (i, v) in out.iter_mut().enumerate() {
        let (u, w) = (x[i] * s.frequency, y[i] * s.frequency);
        let wobble = |t: f32, k: u32| (value_noise(t * 0.21, k as f32 * 7.3, 0.5, s.seed ^ k) - 0.5) * s.uneven * 0.35;
        let ((fu, iu), (fw, iw)) = (cell(u + wobble(w, 1)), cell(w + wobble(u, 2)));
        let fat = |n: u32, side: u32| 1.0 - s.uneven * 0.45 * unit(hash(n, side, 0, s.seed));
        let on = |di: i32, dj: i32| s.warp_on_top(iu.wrapping_add(di as u32), iw.wrapping_add(dj as u32));
        let warp = s.thread(fu - 0.5, fw, [on(0, -1), on(0, 0), on(0, 1)], fat(iu, 1));
        let weft = s.thread(fw - 0.5, fu, [!on(-1, 0), !on(0, 0), !on(1, 0)], fat(iw, 2));
        let warp_wins = warp > weft;
        *v = clamp(match s.output {
            1 => {
                if warp_wins {
                    1.0
                } else {
                    0.0
                }
            }
            2 if warp.max(weft) <= 0.0 => 0.0,
            2 => unit(if warp_wins { hash(iu, 1, 1, s.seed) } else { hash(iw, 2, 1, s.seed) }),
            _ => warp.max(weft),
        });
    }
}

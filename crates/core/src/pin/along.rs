//! A pin that is laid again and again along a stroke.

use super::frame::Frame;
use crate::lattice::{hash, next, unit};
use crate::setting::Resolved;
use crate::stroke::Point;

/// As many are laid for one step.
pub const MOST: usize = 20_000;

/// Where they lie: one at the beginning, and one after every `spacing` mm; up is across the stroke, to its left, so that letters read along it.
pub fn frames(way: &[Point], s: &Resolved) -> Vec<Frame> {
    let spacing = s.number("spacing").max(0.1);
    let mut out = vec![];
    if let [one] = way {
        out.push(by_chance(0, Frame::along(one.at, one.normal, one.normal.any_orthonormal_vector()), s));
    }
    // How far on from the beginning of a segment the next one lies.
    let mut next = 0.0;
    for [a, b] in way.array_windows() {
        let way = b.at - a.at;
        let length = way.length();
        while next <= length && length > 0.0 && out.len() < MOST {
            let t = next / length;
            let frame = Frame::along(a.at + way * t, a.normal.lerp(b.normal, t), way);
            out.push(by_chance(out.len() as u32, frame, s));
            next += spacing;
        }
        next -= length;
    }
    out
}

/// Strayed, turned and smaller by chance, as far as the settings let it be.
fn by_chance(k: u32, frame: Frame, s: &Resolved) -> Frame {
    let mut h = hash(k, 31, 7, s.integer("seed").wrapping_mul(0x9e37_79b1));
    let mut chance = || {
        h = next(h);
        unit(h) * 2.0 - 1.0
    };
    let scatter = s.number("scatter");
    let (right, up) = (chance() * scatter, chance() * scatter);
    let turn = s.number("turn") + chance() * s.number("stray");
    let size = 1.0 - s.number("unlike") * (0.5 + 0.5 * chance());
    frame.moved(right, up).turned(turn).sized(size)
}

//! Round bars along a path: bails, bars of a cage, cables, links of a chain.

use std::f32::consts::TAU;

use glam::{Quat, Vec3};

use super::sweep::{Flat, LONGEST};

/// Points around a bar.
pub(super) const BAR: usize = 16;
/// Radius of a strand as a share of its rope's: three that touch, pressed together a little.
pub(super) const STRAND: f32 = 0.49;
/// After how many of its radii a rope's strands have gone round once.
const LAY: f32 = 7.5;
/// Points of a strand for each time that it goes round.
const POINTS: f32 = 11.0;

/// A smooth path through some points: a Catmull-Rom spline, `steps` points to a span; closed, it comes back to the first.
pub fn smooth(through: &[Vec3], steps: usize, closed: bool) -> Vec<Vec3> {
    let n = through.len() as isize;
    let at = |i: isize| through[if closed { i.rem_euclid(n) } else { i.clamp(0, n - 1) } as usize];
    let spans = if closed { n } else { n - 1 };
    let mut out: Vec<Vec3> = (0..spans)
        .flat_map(|i| (0..steps).map(move |k| (i, k as f32 / steps as f32)))
        .map(|(i, t)| {
            let [a, b, c, d] = [at(i - 1), at(i), at(i + 1), at(i + 2)];
            0.5 * (2.0 * b
                + (c - a) * t
                + (2.0 * a - 5.0 * b + 4.0 * c - d) * t * t
                + (3.0 * (b - c) + d - a) * t * t * t)
        })
        .collect();
    if !closed {
        out.push(at(n - 1));
    }
    out
}

/// Directions along a path at each of its points, and one across it that turns as little as it can; closed, the turn that is left over is spread along it.
fn frames(path: &[Vec3], closed: bool) -> Vec<(Vec3, Vec3)> {
    let n = path.len();
    let along = |i: usize| {
        let (before, after) = if closed {
            (path[(i + n - 1) % n], path[(i + 1) % n])
        } else {
            (path[i.saturating_sub(1)], path[(i + 1).min(n - 1)])
        };
        (after - before).normalize()
    };
    let mut across = along(0).any_orthonormal_vector();
    let mut out = vec![(along(0), across)];
    for i in 1..n {
        across = Quat::from_rotation_arc(along(i - 1), along(i)) * across;
        out.push((along(i), across));
    }
    if closed {
        let last = Quat::from_rotation_arc(along(n - 1), along(0)) * across;
        let (first, axis) = (out[0].1, along(0));
        let off = libm::atan2f(last.cross(first).dot(axis), last.dot(first));
        for (i, (along, across)) in out.iter_mut().enumerate() {
            *across = Quat::from_axis_angle(*along, off * i as f32 / n as f32) * *across;
        }
    }
    out
}

/// A path with its points at even distances, about `step` apart; closed, the last is as far from the first.
fn even(path: &[Vec3], step: f32, closed: bool) -> Vec<Vec3> {
    let ends = if closed { path.len() } else { path.len() - 1 };
    let sides: Vec<[Vec3; 2]> = (0..ends).map(|i| [path[i], path[(i + 1) % path.len()]]).collect();
    let length: f32 = sides.iter().map(|[a, b]| a.distance(*b)).sum();
    let count = (length / step).ceil().max(1.0) as usize;
    let (mut side, mut before) = (0, 0.0);
    let mut out = vec![];
    for k in 0..if closed { count } else { count + 1 } {
        let at = length * k as f32 / count as f32;
        while side + 1 < sides.len() && before + sides[side][0].distance(sides[side][1]) < at {
            before += sides[side][0].distance(sides[side][1]);
            side += 1;
        }
        let [a, b] = sides[side];
        out.push(a.lerp(b, ((at - before) / a.distance(b).max(1e-6)).clamp(0.0, 1.0)));
    }
    out
}

/// The middle lines of the three strands that a rope of radius `radius` is laid of; closed, they come back to where they began.
pub fn strands(path: &[Vec3], radius: f32, closed: bool) -> Vec<Vec<Vec3>> {
    let lay = LAY * radius;
    let path = even(path, lay / POINTS, closed);
    let frames = frames(&path, closed);
    let rings = if closed { path.len() } else { path.len() - 1 };
    let turns = rings as f32 / POINTS;
    // A strand that comes back a third of a turn on would be another one.
    let turns = if closed { turns.round().max(1.0) } else { turns };
    let strand = |k: usize| {
        let one = |(i, (p, (along, across))): (usize, (&Vec3, &(Vec3, Vec3)))| {
            let turn = (turns * i as f32 / rings as f32 + k as f32 / 3.0) * TAU;
            let other = along.cross(*across);
            *p + (*across * libm::cosf(turn) + other * libm::sinf(turn)) * radius * (1.0 - STRAND)
        };
        path.iter().zip(&frames).enumerate().map(one).collect()
    };
    (0..3).map(strand).collect()
}

/// A bar of radius `bar` along a path, `around` points around it, in strips of at most [`LONGEST`] mm. The ends of an open one are open: they are sunk into
/// something.
pub fn tube_of(path: &[Vec3], bar: f32, around: usize, closed: bool) -> Vec<Flat> {
    let frames = frames(path, closed);
    let count = if closed { path.len() + 1 } else { path.len() };
    let ring = |i: usize| {
        let (p, (along, across)) = (path[i % path.len()], frames[i % path.len()]);
        let other = along.cross(across);
        (0..=around).map(move |j| {
            let turn = j as f32 / around as f32 * TAU;
            p + (across * libm::cosf(turn) + other * libm::sinf(turn)) * bar
        })
    };
    let mut strips = vec![];
    let (mut from, mut length) = (0, 0.0);
    for i in 1..count {
        length += path[i % path.len()].distance(path[i - 1]);
        if i < count - 1 && length < LONGEST {
            continue;
        }
        let mut out = Flat { upright: true, ..Flat::default() };
        let mut at = 0.0;
        for k in from..=i {
            at += if k > from { path[k % path.len()].distance(path[k - 1]) } else { 0.0 };
            for (j, p) in ring(k).enumerate() {
                out.positions.push(p);
                out.flat.push(glam::Vec2::new(at, j as f32 / around as f32 * TAU * bar));
            }
        }
        for k in 0..(i - from) as u32 {
            for j in 0..around as u32 {
                let a = k * (around as u32 + 1) + j;
                let b = a + around as u32 + 1;
                out.triangles.extend([[a, a + 1, b], [b, a + 1, b + 1]]);
            }
        }
        strips.push(out);
        (from, length) = (i, 0.0);
    }
    strips
}
